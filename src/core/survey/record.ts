import * as z from 'zod';
import { parseJson, type ByteSource, type JsonKind } from '../base';

/** Ends the name of a record that lies beside a height file. */
export const RECORD_ENDING = 'record.json';

const number = z.number();
const extent = z.strictObject({ west: number, south: number, east: number, north: number });

/** What a bundle of surveyed ground says of its heights: everything that a picture can't. */
export const recordSchema = z.strictObject({
  kind: z.literal('surveyed ground'),
  version: z.literal(1),
  /** The height file that it is of. */
  file: z.string().min(1).max(255),
  set: z.string().min(1).max(80),
  width: z.int().min(1).max(65535),
  height: z.int().min(1).max(65535),
  /** Degrees, of the outermost samples. */
  extent,
  /** Seconds of arc from sample to sample. */
  seconds: z.number().min(0.01).max(3600),
  /** True elevations, in metres. */
  lowest: z.number().min(-20000).max(20000),
  highest: z.number().min(-20000).max(20000),
  voids: z.int().min(0),
  /** Heights were multiplied by so much: about `low` where they are codes, about zero where they are metres. */
  stretch: z.number().min(1e-3).max(1000),
  /** Elevations of code 0 and of the highest, as they stand in the file; left out where it holds metres. */
  codes: z
    .strictObject({
      low: number,
      high: number,
      metresPerCode: z.number().positive(),
      /** Code that stands for no height. */
      empty: z.literal(0).optional(),
    })
    .optional(),
  /** Layout of a headerless file. */
  raw: z.strictObject({ type: z.literal('u16'), byteOrder: z.literal('little') }).optional(),
  /** Blocks that did not come, column from the west and row from the north. */
  missing: z.array(z.strictObject({ column: z.int(), row: z.int() })).max(10_000),
  /** The plain map that lies beside it. */
  map: z.string().min(1).max(255).optional(),
});
export type SurveyRecord = z.infer<typeof recordSchema>;

const KIND: JsonKind = {
  words: 'record of surveyed ground',
  code: 'corrupt',
  limits: { length: 2 ** 20, depth: 8 },
  remedy: 'Take the ground from the desk again, or remove the record that lies beside the file.',
};

/** The record beside a height file; null where there is none, or it is of something else. */
export async function recordBeside(source: ByteSource): Promise<SurveyRecord | null> {
  const stem = source.name.replace(/\.[^.]*$/, '');
  const found = await source.beside?.(`${stem}.${RECORD_ENDING}`);
  if (!found || found.size > KIND.limits.length) return null;
  const text = new TextDecoder().decode(await found.read(0, found.size));
  const record = recordSchema.safeParse(parseJson(text, KIND, found.name));
  return record.success && record.data.file === source.name ? record.data : null;
}
