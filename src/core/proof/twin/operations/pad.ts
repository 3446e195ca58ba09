import type { StepOf } from '../../../recipe';
import { moved, samplesOf, type Grid } from './heights';
import type { TwinOperation } from './operation';

/** Where a place beyond an edge looks: to the edge, or as far inside as it lies outside, again and again. */
function lookUp(i: number, n: number, mirror: boolean): number {
  if (!mirror || n < 2) return Math.min(n - 1, Math.max(0, i));
  let at = i;
  while (at < 0 || at > n - 1) at = at < 0 ? -at : 2 * (n - 1) - at;
  return at;
}

/** Ground added around the ground a second time. */
export const pad: TwinOperation<StepOf<'pad'>> = (before, { by, with: how }, context) => {
  const near = (metres: number): number => Math.floor(metres / context.spacing + 0.5);
  const [north, west] = [near(by.north), near(by.west)];
  const ground = before.laid?.files ?? before;
  const value = (grid: Grid, x: number, y: number): number => {
    const inside = x >= 0 && y >= 0 && x < grid.width && y < grid.height;
    if (!inside && typeof how === 'number') return samplesOf(context).of(how);
    const [column, row] = [lookUp(x, grid.width, how === 'mirror'), lookUp(y, grid.height, how === 'mirror')];
    return grid.at[row * grid.width + column]!;
  };
  const window = {
    column: 0 - west,
    row: 0 - north,
    width: ground.width + west + near(by.east),
    height: ground.height + north + near(by.south),
  };
  return { stage: moved(before, window, value) };
};
