import * as z from 'zod';
import { FILE_FORMATS } from '../raster';
import { ASSUMABLE, recipeSchema } from '../recipe';

/**
 * States of a check: the interface gives each a shape and a word. A caution has a cure; what can't be done better with
 * this source and target is a note.
 */
export const CHECK_STATES = ['holds', 'note', 'caution', 'fault', 'not-yet'] as const;
export type CheckState = (typeof CHECK_STATES)[number];

const nullable = z.number().nullable();
const pair = z.object({ x: z.number(), y: z.number() });

const cardRow = z.object({
  id: z.string(),
  label: z.string(),
  /** As typed: rounded to `digits` decimals, or one of a few words. */
  value: z.union([z.number(), z.string().max(40)]),
  /** Unrounded; null for words. */
  exact: nullable,
  digits: z.number(),
  unit: z.string(),
  /** The same in metres, in words; empty where it is in metres already, or is no length. */
  metres: z.string().default(''),
  /** The formula with the numbers put in. */
  formula: z.string(),
  /** How to recognise the field, and what it does. */
  note: z.string(),
  /** Placeholders of the source that it rests on. */
  assumed: z.array(z.enum(ASSUMABLE)).default([]),
});
export type CardRow = z.infer<typeof cardRow>;

const window = z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() });

const planFile = z.object({
  name: z.string(),
  role: z.literal('heights'),
  format: z.enum(FILE_FORMATS),
  width: z.number(),
  height: z.number(),
  bitDepth: z.union([z.literal(8), z.literal(16), z.literal(32)]),
  sampleType: z.enum(['uint', 'float']),
  byteOrder: z.enum(['little', 'big']).nullable(),
  rows: z.enum(['north', 'south']),
  column: z.number(),
  row: z.number(),
  window,
  sha256: z.string().optional(),
});
export type PlanFile = z.infer<typeof planFile>;

const spot = z.object({
  id: z.string(),
  label: z.string(),
  /** Vertex of the whole from the north-west. */
  x: z.number(),
  y: z.number(),
  file: z.string(),
  /** Position in the target's world, in its units. */
  east: z.number(),
  north: z.number(),
  /** Height that the target shows there, in its units (that of the range's end where it is clipped); null on a void. */
  height: nullable,
  /** Elevation of the fitted ground in metres. */
  elevation: nullable,
  code: nullable,
});
export type PlanSpot = z.infer<typeof spot>;

const placement = z.object({
  order: z.number(),
  file: z.string(),
  column: z.number(),
  row: z.number(),
  window,
  /** World offset of the tile's north-west vertex, in target units. */
  east: z.number(),
  north: z.number(),
  /** Offset from the north-west tile in components; null where the target has none. */
  componentsEast: nullable,
  componentsSouth: nullable,
  neighbours: z.array(z.string()),
});
export type Placement = z.infer<typeof placement>;

const coordinates = z.tuple([z.number(), z.number()]).readonly();
const mapPlace = z.object({
  origin: coordinates,
  across: coordinates,
  down: coordinates,
  degrees: z.boolean(),
  metres: nullable,
  crs: z.string().nullable(),
});

const repair = z.object({ label: z.string(), edit: z.string(), args: z.record(z.string(), z.unknown()) });

const check = z.object({
  id: z.string(),
  state: z.enum(CHECK_STATES),
  message: z.string(),
  /** The step of the chain where it belongs. */
  step: z.enum(['bring-in', 'clean', 'fit', 'height', 'split', 'proof', 'hand-over']),
  /** A check spot to look at. */
  spot: z.string().optional(),
  /** Those of earlier versions were told otherwise: they are left out. */
  repair: repair.optional().catch(undefined),
});
export type PlanCheck = z.infer<typeof check>;
export type ChainStep = PlanCheck['step'];

/** A raster: lowest and highest stored value that occur; null while uncounted, and where there is none. */
const raster = z.object({
  width: z.number(),
  height: z.number(),
  bitDepth: z.number(),
  sampleType: z.enum(['uint', 'int', 'float']),
  min: nullable,
  max: nullable,
});

