import type { z } from 'zod';
import { formatShort } from '../../base';
import { highestStored, straightener, straightShare, type Curve } from '../../raster';
import { NO_CHANGE, ORDER, type Operation } from '../operation';
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
    const { samples: _, ...rest } = stage;
    return {
      stage: { ...rest, asStored: false, ends: SHARES, info: { ...stage.info, ...SHARES, byteOrder: null } },
      resolved: { curve },
    };
  },
  open: ({ base, orientation }, { curve }, { ends }, tally) => {
    const straight = straightener(base.info, ends, curve);
    const info = { ...base.info, ...SHARES, byteOrder: null };
    const top = highestStored(ends);
    return {
      base: pointwise(base, info, (data) => {
        const out = straight(data);
        // the change in codes, as heights that are linear stand for them
        if (tally)
          for (let i = 0; i < out.length; i++) {
            const change = straightShare((data[i] as number) / top, curve) * top - (data[i] as number);
            if (Math.abs(change) > NO_CHANGE * top) tally.add(change);
          }
        return out;
      }),
      orientation,
      files: null,
    };
  },
};
