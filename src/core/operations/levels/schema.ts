import * as z from 'zod';
import { off } from '../off';

const elevation = z.number().min(-1e6).max(1e6);

/**
 * Elevations become others, in true metres: straight lines between typed points, which rise from one to the next; below
 * the first and above the last, heights move by as much as at it.
 */
export const levelsSchema = z
  .strictObject({
    op: z.literal('levels'),
    points: z
      .array(z.tuple([elevation, elevation]))
      .min(1)
      .max(64),
    off,
  })
  .refine(({ points }) => points.every(([from], i) => i === 0 || from > points[i - 1]![0]), {
    path: ['points'],
    message: 'points in rising order of the elevation that they begin with',
  })
  .refine(({ points }) => points.every(([, to], i) => i === 0 || to >= points[i - 1]![1]), {
    path: ['points'],
    message: 'elevations that never fall from one point to the next',
  });
