import type { StepOf } from '../../../recipe';
import { changed, samplesOf, type Grid } from './heights';
import { distancesTo } from './distances';
import { Regions } from './regions';
import type { TwinOperation } from './operation';

/** Metres up for each metre across, over the neighbours that have a height. */
function slopeAt({ width, height, at }: Grid, i: number): number {
  const [x, y] = [i % width, Math.floor(i / width)];
  const height_ = (column: number, row: number): number =>
    column < 0 || row < 0 || column >= width || row >= height ? NaN : at[row * width + column]!;
  const axis = (before: number, after: number): number => {
    const own = at[i]!;
    if (Number.isNaN(before)) return Number.isNaN(after) ? 0 : after - own;
    return Number.isNaN(after) ? own - before : (after - before) / 2;
  };
  const across = axis(height_(x - 1, y), height_(x + 1, y));
  const down = axis(height_(x, y - 1), height_(x, y + 1));
  return Math.sqrt(across ** 2 + down ** 2);
}

/** Water found and filled a second time: by joining regions, and a distance of its own. */
export const sea: TwinOperation<StepOf<'sea'>> = (before, step, context) => {
  const { level, select, tolerance, maxSlope, become } = step;
  const { spacing } = context;
  return {
    stage: changed(before, context, (grid) => {
      const { width, height, at } = grid;
      const { unit, of } = samplesOf(context);
      const water = Array.from(at, (own, i) => {
        const under = tolerance === undefined ? own <= of(level) : Math.abs(own - of(level)) <= tolerance / unit;
        // of no number nothing holds
        return under && (maxSlope === undefined || (slopeAt(grid, i) * unit) / spacing <= maxSlope);
      });
      const regions = new Regions(grid, (i) => water[i]!);
      const wanted = new Set<number>();
      if (select === 'border')
        for (let i = 0; i < at.length; i++) {
          const [x, y] = [i % width, Math.floor(i / width)];
          if (x === 0 || y === 0 || x === width - 1 || y === height - 1) wanted.add(regions.regionOf(i));
        }
      else if (select !== 'all') {
        const [east, south] = select.spot.map((metres) => Math.floor(metres / spacing + 0.5)) as [number, number];
        wanted.add(regions.regionOf(south * width + east));
      }
      wanted.delete(-1);
      const chosen = water.map((wet, i) => wet && (select === 'all' || wanted.has(regions.regionOf(i))));
      if (typeof become === 'number') return at.map((own, i) => (chosen[i] ? of(become) : own));
      const shore = chosen.map((sunk, i) => !sunk && !Number.isNaN(at[i]));
      const away = distancesTo(shore, grid, become.depth / become.slope / spacing + 2);
      return at.map((own, i) =>
        chosen[i] ? of(level) - Math.min(become.depth, become.slope * spacing * away(i)) / unit : own,
      );
    }),
    counts: true,
  };
};
