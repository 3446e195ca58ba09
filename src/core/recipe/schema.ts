import * as z from 'zod';
import { ENCODING_IDS, FILE_FORMATS, FILTERS, HEIGHT_UNITS, HELD_BY, PACKED } from '../raster';
import * as formats from '../formats';
import { reprojectSchema, stepSchema } from '../operations/schemas';
import { targetSchema } from '../targets';

/** Elevations beyond this are a slip of the keyboard, whatever the planet. */
export const MOST_ELEVATION = 1e6;
const elevation = z.number().min(-MOST_ELEVATION).max(MOST_ELEVATION);
/** Two ends of a range lie at least this many metres apart. */
const LEAST_RANGE = 1e-6;
/** Vertices along a side of a grid. */
const side = z.int().min(2).max(formats.RAW_MAX_SIDE);

const place = z.int().min(0).max(formats.RAW_MAX_SIDE);
const sourceFile = z.strictObject({
  name: z.string().min(1).max(255),
  at: z.tuple([place, place]),
  factor: z.number().positive().max(1e6).optional(),
  shift: z.number().min(-1e9).max(1e9).optional(),
  /** Of its bytes, as the files were put together. */
  sha256: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .optional(),
});

/** What of a source may rest on a placeholder. `high` is also the metres of one code, `low` the elevation of code 0. */
export const ASSUMABLE = ['low', 'high', 'unit', 'spacing'] as const;
export type Assumable = (typeof ASSUMABLE)[number];

/** Factor by which whoever made the file has stretched its heights; divided out about its low end. */
const stretch = z.number().min(1e-3).max(1000).optional();
/** Fractions were cut off when the codes were made, not rounded: each code then stands for half a step more. */
const truncated = z.literal(true).optional();

/** What the numbers of a source stand for. */
const heights = z.discriminatedUnion('as', [
  z.strictObject({
    as: z.literal('ends'),
    /** Elevation of code 0, in metres; for floats of 0..1, of 0. */
    low: elevation,
    /** Elevation of the highest code of the bit depth; for floats of 0..1, of 1. */
    high: elevation,
    stretch,
    truncated,
  }),
  z.strictObject({
    as: z.literal('step'),
    /** Metres from one code to the next. */
    step: z.number().min(1e-9).max(1e5),
    /** Elevation of code 0. */
    base: elevation,
    stretch,
    truncated,
  }),
  /** Elevations already. Unit left out: metres where they are floats; for whole numbers it must be stated. */
  z.strictObject({ as: z.literal('elevations'), unit: z.enum(HEIGHT_UNITS).optional(), stretch }),
]);

const source = z.strictObject({
  heights,
  /** Metres from sample to sample. */
  spacing: z.number().min(1e-6).max(1e5),
  ...z.object(formats.READING_OPTIONS).partial().shape,
  /**
   * The files that make the source, where it is several: where the north-western sample of each lies in the whole, in
   * samples; and what its values are multiplied by and moved, where each was normalised by itself.
   */
  files: z.array(sourceFile).min(2).max(4096).optional(),
  /** Rows that can't be read become voids; left out, such a file is refused. */
  partial: z.literal(true).optional(),
  /** Its size, where there is no file yet. */
  size: z.tuple([side, side]).optional(),
  /** What its samples are; left out: vertices. */
  registration: z.enum(['vertex', 'cell']).optional(),
  /** Values that are placeholders which nobody has typed or confirmed yet. */
  assumed: z.array(z.enum(ASSUMABLE)).optional(),
});

const count = z.int().min(1).max(4096);

