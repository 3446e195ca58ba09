import * as z from 'zod';
import { off } from '../off';
import { drawnPlace } from '../place-schema';

/**
 * A drawn area: brought to the elevation `by`, raised by so many metres (lowered, where they are negative), or smoothed
 * over a radius of so many; `border`: metres from its outline inwards over which it comes into force.
 */
export const areaSchema = z
  .strictObject({
    op: z.literal('area'),
    ring: z.array(drawnPlace).min(3).max(1000),
    mode: z.enum(['level', 'raise', 'smooth']),
    by: z.number().min(-1e6).max(1e6),
    border: z.number().min(0).max(1e5),
    off,
  })
  .refine((a) => a.mode !== 'smooth' || a.by > 0, { path: ['by'], message: 'a radius above 0' });
