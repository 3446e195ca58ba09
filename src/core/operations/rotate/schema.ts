import * as z from 'zod';
import { off } from '../off';
import { drawnPlace } from '../place-schema';

/** The ground turned clockwise by any angle about a place, in metres east and south of its first sample. */
export const rotateSchema = z.strictObject({
  op: z.literal('rotate'),
  degrees: z.number().min(-360).max(360),
  about: drawnPlace,
  off,
});