const fit = z.strictObject({
  /** Vertices per side of the whole; a pair where the sides differ. */
  size: z.union([side, z.tuple([side, side])]),
  /** Of a target that keeps its ground in tiles: how many (across and down), quads of one, and whether the last row is stored. */
  tiles: z.union([count, z.tuple([count, count])]).optional(),
  tileSide: z.int().min(2).max(65536).optional(),
  sharedRow: z.boolean().optional(),
  /** The artist's own ceiling of vertices per side of one import. Left out: what is advised for the target. */
  atMost: side.optional(),
  method: z.enum(['resample', 'crop', 'pad']).default('resample'),
  /** Where samples are vertices on one side and cells on the other: the extent is held, or outermost samples meet. */
  mixed: z.enum(['hold-extent', 'centre-to-centre']).optional(),
  filter: z.enum(FILTERS).default('lanczos3'),
  /** Holds overshoot: results stay within the source's overall lowest and highest. */
  clamp: z.boolean().default(true),
  /** Crop: first column and row taken from the source. Pad: the source's first column and row in the result. */
  at: z
    .tuple([
      z.int().min(-formats.RAW_MAX_SIDE).max(formats.RAW_MAX_SIDE),
      z.int().min(-formats.RAW_MAX_SIDE).max(formats.RAW_MAX_SIDE),
    ])
    .default([0, 0]),
  /** Elevation of the padding. Left out: the lowest that occurs in the source. */
  rim: elevation.optional(),
  /** Elevation that vertices without ground get. Left out: a pack with such vertices is not written. */
  voids: elevation.optional(),
  /** One factor for ground and heights alike: 1 is true size, 0.25 a miniature at 1 : 4. */
  worldScale: z.number().min(1e-4).max(1000).default(1),
  /** Component layout of one tile; left out, the first that the size allows. */
  layout: z.strictObject({ quads: z.int(), patches: z.int() }).optional(),
  /** Where the world's zero lies on the ground. */
  origin: z.enum(['north-west', 'south-west', 'centre']).default('north-west'),
});

/** A layer of a world of blocks. */
const layer = z.int().min(-32768).max(32767);

const height = z.strictObject({
  /** Where the elevations of the lowest and highest code come from. */
  range: z.enum(['source', 'ground', 'codes', 'pinned']).default('source'),
  low: elevation.optional(),
  high: elevation.optional(),
  strategy: z.enum(['full', 'headroom', 'fixed']).default('full'),
  /** Headroom in percent of the codes. */
  below: z.number().min(0).max(90).optional(),
  above: z.number().min(0).max(90).optional(),
  /** Fixed: the height scale (component grid) or the height range in metres (odd grid) that is kept. */
  scale: z.number().positive().max(1e7).optional(),
  anchor: z.strictObject({ at: z.enum(['lowest', 'middle', 'highest']), elevation }).optional(),
  /** Factor on all heights about the low end of the range; the ground across stays. */
  exaggeration: z.number().min(1e-3).max(1000).default(1),
  /** Which elevation lies at world zero. */
  offset: z.enum(['lowest-code', 'lowest-ground', 'sea', 'survey', 'middle-code']).default('lowest-code'),
  /** Elevation of the sea. */
  sea: elevation.optional(),
  /** Layers of the lowest and highest code, where the target counts in layers. */
  bottom: layer.optional(),
  top: layer.optional(),
});

const split = z.strictObject({
  across: z.int().min(1).max(128),
  down: z.int().min(1).max(128),
  edges: z.enum(['shared', 'abutting']).default('shared'),
  /** File name without extension. */
  pattern: z.string().min(1).max(120).default('{name}-r{row:2}c{col:2}'),
  first: z.union([z.literal(0), z.literal(1)]).default(0),
  /** The end from which rows are numbered. */
  rows: z.enum(['north', 'south']).default('north'),
});

const output = z.strictObject({
  format: z.enum(FILE_FORMATS).default('png'),
  /** How a TIFF is packed, without loss; left out: not at all. */
  compression: z.enum(['none', 'deflate']).optional(),
  /** How heights are stored; left out: in the usual way of target and format. */
  encoding: z.enum(ENCODING_IDS).optional(),
  byteOrder: z.enum(['little', 'big']).default('little'),
  /** Order of the rows inside a RAW. */
  rows: z.enum(['north', 'south']).default('north'),
});

/** Vertices each way that stored tiles make: k · 2ⁿ, and one more where the last row is stored. Null where none are said. */
export function storedSize({
  tiles,
  tileSide,
  sharedRow = true,
}: Pick<z.infer<typeof fit>, 'tiles' | 'tileSide' | 'sharedRow'>): [number, number] | null {
  if (tiles === undefined || tileSide === undefined) return null;
  const [across, down] = typeof tiles === 'number' ? [tiles, tiles] : tiles;
  const more = sharedRow ? 1 : 0;
  return [across * tileSide + more, down * tileSide + more];
}

