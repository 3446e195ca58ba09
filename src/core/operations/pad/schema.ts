import * as z from 'zod';
import { off } from '../off';

const metres = z.number().min(0).max(1e6);

/** Ground added on each side, metres of it: at an elevation, as the sample at the edge goes on, or as the ground mirrored there. */
export const padSchema = z.strictObject({
  op: z.literal('pad'),
  by: z.strictObject({ north: metres, east: metres, south: metres, west: metres }),
  with: z.union([z.number().min(-1e6).max(1e6), z.enum(['edge', 'mirror'])]),
  off,
});
