import * as z from 'zod';

/** A corner of a box. */
const far = z.number().min(-1e9).max(1e9);
const corner = z.tuple([far, far, far]);

/** How a mesh is seen from above, at places as far apart as the samples of its recipe. */
export const meshReading = z.strictObject({
  /** Which of its axes is up. */
  up: z.enum(['y', 'z']),
  /** Metres of one unit of it. */
  metres: z.number().min(1e-6).max(1e6).default(1),
  /** The ground that is baked, where it is not the mesh's own; x east, y north, z up, in metres. */
  volume: z
    .strictObject({ min: corner, max: corner })
    .refine(({ min, max }) => min.every((v, i) => v < max[i]!), {
      path: ['max'],
      error: 'a volume whose highest corner lies beyond its lowest',
    })
    .optional(),
});
