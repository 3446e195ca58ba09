import * as z from 'zod';
import * as layout from './layout';

const side = z.int().min(1).max(layout.RAW_MAX_SIDE);

/** The layout of a headerless file, as a recipe states it. */
export const layoutReading = z.strictObject({
  width: side,
  height: side,
  type: z.enum(layout.RAW_TYPES),
  byteOrder: z.enum(['little', 'big']),
  /** Bytes in front of the first sample. */
  skip: z.int().min(0).default(0),
});