/** Parts of a recipe by themselves, for the arguments of edits. */
export const recipeParts = { source: source.shape, fit: fit.shape, height: height.shape } as const;
export { split as splitSchema, output as outputSchema, stepSchema, reprojectSchema };

/** More steps than anybody needs are a slip. */
const MOST_STEPS = 64;

/** The document that holds every choice; version 4. */
export const recipeSchema = z
  .strictObject({
    version: z.literal(4),
    name: z.string().min(1).max(80).optional(),
    /** A trial on this many vertices per side of a tile, made from a recipe of another size. */
    draft: side.optional(),
    source,
    /** What is done to the ground before it is fitted, in this order. */
    steps: z.array(stepSchema).max(MOST_STEPS).default([]),
    /** By its id, or described here. */
    target: z.union([z.string().min(1).max(80), targetSchema]),
    fit,
    height: height.prefault({}),
    split: split.optional(),
    output: output.prefault({}),
  })
  .superRefine((r, ctx) => {
    const need = (held: boolean, path: string[], message: string): void => {
      if (!held) ctx.addIssue({ code: 'custom', path, message });
    };
    const { format, encoding, compression = 'none' } = r.output;
    need(
      compression === 'none' || PACKED.includes(format),
      ['output', 'compression'],
      `none: only a ${PACKED.join(', ').toUpperCase()} can be packed in more than one way`,
    );
    if (encoding !== undefined)
      need(
        HELD_BY[format].includes(encoding),
        ['output', 'encoding'],
        `what a ${format.toUpperCase()} can hold: ${HELD_BY[format].join(', ')}`,
      );
    const h = r.height;
    const stored = storedSize(r.fit);
    if (stored !== null)
      need(
        JSON.stringify(stored) ===
          JSON.stringify(typeof r.fit.size === 'number' ? [r.fit.size, r.fit.size] : r.fit.size),
        ['fit', 'size'],
        `the size that the tiles make, ${stored.join(' × ')}`,
      );
    const { heights: given } = r.source;
    if (given.as === 'ends')
      need(given.high - given.low >= LEAST_RANGE, ['source', 'heights', 'high'], 'the highest code above code 0');
    r.steps.forEach((step, i) => {
      if (step.op !== 'linearise' || step.off) return;
      need(given.as === 'ends', ['steps', String(i), 'curve'], 'a curve only where both ends have an elevation');
      need(
        !(r.source.files ?? []).some((f) => (f.factor ?? 1) !== 1 || (f.shift ?? 0) !== 0),
        ['steps', String(i), 'curve'],
        'files without factors and shifts of their own where a curve is undone',
      );
      need(
        !('truncated' in given && given.truncated),
        ['steps', String(i), 'curve'],
        'rounded codes where a curve is undone',
      );
    });
    if (h.bottom !== undefined && h.top !== undefined)
      need(h.top > h.bottom, ['height', 'top'], 'the top layer above the bottom layer');
    if (h.range === 'pinned') {
      need(h.low !== undefined && h.high !== undefined, ['height', 'low'], 'a pinned range needs low and high');
      if (h.low !== undefined && h.high !== undefined)
        need(h.high - h.low >= LEAST_RANGE, ['height', 'high'], 'the highest code above the lowest');
    }
    if (h.strategy === 'fixed') {
      need(h.scale !== undefined, ['height', 'scale'], 'a fixed scale needs its scale');
      need(h.anchor !== undefined, ['height', 'anchor'], 'a fixed scale needs an anchor');
    }
    if (h.strategy === 'headroom')
      need(
        (h.below ?? 0) + (h.above ?? 0) <= 90,
        ['height', 'above'],
        'below and above together must stay at 90 % or less',
      );
    if (h.offset === 'sea')
      need(h.sea !== undefined, ['height', 'sea'], 'sea level at zero needs the elevation of the sea');
  });

export type { Step, StepId, StepOf } from '../operations/schemas';
/** A recipe with all defaults filled in. */
export type Recipe = z.infer<typeof recipeSchema>;
/** What the numbers of a source stand for. */
export type SourceHeights = Recipe['source']['heights'];
