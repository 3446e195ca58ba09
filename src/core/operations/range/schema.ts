import * as z from 'zod';
import { off } from '../off';

const elevation = z.number().min(-1e6).max(1e6).optional();

/**
 * Heights held within `low` and `high`, then counted from `base`, then multiplied by `factor`: elevations in true metres,
 * before the step.
 */
export const rangeSchema = z
  .strictObject({
    op: z.literal('range'),
    low: elevation,
    high: elevation,
    base: elevation,
    factor: z.number().min(1e-4).max(1e4).optional(),
    off,
  })
  .refine((r) => r.low !== undefined || r.high !== undefined || r.base !== undefined || r.factor !== undefined, {
    message: 'at least one of low, high, base and factor',
  })
  .refine((r) => r.low === undefined || r.high === undefined || r.high > r.low, {
    path: ['high'],
    message: 'an elevation above the low end',
  });
