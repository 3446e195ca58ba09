import type * as z from 'zod';
import { formatShort } from '../../base';
import {
  curveChange,
  highestStored,
  isTabled,
  straightener,
  type Curve,
  type RasterInfo,
  type StoredSamples,
} from '../../raster';
import { NO_CHANGE, ORDER, type ChangeTally, type Operation, type StoredType } from '../operation';
import { pointwise } from '../pointwise';
import { outOfPlace } from '../refuse';
import type { lineariseSchema } from './schema';

/** What the shares of a linearised raster are: their ends are 0 and 1. */
const SHARES = { bitDepth: 32, sampleType: 'float' } as const;

/** A display curve undone: codes become shares of the height range, from 0 to 1. */
export const linearise: Operation<z.infer<typeof lineariseSchema>, { readonly curve: Curve }> = {
  words: ({ curve }) => `display curve undone (${curve === 'srgb' ? 'sRGB' : `power ${formatShort(curve, 4)}`})`,
  order: ORDER.samples,
  once: true,
  plan: (stage, { curve }) => {
    if (stage.metric)
      throw outOfPlace(
        'a display curve undone after the reprojection',
        'this step before the ground is made metric',
        'Move it up, before the reprojection.',
      );
    if (stage.mended)
      throw outOfPlace(
        'a display curve undone after a step that works with heights',
        'this step before those that change heights',
        'Move it up, before them.',
      );
    const { samples: _, ...rest } = stage;
    return {
      stage: { ...rest, asStored: false, ends: SHARES, info: { ...stage.info, ...SHARES, byteOrder: null } },
      resolved: { curve },
    };
  },
  open: ({ base, orientation }, { curve }, { ends }, tally) => {
    const straight = straightener(base.info, ends, curve);
    const info = { ...base.info, ...SHARES, byteOrder: null };
    const note = tally && noting(tally, base.info, ends, curve);
    return {
      base: pointwise(base, info, straight, (data) => {
        note?.(data);
        return straight(data);
      }),
      orientation,
      files: null,
    };
  },
};

/** Tells of each sample how much it changes, in codes, as heights that are linear stand for them. */
function noting(tally: ChangeTally, info: RasterInfo, ends: StoredType, curve: Curve): (data: StoredSamples) => void {
  const least = NO_CHANGE * highestStored(ends);
  const changeOf = curveChange(ends, curve);
  const add = (stored: number, times = 1): void => {
    const change = changeOf(stored);
    if (Math.abs(change) > least) tally.add(change, times);
  };
  if (!isTabled(info))
    return (data) => {
      for (let i = 0; i < data.length; i++) add(data[i] as number);
    };
  // a power for each code, not for each sample
  const times = new Uint32Array(highestStored(ends) + 1);
  tally.later(() => times.forEach((n, code) => add(code, n)));
  return (data) => (data instanceof Uint16Array ? count16(data, times) : count(data, times));
}

function count(data: StoredSamples, times: Uint32Array): void {
  for (let i = 0; i < data.length; i++) times[data[i] as number]!++;
}

/** The same in a loop that has met one type of array only, and is several times as fast. */
function count16(data: Uint16Array, times: Uint32Array): void {
  const n = data.length;
  for (let i = 0; i < n; i++) times[data[i]!]!++;
}
