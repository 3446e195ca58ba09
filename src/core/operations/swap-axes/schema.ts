import * as z from 'zod';
import { off } from '../off';

/** What lay along the rows lies along the columns, and the other way round. */
export const swapAxesSchema = z.strictObject({ op: z.literal('swap-axes'), off });
