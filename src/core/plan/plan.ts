import type { LevelGridError } from '../base';
import { asLevelGridError } from '../base';
import { textureSamples } from '../grid';
import {
  aboveDatum,
  calibrate,
  heightRange,
  highestStored,
  precision,
  quantiserFor,
  worldZero,
  type Calibration,
  type HeightRange,
  type Quantiser,
} from '../height';
import {
  datumFor,
  type Bounds,
  type GroundStatistics,
  type RasterInfo,
  type RasterWarning,
  type SourceStatistics,
} from '../raster';
import type { Recipe } from '../recipe';
import { targetById, type Target } from '../targets';
import { splitTiles, type TileGrid } from '../tiles';
import { cardRows, originOffset, stepOf, typingBudget } from './card';
import { planChecks } from './checks';
import type { PlanDocument, PlanFile } from './document';
import { fitGeometry, geometryRefusal, type Geometry } from './geometry';
import { chooseLayout, type LayoutChoice } from './grid-layout';
import { placementTable } from './placement';
import { planSpots } from './spots';

/** What is known of the source. */
export interface SourceFacts {
  /** Base name of the file. */
  readonly file: string;
  readonly info: RasterInfo;
  readonly warnings: readonly RasterWarning[];
  /** Null while they are still being counted: the plan is then provisional. */
  readonly stats: SourceStatistics | null;
}

/** The numbers that the pixel work needs. */
export interface Work {
  readonly target: Target;
  readonly geometry: Geometry;
  /** Taken off stored samples before they become heights. */
  readonly datum: number;
  /** Height sample → world metres. */
  readonly calibration: Calibration;
  readonly range: HeightRange;
  readonly quantiser: Quantiser;
  /** Rim and clamp, in height samples. */
  readonly rim: number;
  readonly clamp: Bounds | null;
  readonly voids: boolean;
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

/**
 * Everything that follows from the recipe and the facts of the source, without touching a pixel. Throws only where
 * the recipe can't be read at all; a size or split that a target refuses is in `refusals` and as a failed check.
 */
export function plan(recipe: Recipe, source: SourceFacts, ground: GroundStatistics | null): Plan {
  const target = targetById(recipe.target);
  const { info } = source;
  const stats: SourceStatistics = source.stats ?? { ...ESTIMATE, min: 0, max: highestStored(info) };
  const stored = calibrate(recipe, info);
  const calibration = aboveDatum(stored, info, stats);
  const datum = datumFor(info.bitDepth, stats.min);
  const metres = (value: number): number => stored.offset + stored.unit * value;
  const sourceRange = { low: metres(stats.min ?? 0), high: metres(stats.max ?? 0) };
  const groundRange = ground
    ? {
        low: calibration.offset + calibration.unit * ground.min,
        high: calibration.offset + calibration.unit * ground.max,
      }
    : sourceRange;
  const range = heightRange(recipe, target, sourceRange, groundRange);
  const geometry = fitGeometry(recipe, info);
  const refusals: LevelGridError[] = [];
  const geometryFault = geometryRefusal(recipe, info, geometry);
  if (geometryFault) refusals.push(geometryFault);
  const tiles = tilesOf(recipe, target, geometry, source.file, refusals);
  const tile = { width: tiles.tileWidth, height: tiles.tileHeight };
  const choice: LayoutChoice =
    refusals.length > 0
      ? { layout: null, options: [], refusal: null }
      : chooseLayout(recipe, target, tile, tiles.tiles.length > 1);
  if (choice.refusal) refusals.push(choice.refusal);
  const zero = worldZero(recipe, target, range);
  const quantiser = quantiserFor(calibration, range, target.highestCode);
  const card = cardRows({ recipe, target, geometry, range, zero, tile, layout: choice.layout });
  const step = stepOf(range, target);
  const fine = precision(step, Math.min(geometry.spacing.x, geometry.spacing.y));
  const clipped = clippedCounts(recipe, ground, clipBounds(quantiser));
  const origin = originOffset(recipe, geometry);
  const checks = planChecks({
    recipe,
    target,
    info,
    stats: source.stats,
    warnings: source.warnings,
    geometry,
    range,
    precision: fine,
    ground,
    calibration,
    clipped,
    tiles,
    layout: choice.layout,
  });
  for (const refusal of refusals) {
    checks.unshift({
      id: refusal.code,
      state: 'fault',
      message: refusal.message,
      step: refusal.code.startsWith('split') || refusal.code === 'file-name' ? 'split' : 'fit',
    });
  }
  const vertices = geometry.width * geometry.height;
  const one = choice.layout;
  const document: PlanDocument = {
    version: 1,
    name: recipe.name ?? baseName(source.file),
    target: target.id,
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
    height: {
      low: range.low,
      high: range.high,
      step,
      zero,
      groundLow: ground ? groundRange.low : null,
      groundHigh: ground ? groundRange.high : null,
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
    spots: ground ? planSpots(ground, calibration, quantiser, zero, target, geometry, origin, tiles) : [],
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
  const rimMetres =
    (recipe.fit.rim ?? recipe.source.low ?? sourceRange.low / recipe.fit.worldScale) * recipe.fit.worldScale;
  return {
    document,
    work: {
      target,
      geometry,
      datum,
      calibration,
      range,
      quantiser,
      rim: (rimMetres - calibration.offset) / calibration.unit,
      clamp: recipe.fit.clamp ? { low: (stats.min ?? 0) - datum, high: (stats.max ?? 0) - datum } : null,
      voids: stats.voids > 0,
      tiles,
    },
    layouts: choice.options,
    provisional: source.stats === null || ground === null,
    provisionalHeights: source.stats === null || (ground === null && recipe.height.range === 'ground'),
    refusals,
  };
}

/** Height samples beyond these are clipped. */
export function clipBounds({ scale, offset, highest }: Quantiser): Bounds {
  return { low: (-0.5 - offset) / scale, high: (highest + 0.5 - offset) / scale };
}

/** The bounds that a pass over the ground should count against; null where nothing can lie outside. */
export function boundsToCount(recipe: Recipe, work: Pick<Work, 'quantiser'>): Bounds | null {
  return recipe.height.range === 'ground' && recipe.height.strategy !== 'fixed' ? null : clipBounds(work.quantiser);
}

function clippedCounts(
  recipe: Recipe,
  ground: GroundStatistics | null,
  bounds: Bounds,
): { low: number | null; high: number | null } {
  if (!ground) return { low: null, high: null };
  if (recipe.height.range === 'ground' && recipe.height.strategy !== 'fixed') return { low: 0, high: 0 };
  // nothing beyond the bounds needs no count
  if (ground.min >= bounds.low && ground.max < bounds.high) return { low: 0, high: 0 };
  const { outside } = ground;
  return outside && outside.low === bounds.low && outside.high === bounds.high
    ? { low: outside.below, high: outside.above }
    : { low: null, high: null };
}

/** Tiles as asked, or the whole as one tile where the split is refused. */
function tilesOf(recipe: Recipe, target: Target, whole: Geometry, file: string, refusals: LevelGridError[]): TileGrid {
  const options = {
    fallbackName: baseName(file),
    ending: recipe.output.format,
    refused: target.names.refusedCharacters,
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
