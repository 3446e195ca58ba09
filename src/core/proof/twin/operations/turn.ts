import type { StepOf } from '../../../recipe';
import { laid } from './laying';
import type { TwinOperation } from './operation';

/** A quarter clockwise: what lay in the west lies in the north, and the first row is the last column. */
const quarter = (column: number, row: number, _w: number, height: number): readonly [number, number] => [
  height - 1 - row,
  column,
];

export const turn: TwinOperation<StepOf<'turn'>> = (before, { quarters }) => {
  let stage = before;
  for (let i = 0; i < quarters; i++) stage = laid(stage, true, quarter);
  return { stage };
};
