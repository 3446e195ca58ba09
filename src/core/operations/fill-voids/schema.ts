import * as z from 'zod';
import { off } from '../off';

/**
 * Voids filled from their edges: by a smooth membrane, by distance, by their lowest border sample, or with an elevation
 * in true metres.
 */
export const fillVoidsSchema = z
  .strictObject({
    op: z.literal('fill-voids'),
    method: z.enum(['membrane', 'distance', 'lowest', 'elevation']),
    elevation: z.number().min(-1e6).max(1e6).optional(),
    off,
  })
  .refine((v) => (v.method === 'elevation') === (v.elevation !== undefined), {
    path: ['elevation'],
    message: 'an elevation where voids get one, and none with another method',
  });
