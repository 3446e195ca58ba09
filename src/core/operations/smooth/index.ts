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

/** What a row weighs along itself. */
interface Weighed {
  /** Sums of weight · height, and of the weights of what holds a height. */
  readonly sums: Float64Array;
  readonly present: Float64Array;
  /** The row has no voids: its weights are those of any such row. */
  whole: boolean;
}

function along(row: Float64Array, weights: Float64Array, into: Weighed): void {
  const { sums, present } = into;
  const n = row.length;
  into.whole = true;
  for (let x = 0; x < n; x++) if (row[x] !== row[x]) into.whole = false;
  if (into.whole) {
    spread(row, weights, sums);
    return;
  }
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

/** Each sample of a row without voids, let out to both sides. */
function spread(row: Float64Array, weights: Float64Array, sums: Float64Array): void {
  const n = row.length;
  const middle = weights[0]!;
  for (let x = 0; x < n; x++) sums[x] = middle * row[x]!;
  for (let k = 1; k < weights.length && k < n; k++) {
    const w = weights[k]!;
    for (let x = k; x < n; x++) sums[x] = sums[x]! + w * row[x - k]!;
    for (let x = n - k - 1; x >= 0; x--) sums[x] = sums[x]! + w * row[x + k]!;
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
        const known = new Map<Float64Array, Weighed>();
        const weighed = (row: Float64Array, fresh: boolean): Weighed => {
          let found = known.get(row);
          if (!found) {
            found = { sums: new Float64Array(width), present: new Float64Array(width), whole: true };
            known.set(row, found);
            fresh = true;
          }
          if (fresh) along(row, weights, found);
          return found;
        };
        const full = new Float64Array(width);
        spread(new Float64Array(width).fill(1), weights, full);
        let first = true;
        const sum = new Float64Array(width);
        const weight = new Float64Array(width);
        return (rows, out) => {
          sum.fill(0);
          weight.fill(0);
          // what rows without voids weigh, all together
          let whole = 0;
          for (let dy = -reach; dy <= reach; dy++) {
            const row = rows(dy);
            if (!row) continue;
            // of the rows around the one before only the last is new
            const line = weighed(row, first || dy === reach);
            const { sums, present } = line;
            const w = weights[Math.abs(dy)]!;
            for (let x = 0; x < width; x++) sum[x] = sum[x]! + w * sums[x]!;
            if (line.whole) whole += w;
            else for (let x = 0; x < width; x++) weight[x] = weight[x]! + w * present[x]!;
          }
          for (let x = 0; x < width; x++) weight[x] = weight[x]! + whole * full[x]!;
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
