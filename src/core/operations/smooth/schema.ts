import * as z from 'zod';
import { off } from '../off';

/** Gaussian smoothing: `radius` is its standard deviation in metres, `strength` the share of it that is taken (0 to 1). */
export const smoothSchema = z.strictObject({
  op: z.literal('smooth'),
  radius: z.number().gt(0).max(1e5),
  strength: z.number().min(0).max(1),
  off,
});
