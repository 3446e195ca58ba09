import * as z from 'zod';
import { LevelGridError, type EditCall } from '../base';
import { FILTERS, HEIGHT_UNITS } from '../raster';
import { targetSchema } from '../targets';
import {
  ASSUMABLE,
  documentError,
  outputSchema,
  parseRecipe,
  recipeParts,
  splitSchema,
  reprojectSchema,
  stepSchema,
  type Recipe,
} from '../recipe';
import { draftRecipe } from './draft';
import {
  withCeiling,
  withComponents,
  withFit,
  withGroundCentred,
  withMethod,
  withPlace,
  withSize,
  withTarget,
  withTileSide,
  withVoids,
} from './fit';
import {
  spentOnGround,
  withHeightChoices,
  withAnchor,
  withHeight,
  withOffset,
  withRange,
  withRangeHeld,
  withSea,
  withStrategy,
} from './height';
import { withMesh, withVolume } from './mesh';
import { withOutput } from './output';
import { renamed } from './rename';
import {
  assumed,
  confirmed,
  heightsGivenAs,
  throughSpots,
  withFiles,
  withHeights,
  withPartial,
  withRawLayout,
  withRegistration,
  withSpacing,
  withStretch,
  withTruncation,
  withUnit,
} from './source';
import { withSplit, withTiles } from './split';
import {
  madeMetric,
  withBlend,
  withCurve,
  withoutStep,
  withStep,
  withStepChanged,
  withStepMoved,
  withStepsInOrder,
  withStepSwitched,
} from './steps';

/** A change of a recipe that can be asked for by name. */
interface Edit {
  readonly args: z.ZodType;
  readonly apply: (recipe: Recipe, args: never) => Recipe;
  /** The source must be read again for it: another reading, not another treatment of what was read. */
  readonly rereads?: true;
}

const edit = <S extends z.ZodType>(args: S, apply: (recipe: Recipe, args: z.infer<S>) => Recipe): Edit => ({
  args,
  apply,
});
const reading = <S extends z.ZodType>(args: S, apply: (recipe: Recipe, args: z.infer<S>) => Recipe): Edit => ({
  args,
  apply,
  rereads: true,
});

const of = z.strictObject;

/** Some of the choices of a group: those that are left out stay as they are, and get no default. */
function some<S extends z.ZodRawShape>(shape: S): z.ZodType<{ readonly [K in keyof S]?: z.output<S[K]> }> {
  const bare = Object.entries(shape).map(([key, schema]) => [
    key,
    schema instanceof z.ZodDefault ? schema.unwrap() : (schema as z.ZodType),
  ]);
  return z.strictObject(Object.fromEntries(bare) as z.ZodRawShape).partial() as never;
}

const metres = z.number();
/** Size of what enters the fit, where an edit leans on it; on the command line no source is read. */
const sides = of({ width: z.int().min(1), height: z.int().min(1) });
const stored = of({ bitDepth: z.int().min(1).max(64), sampleType: z.enum(['uint', 'int', 'float']) });
const index = z.int().min(0);
const { source, fit, height } = recipeParts;
const step = of({ step: stepSchema, source: sides.optional() });

