import type { StepOf } from '../../../recipe';
import { changed, samplesOf, type Grid } from './heights';
import { Regions } from './regions';
import type { TwinOperation } from './operation';

/** The samples beside one: four at most. */
function neighbours({ width, height }: Grid, i: number): number[] {
  const [x, y] = [i % width, Math.floor(i / width)];
  return [
    ...(y > 0 ? [i - width] : []),
    ...(x > 0 ? [i - 1] : []),
    ...(x + 1 < width ? [i + 1] : []),
    ...(y + 1 < height ? [i + width] : []),
  ];
}

/** Each void with the samples that border on it. */
function voidsOf(grid: Grid): { readonly samples: readonly number[]; readonly border: readonly number[] }[] {
  const regions = new Regions(grid, (i) => Number.isNaN(grid.at[i]));
  return regions.all().map((samples) => {
    const border = new Set<number>();
    for (const i of samples) for (const j of neighbours(grid, i)) if (!Number.isNaN(grid.at[j])) border.add(j);
    return { samples, border: [...border] };
  });
}

/** Sweeps go on until no sample moves by more than this share of the range of the border. */
const STILL = 1e-12;

/**
 * The membrane by sweeps that overshoot (successive over-relaxation; D. Young, 1950): each sample is moved towards the
 * mean of those beside it, and beyond, until all lie there.
 */
function membrane(grid: Grid, at: Float64Array, samples: readonly number[], border: readonly number[]): void {
  const heights = border.map((i) => grid.at[i]!);
  const [low, high] = [
    heights.reduce((a, b) => Math.min(a, b), Infinity),
    heights.reduce((a, b) => Math.max(a, b), -Infinity),
  ];
  const middle = heights.reduce((a, b) => a + b, 0) / heights.length;
  for (const i of samples) at[i] = middle;
  const beside = samples.map((i) => Int32Array.from(neighbours(grid, i)));
  const xs = samples.map((i) => i % grid.width);
  const wide = xs.reduce((a, b) => Math.max(a, b), -Infinity) - xs.reduce((a, b) => Math.min(a, b), Infinity) + 2;
  const tall = Math.floor(samples.at(-1)! / grid.width) - Math.floor(samples[0]! / grid.width) + 2;
  // the best factor for a rectangle as large as the void
  const rate = (Math.cos(Math.PI / wide) + Math.cos(Math.PI / tall)) / 2;
  const factor = 2 / (1 + Math.sqrt(1 - rate * rate));
  const still = STILL * Math.max(high - low, 1e-9);
  for (let sweep = 0; sweep < 1e5; sweep++) {
    let largest = 0;
    samples.forEach((i, k) => {
      const near = beside[k]!;
      let sum = 0;
      for (const j of near) sum += at[j]!;
      const move = factor * (sum / near.length - at[i]!);
      at[i] = at[i]! + move;
      largest = Math.max(largest, Math.abs(move));
    });
    if (largest <= still) return;
  }
}

/** Voids filled a second time: found by joining samples, and filled by the definition of each way. */
export const fillVoids: TwinOperation<StepOf<'fill-voids'>> = (before, { method, elevation }, context) => ({
  stage: changed(before, context, (grid) => {
    const at = grid.at.slice();
    const { width } = grid;
    for (const { samples, border } of voidsOf(grid)) {
      if (elevation !== undefined) for (const i of samples) at[i] = samplesOf(context).of(elevation);
      else if (method === 'lowest') {
        const low = border.reduce((least, j) => Math.min(least, grid.at[j]!), Infinity);
        for (const i of samples) at[i] = low;
      } else if (method === 'distance')
        for (const i of samples) {
          let [sum, weight] = [0, 0];
          for (const j of border) {
            const away = (i % width) - (j % width);
            const down = Math.floor(i / width) - Math.floor(j / width);
            const share = 1 / (away ** 2 + down ** 2);
            sum += share * grid.at[j]!;
            weight += share;
          }
          at[i] = sum / weight;
        }
      else membrane(grid, at, samples, border);
    }
    return at;
  }),
  counts: true,
});