const stepDone = z.object({ op: z.string(), samples: nullable, largest: nullable, mean: nullable });

/**
 * Of the words that a plan and its pages say. Raised whenever any of them changes (a test keeps the two together): words of
 * another edition can't be compared, and a proof says so.
 */
export const EDITION = 5;

/** The plan as a document: `import.json` of a pack, and what `plan --json` prints. */
export const planDocumentSchema = z.object({
  version: z.literal(1),
  /** Packs that say none were written before there were editions. */
  edition: z.int().default(0),
  name: z.string(),
  target: z.string(),
  /** Vertices per side of a tile where this is a draft of a recipe of another size; null for the real thing. */
  draft: nullable.default(null),
  /** The choices that all of it comes from: the page alone opens as a project. */
  recipe: recipeSchema,
  /** What the source was found to hold, as it lies. */
  source: raster.extend({
    file: z.string(),
    /** Placeholders that nobody has typed or confirmed. */
    assumed: z.array(z.enum(ASSUMABLE)),
  }),
  /** What enters the fit after all steps: what the values rest on. */
  entering: raster.extend({ spacing: z.number() }).optional(),
  /** What each step changed, in true metres; null where that can't be said sample by sample. */
  steps: z.array(z.union([stepDone, z.object({ op: z.string(), off: z.literal(true) })])).default([]),
  fit: z.object({
    width: z.number(),
    height: z.number(),
    spacing: pair,
    extent: pair,
    method: z.enum(['resample', 'crop', 'pad']),
    worldScale: z.number(),
    /** What samples of the files are; packs of earlier versions hold vertices. */
    registration: z.enum(['vertex', 'cell']).optional(),
    /** Degrees by which the target turns what it reads. */
    turn: z.literal(180).optional(),
  }),
  layout: z
    .object({ quads: z.number(), patches: z.number(), componentsX: z.number(), componentsY: z.number() })
    .nullable(),
  layoutText: z.string().nullable(),
  /** Why this layout was taken. */
  layoutReason: z.string().nullable(),
  height: z.object({
    low: z.number(),
    high: z.number(),
    step: z.number(),
    /** Metres from one height of the source to the next, as it will stand; null where it is finer than can be told. */
    sourceStep: nullable,
    /** The larger of both. */
    effectiveStep: z.number(),
    /** Factor on all heights about the low end of the range. */
    exaggeration: z.number(),
    /** Elevation in metres that lies at world zero. */
    zero: z.number(),
    /** Lowest and highest of the fitted ground; null while unmeasured. */
    groundLow: nullable,
    groundHigh: nullable,
    clipped: z.object({ low: nullable, high: nullable }),
    terraceAt2Percent: z.number(),
    jitterPercent: z.number(),
    /** Of a target that counts in layers: how many there are, those of the lowest and highest code, and metres of one. */
    layers: z.number().optional(),
    bottomLayer: z.number().optional(),
    topLayer: z.number().optional(),
    metresPerLayer: z.number().optional(),
  }),
  typing: z.object({ budget: z.number() }),
  tiles: z.object({
    across: z.number(),
    down: z.number(),
    edges: z.enum(['shared', 'abutting']),
    width: z.number(),
    height: z.number(),
    rows: z.enum(['north', 'south']),
  }),
  card: z.array(cardRow),
  files: z.array(planFile),
  spots: z.array(spot),
  placement: z.array(placement),
  /**
   * Where the whole lies on the map that its source states: sample (column, row) at origin + column · across + row · down,
   * in coordinates east and north. Left out where nothing is stated.
   */
  map: mapPlace.optional(),
  checks: z.array(check),
  cost: z.object({
    vertices: z.number(),
    components: nullable,
    fileBytes: z.number(),
    textureBytes: nullable,
    diskBytes: z.tuple([z.number(), z.number()]),
  }),
});
export type PlanDocument = z.infer<typeof planDocumentSchema>;
