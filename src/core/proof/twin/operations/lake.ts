import type { StepOf } from '../../../recipe';
import { changed, samplesOf } from './heights';
import { distancesTo } from './distances';
import { Regions } from './regions';
import type { TwinOperation } from './operation';

/** A flat lake given a bed a second time. */
export const lake: TwinOperation<StepOf<'lake'>> = (before, { spot, depth, banks }, context) => ({
  stage: changed(before, context, (grid) => {
    const { width, at } = grid;
    const { unit } = samplesOf(context);
    const [column, row] = spot.map((metres) => Math.floor(metres / context.spacing + 0.5)) as [number, number];
    const own = row * width + column;
    const level = at[own]!;
    // the same to a centimetre
    const regions = new Regions(grid, (i) => Math.abs(at[i]! - level) <= 0.01 / unit);
    const region = regions.regionOf(own);
    if (region < 0) return at.slice();
    const wet = Array.from(at, (_, i) => regions.regionOf(i) === region);
    const away = distancesTo(
      wet.map((w, i) => !w && !Number.isNaN(at[i])),
      grid,
      banks / context.spacing + 2,
    );
    return at.map((value, i) => {
      if (!wet[i]) return value;
      const share = banks === 0 ? 1 : Math.min(1, (away(i) * context.spacing) / banks);
      return level - (share * depth) / unit;
    });
  }),
  counts: true,
});
