import * as z from 'zod';

/*
 * The pack document as a proof reads it: import.json, checked by a schema of its own. It knows what a pack must say,
 * not how a plan makes it.
 */
const MOST_FILES = 20_000;
const number = z.number();
const nullable = number.nullable();
const pair = z.object({ x: number, y: number });
/** More vertices along a side than any target takes. */
const side = z.int().min(1).max(65536);
const text = z.string().max(400);
const window = z.object({ x: z.int().min(0), y: z.int().min(0), width: side, height: side });

const cardRow = z.object({
  id: text,
  label: text,
  value: z.union([number, z.string().max(40)]),
  exact: nullable,
  digits: z.int().min(0).max(20),
  unit: z.string().max(20),
  /** The same in metres, in words; packs of earlier versions don't say it. */
  metres: z.string().max(60).optional(),
});
export type PageRow = z.infer<typeof cardRow>;

const file = z.object({
  name: text,
  format: z.enum(['png', 'raw', 'tiff', 'exr', 'asc']),
  width: side,
  height: side,
  bitDepth: number,
  sampleType: z.enum(['uint', 'float']),
  byteOrder: z.enum(['little', 'big']).nullable(),
  rows: z.enum(['north', 'south']),
  column: z.int(),
  row: z.int(),
  window,
  sha256: z.string().max(128).optional(),
});
export type PageFile = z.infer<typeof file>;

const spot = z.object({
  id: text,
  label: text,
  x: z.int(),
  y: z.int(),
  file: text,
  east: number,
  north: number,
  height: nullable,
  elevation: nullable,
  code: nullable,
});

const coordinates = z.tuple([number, number]).readonly();

/** Where the whole lies on a map; packs of earlier versions don't say it. */
const map = z.object({
  origin: coordinates,
  across: coordinates,
  down: coordinates,
  degrees: z.boolean(),
  metres: nullable,
  crs: z.string().max(2000).nullable(),
});

const raster = z.object({
  width: side,
  height: side,
  bitDepth: z.int().min(1).max(64),
  sampleType: z.enum(['uint', 'int', 'float']),
  min: nullable,
  max: nullable,
});

const placement = z.object({
  order: z.int(),
  file: text,
  column: z.int(),
  row: z.int(),
  window,
  east: number,
  north: number,
  componentsEast: nullable,
  componentsSouth: nullable,
  neighbours: z.array(text).max(8),
});

export const pageSchema = z.object({
  version: z.literal(1),
  /** Of its words; packs of earlier versions say none. */
  edition: z.int().default(0),
  name: text,
  target: text,
  draft: nullable,
  /** The recipe once more; packs of earlier versions don't hold it. */
  recipe: z.unknown().optional(),
  source: raster
    .extend({ file: text, assumed: z.array(text).max(8) })
    .refine((s) => s.sampleType !== 'int' || s.bitDepth > 1, 'signed samples of more than one bit'),
  /** What enters the fit after all steps; packs of earlier versions say it of the source. */
  entering: raster.extend({ spacing: number }).optional(),
  /** What each step changed. */
  steps: z
    .array(
      z.object({
        op: text,
        off: z.literal(true).optional(),
        samples: nullable.optional(),
        largest: nullable.optional(),
        mean: nullable.optional(),
      }),
    )
    .max(64)
    .optional(),
  fit: z.object({
    width: side,
    height: side,
    spacing: pair,
    extent: pair,
    method: text,
    worldScale: number,
    registration: text.optional(),
    turn: number.optional(),
  }),
  layout: z.object({ quads: number, patches: number, componentsX: number, componentsY: number }).nullable(),
  height: z.object({
    low: number,
    high: number,
    step: number,
    exaggeration: number,
    zero: number,
    groundLow: nullable,
    groundHigh: nullable,
    clipped: z.object({ low: nullable, high: nullable }),
    layers: number.optional(),
    bottomLayer: number.optional(),
    topLayer: number.optional(),
    metresPerLayer: number.optional(),
  }),
  tiles: z.object({
    across: z.int().min(1),
    down: z.int().min(1),
    edges: z.enum(['shared', 'abutting']),
    width: side,
    height: side,
    rows: z.enum(['north', 'south']),
  }),
  card: z.array(cardRow).max(100),
  /** What the plan found. */
  checks: z.array(z.object({ id: text, state: text, message: z.string().max(4000) })).max(400),
  files: z.array(file).max(MOST_FILES),
  spots: z.array(spot).max(100),
  placement: z.array(placement).max(MOST_FILES),
  map: map.optional(),
});
/** What a pack says of itself. */
export type Page = z.infer<typeof pageSchema>;
