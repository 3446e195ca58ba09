import * as z from 'zod';
import { off } from '../off';

/**
 * Ground in degrees, or in coordinates that stretch it, on a square grid of metres in a zone of the usual transverse
 * cylinder projection: its largest full rectangle, or all of it (`whole`). `spacing`: metres, or `rung`, where its
 * vertices are those of the fit and ground is sampled once. `hold`: within the lowest and highest sample.
 */
export const reprojectSchema = z.strictObject({
  op: z.literal('reproject'),
  zone: z.int().min(1).max(60),
  south: z.boolean(),
  spacing: z.union([z.number().min(1e-3).max(1e5), z.literal('rung')]),
  whole: z.literal(true).optional(),
  hold: z.literal(true).optional(),
  off,
});
