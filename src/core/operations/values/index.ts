import type * as z from 'zod';
import { formatShort } from '../../base';
import { highestStored, lowestStored, type RasterInfo, type StoredSamples } from '../../raster';
import { ORDER, type ChangeTally, type Operation } from '../operation';
import { pointwiseAsStored, type Laid, type PointWork } from '../pointwise';
import { outOfPlace } from '../refuse';
import type { valuesSchema } from './schema';

type Params = z.infer<typeof valuesSchema>;

/** Stored values from `from` to `to`, and what they become, stored as well; null: voids. */
interface Resolved {
  readonly from: number;
  readonly to: number;
  readonly become: number | null;
}

/** True where samples of this type can hold such a value as it is. */
const holds = (info: RasterInfo, value: number): boolean =>
  info.sampleType === 'float' ||
  (Number.isInteger(value) && value >= lowestStored(info) && value <= highestStored(info));

/** What samples are afterwards: codes stay codes, but where voids or a value between two codes come in. */
function infoAfter(info: RasterInfo, become: number | null): RasterInfo {
  if (become === null) return { ...info, mayHoldVoids: true };
  return holds(info, become)
    ? info
    : { ...info, sampleType: 'float', bitDepth: info.bitDepth > 24 ? 64 : 32, byteOrder: null };
}

/** Room for samples that may be voids, or lie between codes, where the type of the file has none. */
function roomFor(data: StoredSamples, before: RasterInfo, after: RasterInfo): StoredSamples {
  if (data instanceof Float32Array || data instanceof Float64Array) return data.slice();
  if (after.sampleType === before.sampleType && !after.mayHoldVoids) return data.slice();
  const wide = after.sampleType === 'float' ? after.bitDepth > 32 : after.bitDepth > 16;
  return wide ? Float64Array.from(data) : Float32Array.from(data);
}

/** What it becomes as the file of the sample would store it. */
const becomes = ({ become }: Resolved, { factor, shift }: Laid): number | null =>
  become === null ? null : (become - shift) / factor;

function replacing(resolved: Resolved, before: RasterInfo, laid: Laid, tally: ChangeTally | undefined): PointWork {
  const { from, to } = resolved;
  const become = becomes(resolved, laid);
  const after = infoAfter(before, become);
  const value = become ?? NaN;
  return (data) => {
    const out = roomFor(data, before, after);
    for (let i = 0; i < data.length; i++) {
      const sample = data[i] as number;
      if (!(sample >= from && sample <= to)) continue;
      out[i] = value;
      tally?.add(laid.factor * (value - sample));
    }
    return out;
  };
}

export const values: Operation<Params, Resolved> = {
  order: ORDER.byValue,
  words: ({ from, to = from, become }) => {
    const one = to === from;
    const which = one ? `value ${formatShort(from, 6)}` : `values ${formatShort(from, 6)} to ${formatShort(to, 6)}`;
    const what = become === 'void' ? (one ? 'a void' : 'voids') : `${formatShort(become, 3)} m`;
    return `${which} ${one ? 'becomes' : 'become'} ${what}`;
  },
  plan: (stage, { from, to = from, become }, { storedOf }) => {
    if (!stage.asStored)
      throw outOfPlace(
        'samples chosen by their stored value after a step that mixes samples',
        'this step before all that mix them: each sample is then what its file holds',
        'Move it up, before blending, curve and reprojection.',
      );
    const { samples: _, ...rest } = stage;
    const resolved = { from, to, become: become === 'void' ? null : storedOf(become) };
    return { stage: { ...rest, info: infoAfter(stage.info, resolved.become) }, resolved };
  },
  open: (input, resolved, _stage, tally) =>
    pointwiseAsStored(
      input,
      (before, laid) => infoAfter(before, becomes(resolved, laid)),
      (before, laid, told) => replacing(resolved, before, laid, told),
      tally,
    ),
};
