import * as z from 'zod';
import { off } from '../off';

const stored = z.number().min(-1e15).max(1e15);

/** A value of the file, or all from one to another, both included, become voids or an elevation in true metres. */
export const valuesSchema = z
  .strictObject({
    op: z.literal('values'),
    from: stored,
    to: stored.optional(),
    become: z.union([z.literal('void'), z.number().min(-1e6).max(1e6)]),
    off,
  })
  .refine((v) => v.to === undefined || v.to >= v.from, {
    path: ['to'],
    message: 'a value that is not below the first',
  });
