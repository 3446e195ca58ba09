import * as z from 'zod';
import { ENCODING_IDS, ENCODINGS, FILE_FORMATS } from '../raster';

/** Which vertex counts a target accepts. */
const gridRule = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('components'),
    /** Quads a patch may have along its side, ascending. */
    quads: z.array(z.int().min(1)).min(1),
    /** Patches along the side of a component. */
    patches: z.array(z.int().min(1)).min(1),
    maxComponents: z.int().min(1),
  }),
  z.strictObject({
    kind: z.literal('power-of-two-plus-one'),
    min: z.int().min(3),
    max: z.int().min(3),
  }),
  z.strictObject({
    kind: z.literal('power-of-two'),
    min: z.int().min(2),
    max: z.int().min(2),
  }),
  /** k · step + plus: 3·k + 1 and the like. */
  z.strictObject({
    kind: z.literal('multiples'),
    step: z.int().min(1),
    plus: z.int().min(0),
    min: z.int().min(2),
    max: z.int().min(2),
  }),
  /** Tiles of a power of two quads from `least` to `most`: k · 2ⁿ samples, or one more where the last row is stored. */
  z.strictObject({
    kind: z.literal('stored-tiles'),
    least: z.int().min(2),
    most: z.int().min(2),
    max: z.int().min(2),
  }),
  /** One size and no other. */
  z.strictObject({ kind: z.literal('one'), side: z.int().min(2) }),
  /** Every size is taken as it is. */
  z.strictObject({ kind: z.literal('any'), min: z.int().min(2), max: z.int().min(2) }),
]);
export type GridRule = z.infer<typeof gridRule>;

/** How a code becomes a height in the target's world. */
const heightRule = z.discriminatedUnion('kind', [
  /** height = (code − middle)/divisor · scale + offset, in target units; scale 100 is the target's own default. */
  z.strictObject({ kind: z.literal('centred'), middle: z.int(), divisor: z.number().positive() }),
  /** height = code/highest · range + base, in metres. */
  z.strictObject({ kind: z.literal('span') }),
  /** height = code · step, in metres. */
  z.strictObject({ kind: z.literal('fixed-step'), step: z.number().positive() }),
  /** layer = round(bottom + code/highest · (top − bottom)); these two unless the artist says others. */
  z.strictObject({ kind: z.literal('layers'), bottom: z.int(), top: z.int() }),
]);
export type HeightRule = z.infer<typeof heightRule>;

const step = z.strictObject({ when: z.enum(['before', 'type', 'after', 'look']), text: z.string().min(1) });

/** Rows that an import card can have; a target names those that it asks for, in its order. */
export const CARD_ROWS = [
  'verticesX',
  'verticesY',
  'vertices',
  'samples',
  'samplesX',
  'samplesY',
  'layout',
  'groundScaleX',
  'groundScaleY',
  'extentX',
  'extentY',
  'metresPerSample',
  'storedTileSide',
  'heightScale',
  'heightOffset',
  'heightRange',
  'topOfRange',
  'baseElevation',
  'lowestElevation',
  'highestElevation',
  'bottomLayer',
  'topLayer',
  'waterLayer',
  'metresPerLayer',
  'seaLevel',
  'eastOffset',
  'northOffset',
  'companions',
  'reading',
] as const;
export type CardRowId = (typeof CARD_ROWS)[number];

/** A target: what one kind of engine or editor accepts, asks for and silently does. Data, not code. */
export const targetSchema = z
  .strictObject({
    /** Of the description. */
    version: z.literal(1).default(1),
    id: z.string().regex(/^[a-z0-9-]+$/),
    name: z.string().min(1),
    /** One plain sentence. */
    summary: z.string().min(1),
    grid: gridRule,
    /** Both sides must be equal. */
    square: z.boolean(),
    /** What a sample of a file is: a vertex, so that n of them span n − 1 spacings, or a cell, of which n span n. */
    registration: z.enum(['vertex', 'cell']),
    heights: heightRule,
    /** Highest code that a written file may hold. */
    highestCode: z.int().min(1),
    /** The unit that positions and heights are typed in. */
    unit: z.strictObject({ name: z.string().min(1), metres: z.number().positive() }),
    /** Which elevation is height 0 of its world: the artist chooses, or the lowest code always, or elevation 0. */
    zero: z.enum(['chosen', 'lowest-code', 'elevation']).default('chosen'),
    /** Metres from sample to sample that it has whatever is typed; left out: as typed. */
    spacing: z.number().positive().optional(),
    /** It turns what it reads by half a turn. */
    halfTurn: z.literal(true).optional(),
    /** What it asks for, in its order. */
    asks: z.array(z.enum(CARD_ROWS)).min(1),
    formats: z.array(z.enum(FILE_FORMATS)).min(1),
    /** How heights may be stored, the usual way first. Metres only where elevation 0 is its height 0. */
    encodings: z.array(z.enum(ENCODING_IDS)).min(1).default(['u16']),
    /** The order of rows that it reads in a RAW; left out: as stated. */
    rows: z.enum(['north', 'south']).optional(),
    /** Rungs shown in front. */
    wellWorn: z.array(z.int()),
    budgets: z.strictObject({
      /** Components in all; null where the target has none. */
      components: z.int().nullable(),
      verticesAdvised: z.int(),
      verticesHard: z.int(),
    }),
    /** Size on disk in the project as a multiple of the 16-bit heights: an estimate, and labelled as one. */
    diskFactor: z.tuple([z.number(), z.number()]),
    names: z.strictObject({
      refusedCharacters: z.string(),
      /** Characters that must not stand before the column and row part of a tile's name: its importers misread them. */
      refusedBeforeNumbers: z.string(),
    }),
    /** What happens, without a word, to a file of the wrong size or depth. */
    wrongSize: z.string().min(1),
    wrongDepth: z.string().min(1),
    steps: z.array(step).min(1),
    /** The same where the ground is split into several files. */
    stepsOfTiles: z.array(step).min(1),
  })
  .superRefine((t, ctx) => {
    const refuse = (i: number, message: string): void =>
      ctx.addIssue({ code: 'custom', path: ['encodings', i], message });
    t.encodings.forEach((id, i) => {
      const { stores, bits } = ENCODINGS[id];
      if (stores !== 'codes' && t.heights.kind !== 'span')
        refuse(i, 'floats only where heights lie between two elevations');
      else if (stores === 'metres' && t.zero !== 'elevation') refuse(i, 'metres only where elevation 0 is height 0');
      else if (bits === 8 && t.heights.kind !== 'span' && t.heights.kind !== 'layers')
        refuse(i, '8 bits only where heights lie between two elevations or layers');
    });
  });
export type Target = z.infer<typeof targetSchema>;
