import * as z from 'zod';
import { off } from '../off';

/** Steps at the seams of several files are spread over so many samples on either side. */
export const blendSchema = z.strictObject({ op: z.literal('blend'), reach: z.int().min(1).max(4096), off });
