import type { StepOf } from '../../../recipe';
import { moved } from './heights';
import type { TwinOperation } from './operation';

/** A part of the ground, its place and size in metres brought to the nearest samples. */
export const crop: TwinOperation<StepOf<'crop'>> = (before, { at: [east, south], size: [wide, tall] }, { spacing }) => {
  const near = (metres: number): number => Math.floor(metres / spacing + 0.5);
  const window = { column: near(east), row: near(south), width: near(wide) + 1, height: near(tall) + 1 };
  return { stage: moved(before, window, (grid, x, y) => grid.at[y * grid.width + x]!) };
};
