import * as z from 'zod';

/** Metres east and south of the north-west sample. */
export const drawnPlace = z.tuple([z.number().min(-1e7).max(1e7), z.number().min(-1e7).max(1e7)]);
