import { asLevelGridError, LevelGridError } from '../base';
import { textureSamples } from '../grid';
import {
  aboveDatum,
  calibrate,
  exaggerated,
  heightRange,
  holdsCodes,
  precision,
  quantiserFor,
  sampleOfElevation,
  storedStep,
  trueCalibration,
  worldZero,
  type Calibration,
  type HeightRange,
  type Quantiser,
} from '../height';
import {
  datumAbout,
  highestStored,
  lowestStored,
  type Bounds,
  type GroundStatistics,
  type RasterInfo,
  type SourceStatistics,
} from '../raster';
import { infoOfStage, metricVertices, planChain, stageKey, type Chain, type FitParameters } from '../chain';
import type { Recipe } from '../recipe';
import { targetById, type Target } from '../targets';
import { splitTiles, type TileGrid } from '../tiles';
import { cardRows, originOffset, stepOf, typingBudget, worldElevation } from './card';
import { planChecks, refusalCheck } from './checks';
import { EDITION, type PlanDocument, type PlanFile } from './document';
import type { Entering, SourceFacts } from './facts';
import { needsDouble } from './fine';
import { fitGeometry, geometryRefusal, type Geometry } from './geometry';
import { chooseLayout, type LayoutChoice } from './grid-layout';
import { placementTable } from './placement';
import { planSpots } from './spots';

/** The numbers that the pixel work needs. */
export interface Work {
  readonly target: Target;
  readonly entering: Entering;
  readonly geometry: Geometry;
  /** All that reaches the samples of the fitted ground. */
  readonly fit: FitParameters;
  /** Height sample → world metres. */
  readonly calibration: Calibration;
  readonly range: HeightRange;
  readonly quantiser: Quantiser;
  /** Elevation of the rim in world metres, exaggerated. */
  readonly rim: number;
  /** Metres from one height to the next that the eye sees: the source's own step where it is the larger. */
  readonly effectiveStep: number;
  /** Of the lowest and highest sample of the source, as the map shows it: in world metres, exaggerated. */
  readonly sourceEnds: { readonly low: number; readonly high: number };
  /** Elevation of the rim as the recipe would name it, in true metres. */
  readonly rimElevation: number;
  /** Elevation of the sea in world metres; null where there is none. */
  readonly sea: number | null;
  readonly tiles: TileGrid;
}

export interface Plan {
  readonly document: PlanDocument;
  readonly work: Work;
  readonly layouts: LayoutChoice['options'];
  /** Values rest on estimates until the statistics are there. */
  readonly provisional: boolean;
  /** The card's height values rest on them too. */
  readonly provisionalHeights: boolean;
  /** Why nothing can be written as it stands; empty where all is well. */
  readonly refusals: readonly LevelGridError[];
}

const ESTIMATE: Pick<SourceStatistics, 'voids' | 'distinctCodes' | 'codeStep' | 'mean' | 'samples'> = {
  samples: 0,
  voids: 0,
  mean: null,
  distinctCodes: 0,
  codeStep: null,
};

/** A stored value as a datum for heights that run from `low` to `high` (stored values). */
function datumOf(info: RasterInfo, unchanged: boolean, low: number, high: number): number {
  const whole = info.sampleType !== 'float';
  // whole numbers of up to 16 bits are exact in Float32 as they are
  return whole && unchanged && info.bitDepth <= 16 ? 0 : datumAbout(low, high, whole);
}

/** Of this share of the range a datum may lie elsewhere without being another. */
const SAME_DATUM = 1e-6;

/**
 * The datum that ground was measured about, where it is as good as the one that is wanted: a range that begins at the
 * lowest ground is told by floats above a datum, and would move with each measurement by their last bits.
 */
function measuredAbout(ground: GroundStatistics | null, wanted: number, span: number): number {
  const near = ground !== null && Math.abs(ground.datum - wanted) <= SAME_DATUM * Math.abs(span);
  return near ? ground.datum : wanted;
}

/**
 * Everything that follows from the recipe and the facts of the source, without touching a pixel. Throws only where
 * the recipe can't be read at all; a size or split that a target refuses is in `refusals` and as a failed check.
 * `datum` overrules the stored value that heights are counted from.
 */
