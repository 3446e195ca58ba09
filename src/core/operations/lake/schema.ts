import * as z from 'zod';
import { off } from '../off';
import { drawnPlace } from '../place-schema';

/**
 * A lake that is flat in the heights, given a bed: all that hangs together with a spot and lies within a centimetre of its
 * height sinks to `depth` metres below it, over `banks` metres from its shore.
 */
export const lakeSchema = z.strictObject({
  op: z.literal('lake'),
  spot: drawnPlace,
  depth: z.number().gt(0).max(1e4),
  banks: z.number().min(0).max(1e5),
  off,
});
