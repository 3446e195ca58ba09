import * as z from 'zod';
import { off } from '../off';

/** `x` exchanges east and west, `y` north and south. */
export const mirrorSchema = z.strictObject({ op: z.literal('mirror'), axis: z.enum(['x', 'y']), off });