export function plan(recipe: Recipe, source: SourceFacts, ground: GroundStatistics | null, datum?: number): Plan {
  const target = targetById(recipe.target);
  const chain = planChain(recipe, source.info);
  const entering = enteringOf(chain, source);
  const { info, spacing } = entering;
  const { ends } = chain.entering;
  const stats: SourceStatistics = entering.stats ??
    source.stats ?? { ...ESTIMATE, min: 0, max: highestStored(source.info) };
  const lowest = stats.min ?? 0;
  const highest = stats.max ?? 0;
  const stored = calibrate(recipe, ends);
  const metres = (value: number): number => stored.offset + stored.unit * value;
  const sourceRange = { low: metres(lowest), high: metres(highest) };
  const codes = holdsCodes(recipe.source.heights, ends);
  const range = heightRange(recipe, target, {
    source: sourceRange,
    ground: ground ? { low: metres(ground.datum + ground.min), high: metres(ground.datum + ground.max) } : sourceRange,
    codes: !codes ? null : { low: metres(lowestStored(ends)), high: metres(highestStored(ends)) },
  });
  const shown = exaggerated(stored, range.pivot, recipe.height.exaggeration);
  const storedAt = (elevation: number): number => (elevation - stored.offset) / stored.unit;
  const geometry = fitGeometry(recipe, info, spacing);
  const unchanged =
    recipe.fit.method !== 'resample' || (geometry.width === info.width && geometry.height === info.height);
  const follows = recipe.height.range === 'ground' && recipe.height.strategy !== 'fixed';
  const at =
    datum ??
    (follows && ground
      ? ground.datum
      : follows
        ? datumOf(info, unchanged, lowest, highest)
        : measuredAbout(
            ground,
            datumOf(info, unchanged, storedAt(range.plain.low), storedAt(range.plain.high)),
            (range.plain.high - range.plain.low) / stored.unit,
          ));
  const calibration = aboveDatum(shown, at);
  const refusals: LevelGridError[] = [];
  if (chain.refusal) refusals.push(chain.refusal.error);
  const geometryFault = geometryRefusal(recipe, info, geometry);
  if (geometryFault) refusals.push(geometryFault);
  if (recipe.height.range === 'codes' && !codes) refusals.push(NO_CODES);
  const tiles = tilesOf(recipe, target, geometry, source.file, refusals);
  const tile = { width: tiles.tileWidth, height: tiles.tileHeight };
  const choice: LayoutChoice =
    refusals.length > 0
      ? { layout: null, options: [], reason: null, refusal: null }
      : chooseLayout(recipe, target, tile, tiles.tiles.length > 1);
  if (choice.refusal) refusals.push(choice.refusal);
  const zero = worldZero(recipe, target, range);
  const plain = aboveDatum(stored, at);
  const quantiser = quantiserFor(plain, range.plain, target.highestCode);
  const card = cardRows({ recipe, target, info, spacing, geometry, range, zero, tile, layout: choice.layout });
  const step = stepOf(range, target);
  const ownStep = entering.stats ? storedStep(entering.stats) : null;
  const fine = precision(
    step,
    ownStep === null ? null : ownStep * shown.unit,
    Math.min(geometry.spacing.x, geometry.spacing.y) || 1,
  );
  if (ground && ground.voids > 0) refusals.push(voidRefusal(ground.voids, source.file));
  const clipped = clippedCounts(recipe, ground && rebased(ground, at), clipBounds(quantiser));
  const origin = originOffset(recipe, geometry);
  const checks = planChecks({
    recipe,
    target,
    source,
    entering,
    ends,
    info,
    geometry,
    range,
    precision: fine,
    ground,
    elevationOf: (value) => shown.offset + shown.unit * value,
    clipped,
    tiles,
    choice,
  });
  for (const refusal of refusals)
    checks.unshift(refusalCheck(refusal, recipe, target, source.info, info, geometry, range));
  const vertices = geometry.width * geometry.height;
  const one = choice.layout;
  const document: PlanDocument = {
    version: 1,
    edition: EDITION,
    name: recipe.name ?? baseName(source.file),
    target: target.id,
    draft: recipe.draft ?? null,
    recipe,
    source: {
      file: source.file,
      ...rasterWords(source.info, source.stats),
      assumed: recipe.source.assumed ?? [],
    },
    // of files that were fitted to each other no codes enter
    entering: { ...rasterWords({ ...info, own: undefined }, entering.stats), spacing },
    steps: stepReports(recipe, chain, entering),
    fit: {
      width: geometry.width,
      height: geometry.height,
      spacing: geometry.spacing,
      extent: geometry.extent,
      method: recipe.fit.method,
      worldScale: recipe.fit.worldScale,
    },
    layout: one,
    layoutText: one
      ? `${one.componentsX} × ${one.componentsY} components, each ${one.patches} × ${one.patches} ${one.patches === 1 ? 'patch' : 'patches'} of ${one.quads} quads`
      : null,
    layoutReason: choice.reason,
    height: {
      low: range.low,
      high: range.high,
      step,
      sourceStep: fine.sourceStep,
      effectiveStep: fine.effectiveStep,
      exaggeration: recipe.height.exaggeration,
      zero,
      groundLow: ground ? shown.offset + shown.unit * (ground.datum + ground.min) : null,
      groundHigh: ground ? shown.offset + shown.unit * (ground.datum + ground.max) : null,
      clipped,
      terraceAt2Percent: fine.terraceAt2Percent,
      jitterPercent: fine.jitterPercent,
    },
    typing: { budget: typingBudget(card, target) },
    tiles: {
      across: tiles.across,
      down: tiles.down,
      edges: tiles.edges,
      width: tiles.tileWidth,
      height: tiles.tileHeight,
      rows: recipe.split?.rows ?? 'north',
    },
    card,
    files: tiles.tiles.map((t) => planFile(t, recipe)),
    spots: ground ? planSpots(ground, calibration, at, quantiser, range, zero, target, geometry, origin, tiles) : [],
    placement: placementTable(tiles, geometry, target, one, origin),
    checks,
    cost: {
      vertices,
      components: one ? one.componentsX * one.componentsY * tiles.tiles.length : null,
      fileBytes: 2 * tiles.tiles.length * tile.width * tile.height,
      textureBytes: one ? 2 * textureSamples(one) * tiles.tiles.length : null,
      diskBytes: [vertices * 2 * target.diskFactor[0], vertices * 2 * target.diskFactor[1]],
    },
  };
  const spread = Math.max(Math.abs(lowest - at), Math.abs(highest - at));
  // the source's lowest, unless the recipe says otherwise
  const rimElevation = recipe.fit.rim ?? sourceRange.low / recipe.fit.worldScale;
  const heightOf = (elevation: number): number => sampleOfElevation(elevation, plain, recipe.fit.worldScale);
  const onGrid = { width: geometry.width, height: geometry.height, datum: at };
  const { voids: fill, filter, method } = recipe.fit;
  const voids = stats.voids > 0;
  const voidFill = voids && fill !== undefined ? heightOf(fill) : null;
  const bounds = { low: lowest - at, high: highest - at };
  const { deferred } = chain.entering;
  const fit: FitParameters = deferred
    ? {
        ...onGrid,
        voidFill: fill === undefined ? null : heightOf(fill),
        how: 'warp',
        vertices: metricVertices(chain.entering, deferred, geometry),
        orientation: chain.entering.orientation,
        filter,
        clamp: recipe.fit.clamp || deferred.hold ? bounds : null,
        rim: heightOf(rimElevation),
      }
    : method !== 'resample'
      ? {
          ...onGrid,
          voidFill,
          how: 'place',
          column: geometry.sourceStart.x,
          row: geometry.sourceStart.y,
          rim: heightOf(rimElevation),
        }
      : unchanged
        ? { ...onGrid, voidFill, how: 'as-is' }
        : {
            ...onGrid,
            voidFill,
            how: 'resample',
            filter,
            clamp: recipe.fit.clamp ? bounds : null,
            voids,
            precise: needsDouble(filter, geometry, spread, quantiser.scale),
          };
  return {
    document,
    work: {
      target,
      entering,
      geometry,
      fit,
      calibration,
      range,
      quantiser,
      rim: worldElevation(recipe, range, rimElevation),
      effectiveStep: fine.effectiveStep,
      sourceEnds: { low: shown.offset + shown.unit * lowest, high: shown.offset + shown.unit * highest },
      rimElevation,
      sea: recipe.height.sea === undefined ? null : worldElevation(recipe, range, recipe.height.sea),
      tiles,
    },
    layouts: choice.options,
    provisional: entering.stats === null || ground === null,
    provisionalHeights: entering.stats === null || (ground === null && recipe.height.range === 'ground'),
    refusals,
  };
}

