import type * as z from 'zod';
import { laying } from '../laying';
import type { swapAxesSchema } from './schema';

export const swapAxes = laying<z.infer<typeof swapAxesSchema>>(
  () => ({ swap: true, flipX: false, flipY: false }),
  () => 'axes exchanged',
);