/** Every change that there is, by its name. What an edit leaves of a recipe is checked as any recipe is. */
export const EDITS = {
  rename: edit(of({ name: z.string() }), (r, { name }) => renamed(r, name)),

  // what the numbers of the source stand for
  heights: edit(of({ heights: source.heights, typed: z.array(z.enum(ASSUMABLE)).default([]) }), (r, a) =>
    withHeights(r, a.heights, a.typed),
  ),
  'heights-as': edit(of({ as: z.enum(['ends', 'step', 'elevations']), stored }), (r, a) =>
    heightsGivenAs(r, a.stored, a.as),
  ),
  'through-spots': edit(
    of({
      stored,
      spots: z
        .array(of({ stored: z.number(), elevation: metres }))
        .min(1)
        .max(2),
    }),
    (r, a) => throughSpots(r, a.stored, a.spots),
  ),
  unit: edit(of({ unit: z.enum(HEIGHT_UNITS) }), (r, { unit }) => withUnit(r, unit)),
  stretch: edit(of({ factor: z.number() }), (r, { factor }) => withStretch(r, factor)),
  truncation: edit(of({ truncated: z.boolean() }), (r, { truncated }) => withTruncation(r, truncated)),
  registration: edit(of({ registration: z.enum(['vertex', 'cell']) }), (r, { registration }) =>
    withRegistration(r, registration),
  ),
  spacing: edit(of({ spacing: metres }), (r, { spacing }) => withSpacing(r, spacing)),
  confirm: edit(of({ which: z.array(z.enum(ASSUMABLE)) }), (r, { which }) => confirmed(r, which)),

  // how the source is read
  'raw-layout': reading(of({ raw: source.raw.unwrap().nullable() }), (r, { raw }) => withRawLayout(r, raw)),
  files: reading(of({ files: source.files.unwrap() }), (r, { files }) => withFiles(r, files)),
  partial: reading(of({ partial: z.boolean() }), (r, { partial }) => withPartial(r, partial)),
  mesh: reading(of({ mesh: source.mesh.unwrap(), spacing: metres }), (r, a) =>
    withMesh(r, { ...a.mesh, spacing: a.spacing }),
  ),
  volume: reading(of({ mesh: source.mesh.unwrap(), spacing: metres }), (r, { mesh, spacing }) =>
    withVolume(r, { ...mesh, spacing }, mesh.volume ?? null),
  ),

  // what is done to the ground before it is fitted
  'add-step': edit(step, (r, a) => withStep(r, a.step, a.source)),
  'change-step': edit(step.extend({ index }), (r, a) => withStepChanged(r, a.index, a.step, a.source)),
  'remove-step': edit(of({ index, source: sides.optional() }), (r, a) => withoutStep(r, a.index, a.source)),
  'switch-step': edit(of({ index, on: z.boolean(), source: sides.optional() }), (r, a) =>
    withStepSwitched(r, a.index, a.on, a.source),
  ),
  'move-step': edit(of({ index, to: index, source: sides.optional() }), (r, a) =>
    withStepMoved(r, a.index, a.to, a.source),
  ),
  'order-steps': edit(of({ source: sides.optional() }), (r, a) => withStepsInOrder(r, a.source)),
  'make-metric': edit(
    reprojectSchema.omit({ op: true, off: true }).extend({ ground: sides.optional() }),
    (r, { ground, ...squares }) => madeMetric(r, squares, ground),
  ),
  blend: edit(of({ reach: z.int().nullable() }), (r, { reach }) => withBlend(r, reach)),
  curve: edit(of({ curve: z.union([z.literal('srgb'), z.number()]).nullable(), stored }), (r, a) =>
    withCurve(r, a.stored, a.curve),
  ),

  // the grid
  target: edit(of({ target: z.union([z.string(), targetSchema]), source: sides }), (r, a) =>
    withTarget(r, a.target, a.source),
  ),
  size: edit(
    of({ size: fit.size, method: fit.method.unwrap().optional(), at: fit.at.unwrap().optional() }),
    (r, { size, method, at }) => withSize(r, size, { ...(method ? { method } : {}), ...(at ? { at } : {}) }),
  ),
  'tile-side': edit(
    of({ vertices: z.int(), source: sides, side: z.enum(['both', 'across', 'down']).optional() }),
    (r, a) => withTileSide(r, a.vertices, a.source, a.side),
  ),
  components: edit(
    of({ quads: z.int(), patches: z.int(), components: z.int(), source: sides }),
    (r, { components, source: s, ...layout }) => withComponents(r, layout, components, s),
  ),
  layout: edit(of({ quads: z.int(), patches: z.int() }), (r, layout) => withFit(r, { layout })),
  method: edit(of({ method: fit.method.unwrap(), source: sides }), (r, a) => withMethod(r, a.method, a.source)),
  place: edit(of({ column: z.int().optional(), row: z.int().optional() }), ({ ...r }, { column, row }) =>
    withPlace(r, { ...(column === undefined ? {} : { column }), ...(row === undefined ? {} : { row }) }),
  ),
  centre: edit(of({ source: sides }), (r, a) => withGroundCentred(r, a.source)),
  filter: edit(of({ filter: z.enum(FILTERS) }), (r, { filter }) => withFit(r, { filter })),
  clamp: edit(of({ clamp: z.boolean() }), (r, { clamp }) => withFit(r, { clamp })),
  rim: edit(of({ elevation: metres }), (r, { elevation }) => withFit(r, { rim: elevation })),
  voids: edit(of({ elevation: metres.nullable() }), (r, { elevation }) => withVoids(r, elevation)),
  'world-scale': edit(of({ scale: z.number() }), (r, { scale }) => withFit(r, { worldScale: scale })),
  mixed: edit(of({ mixed: fit.mixed.unwrap() }), (r, { mixed }) => withFit(r, { mixed })),
  origin: edit(of({ origin: fit.origin.unwrap() }), (r, { origin }) => withFit(r, { origin })),
  ceiling: edit(of({ vertices: z.int().nullable() }), (r, { vertices }) => withCeiling(r, vertices)),
  draft: edit(of({ vertices: z.int() }), (r, { vertices }) => draftRecipe(r, vertices)),

  // heights
  range: edit(
    of({ range: height.range.unwrap(), low: metres.optional(), high: metres.optional() }),
    (r, { range, low, high }) => {
      const ends = { low: low ?? r.height.low ?? 0, high: high ?? r.height.high ?? 0 };
      const named = low === undefined && high === undefined ? r : withHeight(r, ends);
      return withRange(named, range, ends);
    },
  ),
  height: edit(of({ height: z.strictObject(height) }), (r, a) => withHeightChoices(r, a.height)),
  'hold-range': edit(of({ low: metres, high: metres }), (r, span) => withRangeHeld(r, span)),
  assume: edit(of({ which: z.array(z.enum(ASSUMABLE)) }), (r, { which }) => assumed(r, which)),
  strategy: edit(
    of({ strategy: height.strategy.unwrap(), scale: z.number().optional(), low: metres.optional() }),
    (r, { strategy, scale = 100, low = 0 }) => withStrategy(r, strategy, { scale, low }),
  ),
  headroom: edit(of({ below: z.number().optional(), above: z.number().optional() }), (r, { below, above }) =>
    withHeight(withStrategy(r, 'headroom', { scale: 100, low: 0 }), {
      ...(below === undefined ? {} : { below }),
      ...(above === undefined ? {} : { above }),
    }),
  ),
  scale: edit(of({ scale: z.number() }), (r, { scale }) => withHeight(r, { scale })),
  anchor: edit(of({ at: z.enum(['lowest', 'middle', 'highest']).optional(), elevation: metres.optional() }), (r, a) =>
    withAnchor(r, {
      ...(a.at === undefined ? {} : { at: a.at }),
      ...(a.elevation === undefined ? {} : { elevation: a.elevation }),
    }),
  ),
  layers: edit(of({ bottom: height.bottom, top: height.top }), (r, { bottom, top }) =>
    withHeight(r, { ...(bottom === undefined ? {} : { bottom }), ...(top === undefined ? {} : { top }) }),
  ),
  exaggeration: edit(of({ exaggeration: z.number() }), (r, { exaggeration }) => withHeight(r, { exaggeration })),
  'flatten-to-fit': edit(
    of({ exaggeration: z.number(), at: z.enum(['lowest', 'middle', 'highest']), elevation: metres }),
    (r, { exaggeration, ...anchor }) => withAnchor(withHeight(r, { exaggeration }), anchor),
  ),
  'spend-on-ground': edit(of({}), (r) => spentOnGround(r)),
  offset: edit(of({ offset: height.offset.unwrap(), lowest: metres.optional() }), (r, { offset, lowest = 0 }) =>
    withOffset(r, offset, lowest),
  ),
  sea: edit(of({ elevation: metres.nullable() }), (r, { elevation }) => withSea(r, elevation)),

  // tiles and files
  split: edit(some(splitSchema.shape), (r, split) => withSplit(r, split)),
  tiles: edit(some({ ...splitSchema.shape, size: fit.size }), (r, { size, ...split }) => {
    const tiled = withSplit(r, split);
    return size === undefined ? tiled : withSize(tiled, size);
  }),
  'tile-size': edit(of({ vertices: z.int() }), (r, { vertices }) => withTiles(r, vertices)),
  output: edit(some(outputSchema.shape), (r, output) => withOutput(r, output)),
} as const satisfies Readonly<Record<string, Edit>>;

export type EditName = keyof typeof EDITS;
export const EDIT_NAMES = Object.keys(EDITS) as readonly EditName[];

function editOf({ edit: name }: EditCall): Edit {
  if (Object.hasOwn(EDITS, name)) return EDITS[name as EditName];
  throw new LevelGridError('usage', {
    found: `no edit called ${JSON.stringify(name).slice(0, 60)}`,
    expected: 'one of the edits that there are',
    remedy: `There are: ${EDIT_NAMES.join(', ')}.`,
  });
}

/** Whether the source must be read again for an edit. */
export const rereads = (call: EditCall): boolean => editOf(call).rereads === true;

/** The recipe with a change that is asked for by name. Throws a typed error where it can't be made or leaves no recipe. */
export function applyEdit(recipe: Recipe, call: EditCall): Recipe {
  const { args, apply } = editOf(call);
  const read = args.safeParse(call.args);
  if (!read.success) throw documentError(read.error, `edit ${call.edit}`, null, call.args);
  return parseRecipe(JSON.parse(JSON.stringify(apply(recipe, read.data as never))));
}