/**
 * What the statistics of the fitted ground depend on: where two are equal, so is the ground. Follows from what the
 * ground is computed from before anything is known of it, and where its own range decides how finely, from that too.
 */
export function groundKey(recipe: Recipe, source: SourceFacts): string {
  const { work } = plan(recipe, source, null);
  const { source: given, fit, height } = recipe;
  return JSON.stringify([work.entering.key, work.fit, height.range === 'ground' ? [given, fit, height] : null]);
}

/** What enters the fit, with what has been counted of it. */
function enteringOf(chain: Chain, { info, stats, stages }: SourceFacts): Entering {
  const stage = chain.entering;
  const key = stageKey(stage);
  const found = stages && Object.hasOwn(stages, key) ? stages[key] : undefined;
  const untouched = stage === chain.source;
  return {
    key,
    stage,
    info: untouched ? info : infoOfStage(stage),
    spacing: stage.spacing,
    stats: untouched ? stats : (found?.stats ?? null),
    changes: untouched ? [] : (found?.changes ?? null),
  };
}

const rasterWords = (
  { width, height, own, bitDepth, sampleType }: Omit<RasterInfo, 'own'> & { own?: RasterInfo['own'] | undefined },
  stats: SourceStatistics | null,
): Omit<PlanDocument['source'], 'file' | 'assumed'> => ({
  width,
  height,
  ...(own ?? { bitDepth, sampleType }),
  min: stats?.min ?? null,
  max: stats?.max ?? null,
});

