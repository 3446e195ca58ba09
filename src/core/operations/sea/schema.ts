import * as z from 'zod';
import { off } from '../off';

const metres = z.number().min(-1e6).max(1e6);

/**
 * Water: what lies at or below `level` (with a tolerance: what lies that near to it), everywhere, where it hangs together
 * with the border, or with a spot (metres east and south of the north-west sample); no steeper than `maxSlope` (metres up
 * for each metre across). It becomes an elevation, or a bed that falls from the shore by a slope down to a depth below the level.
 */
export const seaSchema = z.strictObject({
  op: z.literal('sea'),
  level: metres,
  select: z.union([z.enum(['all', 'border']), z.strictObject({ spot: z.tuple([metres, metres]) })]),
  tolerance: z.number().min(0).max(1e6).optional(),
  maxSlope: z.number().min(0).max(1e3).optional(),
  become: z.union([metres, z.strictObject({ slope: z.number().gt(0).max(1e3), depth: z.number().gt(0).max(1e5) })]),
  off,
});
