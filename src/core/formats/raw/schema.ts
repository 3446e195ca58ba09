import { z } from 'zod';
import { RAW_MAX_SIDE, RAW_TYPES } from './layout';

const side = z.int().min(1).max(RAW_MAX_SIDE);

/** The layout of a headerless file, as a recipe states it. */
export const rawReading = z.strictObject({
  width: side,
  height: side,
  type: z.enum(RAW_TYPES),
  byteOrder: z.enum(['little', 'big']),
  /** Bytes in front of the first sample. */
  skip: z.int().min(0).default(0),
});
