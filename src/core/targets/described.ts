import type * as z from 'zod';
import type { targetSchema } from './schema';

/** A target as it is written down. */
export type Described = z.input<typeof targetSchema>;

export const NAMES = { refusedCharacters: '/\\:*?"<>|', refusedBeforeNumbers: '' };
export const METRES = { name: 'm', metres: 1 };
export const SPOTS = { when: 'look', text: 'Go to the check spots and compare position and height.' } as const;
