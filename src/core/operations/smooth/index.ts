import type * as z from 'zod';
import { formatLength, formatShort, LevelGridError } from '../../base';
import { afterHeights, onRows, tell } from '../heights';
import { ORDER, type Operation } from '../operation';
import type { smoothSchema } from './schema';

/** Samples to either side beyond this many standard deviations weigh less than 1 in 2 000 and are left out. */
const REACH = 4;
/** Rows that are held at once. */
const MOST_REACH = 1024;

const reachOf = (sigma: number): number => Math.ceil(REACH * sigma);

/** Weights of a Gaussian at 0, 1, … samples from its middle. */
const weightsOf = (sigma: number): Float64Array =>
  Float64Array.from({ length: reachOf(sigma) + 1 }, (_, i) => Math.exp(-(i * i) / (2 * sigma * sigma)));

/** Sums of weight · height and of the weights of what holds a height, along a row. */
function along(row: Float64Array, weights: Float64Array, sums: Float64Array, present: Float64Array): void {
  const n = row.length;
  const reach = weights.length - 1;
  for (let x = 0; x < n; x++) {
    let sum = 0;
    let weight = 0;
    for (let c = Math.max(0, x - reach); c <= Math.min(n - 1, x + reach); c++) {
      const value = row[c]!;
      if (value !== value) continue;
      const w = weights[c < x ? x - c : c - x]!;
      sum += w * value;
      weight += w;
    }
    sums[x] = sum;
    present[x] = weight;
  }
}

/** Ground smoothed by a Gaussian over what is there; voids stay voids, and borders have nothing beyond them. */
export const smooth: Operation<z.infer<typeof smoothSchema>, { readonly sigma: number; readonly strength: number }> = {
  words: ({ radius, strength }) =>
    `smoothed over ${formatLength(radius)}${strength === 1 ? '' : `, ${formatShort(strength * 100, 1)} % of it`}`,
  order: ORDER.heights,
  plan: (stage, { radius, strength }) => {
    const sigma = radius / stage.spacing;
    if (reachOf(sigma) > MOST_REACH)
      throw new LevelGridError('too-large', {
        found: `a radius of ${formatLength(radius)}, ${formatShort(sigma, 1)} samples`,
        expected: `at most ${MOST_REACH / REACH} samples, ${formatLength((MOST_REACH / REACH) * stage.spacing)}`,
        remedy: 'Take a smaller radius.',
      });
    return { stage: afterHeights(stage, 'smoothing'), resolved: { sigma, strength } };
  },
  open: (input, { sigma, strength }, stage, tally) => {
    const weights = weightsOf(sigma);
    const reach = weights.length - 1;
    return onRows(
      input,
      afterHeights(stage, 'smoothing').info,
      reach,
      (width, told) => {
        // a row is weighed along itself once, though it goes into many
        const known = new Map<Float64Array, { sums: Float64Array; present: Float64Array }>();
        const weighed = (row: Float64Array, fresh: boolean): { sums: Float64Array; present: Float64Array } => {
          let found = known.get(row);
          if (!found) {
            found = { sums: new Float64Array(width), present: new Float64Array(width) };
            known.set(row, found);
            fresh = true;
          }
          if (fresh) along(row, weights, found.sums, found.present);
          return found;
        };
        let first = true;
        const sum = new Float64Array(width);
        const weight = new Float64Array(width);
        return (rows, out) => {
          sum.fill(0);
          weight.fill(0);
          for (let dy = -reach; dy <= reach; dy++) {
            const row = rows(dy);
            if (!row) continue;
            // of the rows around the one before only the last is new
            const { sums, present } = weighed(row, first || dy === reach);
            const w = weights[Math.abs(dy)]!;
            for (let x = 0; x < width; x++) {
              sum[x] = sum[x]! + w * sums[x]!;
              weight[x] = weight[x]! + w * present[x]!;
            }
          }
          first = false;
          const own = rows(0)!;
          for (let x = 0; x < width; x++) {
            const value = own[x]!;
            out[x] = value !== value ? NaN : value + strength * (sum[x]! / weight[x]! - value);
            if (value === value) tell(told, value, out[x]!);
          }
        };
      },
      tally,
    );
  },
};
