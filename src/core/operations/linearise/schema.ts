import * as z from 'zod';
import { off } from '../off';

/** A display curve that was put on the heights: that of sRGB, or a power p, 2.2 where stored = height to the power of 1 / 2.2. */
export const lineariseSchema = z.strictObject({
  op: z.literal('linearise'),
  curve: z.union([z.literal('srgb'), z.number().min(0.1).max(10)]),
  off,
});
