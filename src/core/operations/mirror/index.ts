import type * as z from 'zod';
import { laying } from '../laying';
import type { mirrorSchema } from './schema';

export const mirror = laying<z.infer<typeof mirrorSchema>>(
  ({ axis }) => ({ swap: false, flipX: axis === 'x', flipY: axis === 'y' }),
  ({ axis }) => `mirrored, ${axis === 'x' ? 'east and west' : 'north and south'} exchanged`,
);
