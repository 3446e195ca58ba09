import type * as z from 'zod';
import { formatShort } from '../../base';
import { afterHeights, onRows, tell } from '../heights';
import { ORDER, type Operation } from '../operation';
import type { despikeSchema } from './schema';

/** The middle of some numbers, the first `count` of an array, which is put in order; of an even count between the middle two. */
function medianOf(list: Float64Array, count: number): number {
  for (let i = 1; i < count; i++) {
    const value = list[i]!;
    let k = i - 1;
    for (; k >= 0 && list[k]! > value; k--) list[k + 1] = list[k]!;
    list[k + 1] = value;
  }
  const half = count >> 1;
  return count & 1 ? list[half]! : (list[half - 1]! + list[half]!) / 2;
}

/** Spikes and pits: only what sticks out of its 3 × 3 changes (median test; J. Tukey, 1977). */
export const despike: Operation<z.infer<typeof despikeSchema>, { readonly threshold: number }> = {
  words: ({ threshold }) => `spikes and pits of more than ${formatShort(threshold)} m taken out`,
  order: ORDER.heights,
  plan: (stage, { threshold }, { unitOf }) => ({
    stage: afterHeights(stage, 'spikes taken out'),
    resolved: { threshold: threshold / unitOf(stage) },
  }),
  open: (input, { threshold }, stage, tally) =>
    onRows(
      input,
      afterHeights(stage, 'spikes taken out').info,
      1,
      (width, told) => {
        const list = new Float64Array(9);
        return (rows, out) => {
          const around = [rows(-1), rows(0), rows(1)].filter((row) => row !== null);
          const own = rows(0)!;
          for (let x = 0; x < width; x++) {
            const value = own[x]!;
            out[x] = value;
            if (value !== value) continue;
            const [from, to] = [x > 0 ? x - 1 : 0, x + 1 < width ? x + 1 : x];
            let count = 0;
            let far = false;
            for (const row of around)
              for (let c = from; c <= to; c++) {
                const other = row[c]!;
                if (other !== other) continue;
                list[count++] = other;
                if (other - value > threshold || value - other > threshold) far = true;
              }
            // no neighbour lies that far away: nor does the middle of them
            if (!far) continue;
            const median = medianOf(list, count);
            if (!(Math.abs(value - median) > threshold)) continue;
            out[x] = median;
            tell(told, value, out[x]!);
          }
        };
      },
      tally,
    ),
};
