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
        const low = new Float64Array(width);
        const high = new Float64Array(width);
        return (rows, out) => {
          const around = [rows(-1), rows(0), rows(1)].filter((row) => row !== null);
          const own = rows(0)!;
          // of three rows, the lowest and highest of each column: voids compare with nothing
          low.fill(Infinity);
          high.fill(-Infinity);
          for (const row of around)
            for (let x = 0; x < width; x++) {
              const value = row[x]!;
              if (value < low[x]!) low[x] = value;
              if (value > high[x]!) high[x] = value;
            }
          for (let x = 0; x < width; x++) {
            const value = own[x]!;
            out[x] = value;
            const [from, to] = [x > 0 ? x - 1 : 0, x + 1 < width ? x + 1 : x];
            const least = Math.min(low[from]!, low[x]!, low[to]!);
            const most = Math.max(high[from]!, high[x]!, high[to]!);
            // no neighbour lies that far away: nor does the middle of them
            if (!(value - least > threshold || most - value > threshold)) continue;
            let count = 0;
            for (const row of around) for (let c = from; c <= to; c++) if (row[c] === row[c]) list[count++] = row[c]!;
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
