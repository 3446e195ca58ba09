import * as z from 'zod';
import { off } from '../off';
import { drawnPlace } from '../place-schema';

/**
 * A bed along a line: `depth` metres below the present ground at the line (or above it: `raise`), `width` metres wide and
 * flat across; over `banks` metres to either side it comes back to the ground. `snap`: each point of the line goes to the
 * lowest sample within the width of it. `throughBorder`: its ends go on straight to the border. Along its run a bed never
 * rises (a dam never falls), unless `uphill` allows it.
 */
export const riverSchema = z.strictObject({
  op: z.literal('river'),
  line: z.array(drawnPlace).min(2).max(1000),
  mode: z.enum(['deepen', 'raise']),
  depth: z.number().gt(0).max(1e4),
  width: z.number().gt(0).max(1e5),
  banks: z.number().min(0).max(1e5),
  snap: z.literal(true).optional(),
  throughBorder: z.literal(true).optional(),
  uphill: z.literal(true).optional(),
  off,
});