/** What each step changed, in true metres. */
function stepReports(recipe: Recipe, chain: Chain, { changes }: Entering): PlanDocument['steps'] {
  return recipe.steps.map(({ op, off }, index) => {
    if (off) return { op, off };
    const found = changes?.find((c) => c.index === index);
    const before = chain.steps.find((s) => s.index === index)?.before;
    const unit = before ? trueCalibration(recipe.source.heights, before.ends).unit : 1;
    const metres = (stored: number | null | undefined): number | null => (stored == null ? null : stored * unit);
    return { op, samples: found?.samples ?? null, largest: metres(found?.largest), mean: metres(found?.mean) };
  });
}

/** Height samples beyond these are clipped. */
export function clipBounds({ scale, offset, highest }: Quantiser): Bounds {
  return { low: (-0.5 - offset) / scale, high: (highest + 0.5 - offset) / scale };
}

/** True where the range follows the ground, so that no sample can lie outside it. */
const neverClips = (recipe: Recipe): boolean => recipe.height.range === 'ground' && recipe.height.strategy !== 'fixed';

/** The bounds that a pass over the ground should count against; null where nothing can lie outside. */
export function boundsToCount(recipe: Recipe, work: Pick<Work, 'quantiser'>): Bounds | null {
  return neverClips(recipe) ? null : clipBounds(work.quantiser);
}

function clippedCounts(
  recipe: Recipe,
  ground: GroundStatistics | null,
  bounds: Bounds,
): { low: number | null; high: number | null } {
  if (!ground) return { low: null, high: null };
  const { outside } = ground;
  // counted against these very bounds, but for the last bits of another order of computing them
  const near = (a: number, b: number): boolean => Math.abs(a - b) <= 1e-9 * (bounds.high - bounds.low);
  if (outside && near(outside.low, bounds.low) && near(outside.high, bounds.high))
    return { low: outside.below, high: outside.above };
  // nothing beyond the bounds needs no count
  const inside = ground.min >= bounds.low && ground.max < bounds.high;
  return inside || neverClips(recipe) ? { low: 0, high: 0 } : { low: null, high: null };
}

/** The lowest and highest of the ground, counted from another datum. */
function rebased(ground: GroundStatistics, datum: number): GroundStatistics {
  const by = ground.datum - datum;
  if (by === 0) return ground;
  const { outside } = ground;
  return {
    ...ground,
    min: ground.min + by,
    max: ground.max + by,
    outside: outside && { ...outside, low: outside.low + by, high: outside.high + by },
  };
}

const NO_CODES = new LevelGridError('calibration', {
  found: 'the range of the codes asked for, of a file that holds metres',
  expected: 'a file of codes, whose lowest and highest have an elevation',
  remedy: 'Take the range of the source or of the ground, or type it.',
});

/** Why vertices without a height are not written. */
export function voidRefusal(count: number, file: string): LevelGridError {
  return new LevelGridError('voids', {
    file,
    found: `${count} ${count === 1 ? 'vertex' : 'vertices'} without a height`,
    expected: 'a height everywhere, or an elevation that vertices without one get',
    remedy: 'Say which elevation voids get, or choose ground without voids.',
  });
}

/** Tiles as asked, or the whole as one tile where the split is refused. */
function tilesOf(recipe: Recipe, target: Target, whole: Geometry, file: string, refusals: LevelGridError[]): TileGrid {
  const options = {
    fallbackName: baseName(file),
    ending: recipe.output.format,
    refused: target.names.refusedCharacters,
    refusedBeforeNumbers: target.names.refusedBeforeNumbers,
  };
  try {
    return splitTiles(recipe, whole, options);
  } catch (reason) {
    refusals.push(asLevelGridError(reason, 'dividing the terrain'));
    const { split: _, ...single } = recipe;
    return splitTiles(single, whole, options);
  }
}

function planFile(tile: TileGrid['tiles'][number], recipe: Recipe): PlanFile {
  const { format, byteOrder, rows } = recipe.output;
  return {
    name: tile.name,
    role: 'heights',
    format,
    width: tile.window.width,
    height: tile.window.height,
    bitDepth: 16,
    sampleType: 'uint',
    byteOrder: format === 'raw' ? byteOrder : null,
    rows: format === 'raw' ? rows : 'north',
    column: tile.column,
    row: tile.row,
    window: tile.window,
  };
}

export function baseName(file: string): string {
  return file.replace(/\.[^.]*$/, '') || file;
}
