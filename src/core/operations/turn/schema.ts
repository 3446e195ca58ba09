import * as z from 'zod';
import { off } from '../off';

/** Quarter turns clockwise. */
export const turnSchema = z.strictObject({ op: z.literal('turn'), quarters: z.int().min(1).max(3), off });
