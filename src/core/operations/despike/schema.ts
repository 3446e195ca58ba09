import * as z from 'zod';
import { off } from '../off';

/** A sample that differs from the median of its 3 × 3 by more than `threshold` metres becomes that median. */
export const despikeSchema = z.strictObject({
  op: z.literal('despike'),
  threshold: z.number().min(0).max(1e6),
  off,
});
