import * as z from 'zod';
import { off } from '../off';

/**
 * A rectangle of the ground: `at`, metres east and south of its north-west sample; `size`, metres from its first to its
 * last sample. Both go to the nearest sample.
 */
export const cropSchema = z.strictObject({
  op: z.literal('crop'),
  at: z.tuple([z.number().min(0).max(1e7), z.number().min(0).max(1e7)]),
  size: z.tuple([z.number().gt(0).max(1e7), z.number().gt(0).max(1e7)]),
  off,
});
