import type * as z from 'zod';
import { laying } from '../laying';
import { turned } from '../orientation';
import type { turnSchema } from './schema';

const WORDS = ['', 'turned by 90° clockwise', 'turned by 180°', 'turned by 90° counter-clockwise'];

export const turn = laying<z.infer<typeof turnSchema>>(
  ({ quarters }) => turned(quarters),
  ({ quarters }) => WORDS[quarters] ?? '',
);
