import * as z from 'zod';
import { off } from '../off';
import { drawnPlace } from '../place-schema';

/**
 * Control points: what lies at the first place of each comes to lie at its second, by shifting, turning, stretching and
 * shearing the ground, as near as that goes. Metres east and south of the first sample.
 */
export const warpSchema = z.strictObject({
  op: z.literal('warp'),
  points: z
    .array(z.tuple([drawnPlace, drawnPlace]))
    .min(3)
    .max(1000),
  off,
});
