import { asLevelGridError, type LevelGridError } from '../base';
import { planChain, type FitParameters } from '../chain';
import { precision, storedStep, type Calibration, type HeightRange, type Quantiser } from '../height';
import type { GroundStatistics } from '../raster';
import type { Recipe } from '../recipe';
import { writtenTarget, type Target, type WrittenTarget } from '../targets';
import { splitTiles, type TileGrid } from '../tiles';
import { cardRows, stepOf, worldElevation } from './card';
import { planChecks, refusalCheck } from './checks';
import { clipBounds, clippedCounts, rebased } from './clipping';
import type { PlanDocument } from './document';
import { documentOf } from './document-of';
import { enteringOf } from './entering';
import type { Entering, SourceFacts } from './facts';
import { fitParameters, rimElevationOf } from './fit-parameters';
import { fitGeometry, geometryRefusal, meetsSamples, registrationsOf, type Geometry } from './geometry';
import { chooseLayout, type LayoutChoice } from './grid-layout';
import { planHeights } from './heights';
import { floodedShare } from './flooded';
import { baseName } from './names';
import { NO_CODES, voidRefusal } from './refusals';

/** The numbers that the pixel work needs. */
export interface Work {
  readonly target: WrittenTarget;
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
  /** Of the same, in true metres. */
  readonly trueEnds: { readonly low: number; readonly high: number };
  /** Elevation of the rim as the recipe would name it, in true metres. */
  readonly rimElevation: number;
  /** Elevation of the sea in world metres; null where there is none. */
  readonly sea: number | null;
  /** Share of the ground at or below it, 0 to 1; null where there is none, or the ground is not measured yet. */
  readonly flooded: number | null;
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

/**
 * Everything that follows from the recipe and the facts of the source, without touching a pixel. Throws only where
 * the recipe can't be read at all; a size or split that a target refuses is in `refusals` and as a failed check.
 * `datum` overrules the stored value that heights are counted from.
 */
export function plan(recipe: Recipe, source: SourceFacts, ground: GroundStatistics | null, datum?: number): Plan {
  const target = writtenTarget(recipe);
  const chain = planChain(recipe, source.info);
  const entering = enteringOf(chain, source);
  const { info, spacing } = entering;
  const geometry = fitGeometry(recipe, info, registrationsOf(recipe, target), spacing);
  const unchanged =
    recipe.fit.method !== 'resample' ||
    (geometry.width === info.width && geometry.height === info.height && meetsSamples(geometry));
  const heights = planHeights({ recipe, target, chain, entering, source, ground, unchanged, datum });
  const { range, quantiser, zero, shown } = heights;
  const elevationOf = (stored: number): number => shown.offset + shown.unit * stored;
  const refusals: LevelGridError[] = [];
  if (chain.refusal) refusals.push(chain.refusal.error);
  const geometryFault = geometryRefusal(recipe, info, geometry);
  if (geometryFault) refusals.push(geometryFault);
  if (recipe.height.range === 'codes' && !heights.codes) refusals.push(NO_CODES);
  const tiles = tilesOf(recipe, target, geometry, source.file, refusals);
  const tile = { width: tiles.tileWidth, height: tiles.tileHeight };
  const choice: LayoutChoice =
    refusals.length > 0
      ? { layout: null, options: [], reason: null, refusal: null }
      : chooseLayout(recipe, target, tile, tiles.tiles.length > 1);
  if (choice.refusal) refusals.push(choice.refusal);
  const card = cardRows({ recipe, target, info, spacing, geometry, range, zero, tile, layout: choice.layout });
  const found = ground && {
    low: elevationOf(ground.datum + ground.min),
    high: elevationOf(ground.datum + ground.max),
  };
  const ownStep = entering.stats ? storedStep(entering.stats) : null;
  const fine = precision(
    stepOf(range, target, found ?? range),
    ownStep === null ? null : ownStep * shown.unit,
    Math.min(geometry.spacing.x, geometry.spacing.y) || 1,
  );
  if (ground && ground.voids > 0) refusals.push(voidRefusal(ground.voids, source.file));
  const clipped = clippedCounts(recipe, ground && rebased(ground, heights.datum), clipBounds(quantiser));
  const sea = recipe.height.sea === undefined ? null : worldElevation(recipe, range, recipe.height.sea);
  const flooded = sea === null || !found ? null : floodedShare(ground, found, sea);
  const checks = planChecks({
    recipe,
    target,
    source,
    entering,
    ends: chain.entering.ends,
    info,
    geometry,
    range,
    precision: fine,
    ground,
    elevationOf,
    flooded,
    clipped,
    tiles,
    choice,
  });
  for (const refusal of refusals)
    checks.unshift(refusalCheck(refusal, { recipe, target, source: source.info, info, geometry, range }));
  const document = documentOf({
    recipe,
    target,
    source,
    chain,
    entering,
    ground,
    geometry,
    heights,
    precision: fine,
    clipped,
    tiles,
    choice,
    card,
    checks,
  });
  const rimElevation = rimElevationOf(recipe, heights);
  return {
    document,
    work: {
      target,
      entering,
      geometry,
      fit: fitParameters(recipe, chain, geometry, heights, unchanged),
      calibration: heights.calibration,
      range,
      quantiser,
      rim: worldElevation(recipe, range, rimElevation),
      effectiveStep: fine.effectiveStep,
      sourceEnds: { low: elevationOf(heights.lowest), high: elevationOf(heights.highest) },
      trueEnds: {
        low: heights.sourceRange.low / recipe.fit.worldScale,
        high: heights.sourceRange.high / recipe.fit.worldScale,
      },
      rimElevation,
      sea,
      flooded,
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
