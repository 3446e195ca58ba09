import * as z from 'zod';
import { off } from '../off';
import { drawnPlace } from '../place-schema';

/**
 * Terraces of a coarse source become slopes: each sample stays within the step it was stored by. `step`: its metres, where
 * they are not to be found from the samples; `stored`: what the source did with heights between two steps, rounded them
 * (where nothing is said) or cut them off; `ring`: only within an outline, in metres east and south of the first sample.
 */
export const healStepsSchema = z.strictObject({
  op: z.literal('heal-steps'),
  step: z.number().gt(0).max(1e5).optional(),
  stored: z.enum(['rounded', 'cut']).optional(),
  ring: z.array(drawnPlace).min(3).max(1000).optional(),
  off,
});
