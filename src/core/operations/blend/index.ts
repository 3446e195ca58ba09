import type * as z from 'zod';
import { mosaic } from '../../mosaic';
import { ORDER, type Operation } from '../operation';
import { laidLike } from '../pointwise';
import { outOfPlace } from '../refuse';
import type { blendSchema } from './schema';

/**
 * Seams of several files blended. Looks at the borders of all files first, which are few samples, and then streams: never
 * held whole.
 */
export const blend: Operation<z.infer<typeof blendSchema>, { readonly reach: number }> = {
  words: ({ reach }) => `seams blended over ${reach} ${reach === 1 ? 'sample' : 'samples'}`,
  order: ORDER.seams,
  once: true,
  compared: true,
  plan: (stage, { reach }, { files }) => {
    if (files < 2)
      throw outOfPlace(
        'seams to blend in a source of one file',
        'several files that make the source',
        'Take the step out.',
      );
    if (!stage.asStored)
      throw outOfPlace(
        'seams blended after a step that mixes samples',
        'this step while files are still apart',
        'Move it up, before curve and reprojection.',
      );
    const { samples: _, ...rest } = stage;
    return {
      stage: {
        ...rest,
        asStored: false,
        info: { ...stage.info, sampleType: 'float', bitDepth: 32, byteOrder: null },
      },
      resolved: { reach },
    };
  },
  open: ({ base, orientation, files }, { reach }) => ({
    base: files ? laidLike(base, mosaic(files.parts, files.placed, reach)) : base,
    orientation,
    files: null,
  }),
};
