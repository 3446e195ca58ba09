import * as z from 'zod';

/** Every step can be switched off without losing what it says. */
export const off = z.literal(true).optional();
