import type * as z from 'zod';
import { formatShort } from '../../base';
import type { StoredSamples } from '../../raster';
import { afterHeights, floatsFor, tell } from '../heights';
import { ORDER, type ChangeTally, type Operation } from '../operation';
import { pointwise } from '../pointwise';
import type { rangeSchema } from './schema';

/** In samples of the stage: held within low and high, then value · factor + shift. */
interface Resolved {
  readonly low: number | null;
  readonly high: number | null;
  readonly factor: number;
  readonly shift: number;
}

/** Ends cut off, the base taken away, heights multiplied. */
export const range: Operation<z.infer<typeof rangeSchema>, Resolved> = {
  words: ({ low, high, base, factor }) =>
    [
      low === undefined ? '' : `nothing below ${formatShort(low)} m`,
      high === undefined ? '' : `nothing above ${formatShort(high)} m`,
      base === undefined ? '' : `counted from ${formatShort(base)} m`,
      factor === undefined ? '' : `heights × ${formatShort(factor, 6)}`,
    ]
      .filter((part) => part !== '')
      .join(', '),
  order: ORDER.heights,
  plan: (stage, { low, high, base = 0, factor = 1 }, { sampleOf }) => ({
    stage: afterHeights(stage, 'another range'),
    resolved: {
      low: low === undefined ? null : sampleOf(stage, low),
      high: high === undefined ? null : sampleOf(stage, high),
      factor,
      // (elevation − base) · factor, where a sample is (elevation − offset) / unit
      shift: sampleOf(stage, 0) - factor * sampleOf(stage, base),
    },
  }),
  open: ({ base, orientation }, { low, high, factor, shift }, stage, tally) => {
    const { info } = afterHeights(stage, 'another range');
    const work = (told?: ChangeTally) => (data: StoredSamples) => {
      const out = floatsFor(info, data.length);
      for (let i = 0; i < data.length; i++) {
        const value = data[i] as number;
        let next = value;
        if (value - value !== 0) next = NaN;
        else {
          if (low !== null && next < low) next = low;
          else if (high !== null && next > high) next = high;
          next = next * factor + shift;
        }
        out[i] = next;
        if (value - value === 0) tell(told, value, out[i]!);
      }
      return out;
    };
    return { base: pointwise(base, info, work(), work(tally)), orientation, files: null };
  },
};
