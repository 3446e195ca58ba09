import { LevelGridError } from '../base';
import { withBestFit } from './fit';
import type { RawLayout } from '../formats';
import { trueCalibration } from '../height';
import type { Arrangement, PlacedPart } from '../mosaic';
import type { Squares } from '../squares';
import { groundSpacing, highestStored, METRES_PER_UNIT, type Curve, type HeightUnit, type RasterInfo } from '../raster';
import { MOST_ELEVATION, type Assumable, type Recipe, type SourceHeights } from '../recipe';

/** The recipe with these no longer placeholders. */
export function confirmed(recipe: Recipe, which: readonly Assumable[]): Recipe {
  const { assumed = [], ...source } = recipe.source;
  const left = assumed.filter((a) => !which.includes(a));
  return { ...recipe, source: left.length > 0 ? { ...source, assumed: left } : source };
}

/** Typed values. What was typed is a placeholder no longer; what follows from it stays one. */
export function withHeights(recipe: Recipe, heights: SourceHeights, typed: readonly Assumable[]): Recipe {
  return confirmed({ ...recipe, source: { ...recipe.source, heights } }, typed);
}

/** Elevations in another unit. */
export function withUnit(recipe: Recipe, unit: HeightUnit): Recipe {
  const { heights } = recipe.source;
  return heights.as === 'elevations' ? withHeights(recipe, { ...heights, unit }, ['unit']) : recipe;
}

/** Heights that whoever made the file has stretched by this factor; 1: not at all. */
export function withStretch(recipe: Recipe, factor: number): Recipe {
  const { stretch: _, ...heights } = recipe.source.heights;
  return withHeights(recipe, factor === 1 ? heights : { ...heights, stretch: factor }, []);
}

/** Codes whose fractions were cut off, or rounded as usual. */
export function withTruncation(recipe: Recipe, truncated: boolean): Recipe {
  if (recipe.source.heights.as === 'elevations') return recipe;
  const { truncated: _, ...heights } = recipe.source.heights;
  return withHeights(recipe, truncated ? { ...heights, truncated } : heights, []);
}

export function withSpacing(recipe: Recipe, spacing: number): Recipe {
  return confirmed({ ...recipe, source: { ...recipe.source, spacing } }, ['spacing']);
}

type StoredType = Pick<RasterInfo, 'bitDepth' | 'sampleType'>;

/** The elevations of the ends of codes, or of 0 and 1, where heights are given so; else placeholders' or computed ones. */
function endsOf(heights: SourceHeights, info: StoredType): { low: number; high: number } | null {
  if (heights.as === 'ends') return { low: heights.low, high: heights.high };
  if (heights.as === 'elevations' && info.sampleType === 'float') return null;
  const { step, base } = stepOf(heights, info);
  const high = base + step * highestStored(info);
  return Math.abs(high) <= MOST_ELEVATION ? { low: base, high } : null;
}

function stepOf(heights: SourceHeights, info: StoredType): { step: number; base: number } {
  switch (heights.as) {
    case 'step':
      return { step: heights.step, base: heights.base };
    case 'ends':
      return { step: (heights.high - heights.low) / highestStored(info), base: heights.low };
    case 'elevations':
      return { step: METRES_PER_UNIT[heights.unit ?? 'metre'], base: 0 };
  }
}

/**
 * The same heights said in another way. Where the way before knows nothing of it (floats that were elevations and shall
 * run from 0 to 1), placeholders stand in.
 */
export function heightsGivenAs(recipe: Recipe, info: StoredType, as: SourceHeights['as']): Recipe {
  const { heights, assumed = [] } = recipe.source;
  if (heights.as === as) return recipe;
  const { stretch } = heights;
  const made = {
    ...(stretch === undefined ? {} : { stretch }),
    ...('truncated' in heights && heights.truncated ? { truncated: heights.truncated } : {}),
  };
  switch (as) {
    case 'elevations': {
      const { truncated: _, ...rest } = { truncated: undefined, ...made };
      const unit = info.sampleType === 'float' ? {} : { unit: 'metre' as const };
      const next = confirmed(withoutCurve(withHeights(recipe, { as, ...unit, ...rest }, [])), ['low', 'high']);
      return next.height.range === 'codes' && info.sampleType === 'float'
        ? { ...next, height: { ...next.height, range: 'source' } }
        : next;
    }
    case 'step':
      return withoutCurve(withHeights(recipe, { as, ...stepOf(heights, info), ...made }, ['unit']));
    case 'ends': {
      const ends = endsOf(heights, info);
      if (ends) return withHeights(recipe, { as, ...ends, ...made }, ['unit']);
      const all: Assumable[] = ['low', 'high', ...(assumed.includes('spacing') ? (['spacing'] as const) : [])];
      return { ...recipe, source: { ...recipe.source, heights: { as, low: 0, high: 500, ...made }, assumed: all } };
    }
  }
}

/** Another display curve undone, or none: only ends have one between them, and it knows of no halves of codes. */
export function withCurve(recipe: Recipe, info: RasterInfo, curve: Curve | null): Recipe {
  if (curve === null) return withoutCurve(recipe);
  // seams were blended in stored values, which stand for others now
  const { heights, blend: __, ...source } = heightsGivenAs(recipe, info.curved ?? info, 'ends').source;
  const { truncated: _, ...ends } = { truncated: undefined, ...heights } as Extract<SourceHeights, { as: 'ends' }>;
  return { ...recipe, source: { ...source, heights: ends, curve } };
}

/** Only ends have a curve between them. */
function withoutCurve(recipe: Recipe): Recipe {
  const { curve: _, ...source } = recipe.source;
  return { ...recipe, source };
}

/** Floats as metres already: no elevations are needed, and the range follows the ground. */
export const asMetres = (recipe: Recipe): Recipe => heightsGivenAs(recipe, FLOATS, 'elevations');

/** Floats as shares from 0 to 1, whose ends have elevations that nobody has said yet. */
export const asShares = (recipe: Recipe): Recipe => heightsGivenAs(recipe, FLOATS, 'ends');

const FLOATS = { bitDepth: 32, sampleType: 'float' } as const;

/** A place whose elevation is known, and what is stored there. */
export interface KnownSpot {
  readonly stored: number;
  /** True metres. */
  readonly elevation: number;
}

/**
 * Heights that agree with known spots: one moves them all up or down, two lay them out between. Throws `calibration`
 * where two spots hold the same value, or would turn the ground upside down.
 */
export function throughSpots(recipe: Recipe, info: StoredType, spots: readonly KnownSpot[]): Recipe {
  const { heights } = recipe.source;
  const [a, b] = spots;
  if (!a) return recipe;
  const before = trueCalibration(heights, info);
  const unit = b ? (b.elevation - a.elevation) / (b.stored - a.stored) : before.unit;
  if (!(unit > 0) || !Number.isFinite(unit)) {
    throw new LevelGridError('calibration', {
      found: `${b?.stored === a.stored ? 'the same value' : 'the higher value on the lower ground'} at both spots`,
      expected: 'two spots of different height, the higher one with the higher value',
      remedy: 'Take spots further apart in height, or check their elevations.',
    });
  }
  // as it is stored: two spots know nothing of a stretch, it is in what they say
  const { stretch = 1 } = b ? {} : heights;
  const half = 'truncated' in heights && heights.truncated && info.sampleType !== 'float' ? 0.5 : 0;
  const base = a.elevation - unit * (a.stored + half);
  const step = unit * stretch;
  const made = {
    ...(stretch === 1 ? {} : { stretch }),
    ...(half > 0 ? { truncated: true as const } : {}),
  };
  const next: SourceHeights =
    heights.as === 'ends'
      ? { as: 'ends', low: base, high: base + step * highestStored(info), ...made }
      : { as: 'step', step, base, ...made };
  return withHeights(recipe, next, b ? ['low', 'high', 'unit'] : ['low']);
}

/**
 * A source that is made of several files. Values that are multiplied or moved are codes no longer: what those of `before`
 * stood for is then said by step and base.
 */
export function withFiles(recipe: Recipe, files: readonly PlacedPart[], before?: StoredType): Recipe {
  const placed = files.map(({ at: [column, row], ...file }) => ({ ...file, at: [column, row] as [number, number] }));
  const scaled = files.some((f) => (f.factor ?? 1) !== 1 || (f.shift ?? 0) !== 0);
  const { source } = scaled && before ? betweenCodes(recipe, before) : recipe;
  return { ...recipe, source: { ...source, files: placed } };
}

/** Steps at the seams of several files spread over so many samples on either side, or left as they are; as above. */
export function withBlend(recipe: Recipe, blend: number | null, before: StoredType): Recipe {
  const { blend: _, ...source } = (blend === null ? recipe : heightsBetweenEnds(recipe, before)).source;
  return { ...recipe, source: blend === null ? source : { ...source, blend } };
}

/** Heights that are no whole codes any more keep what they stand for. */
const betweenCodes = (recipe: Recipe, before: StoredType): Recipe =>
  before.sampleType === 'float' ? recipe : heightsBetweenEnds(recipe, before);

/** Heights that were said by their ends, said by step and base. */
const heightsBetweenEnds = (recipe: Recipe, before: StoredType): Recipe =>
  recipe.source.heights.as === 'ends' ? heightsGivenAs(recipe, before, 'step') : recipe;

/**
 * A raster in degrees (`before`) as square metres, or as it lies; the grid is chosen anew for what it then is (`info`).
 * Between samples there are no codes: what these stand for is said by step and base.
 */
export function withSquares(recipe: Recipe, before: StoredType, info: RasterInfo, squares: Squares | null): Recipe {
  const { squares: _, ...source } = (squares ? betweenCodes(recipe, before) : recipe).source;
  const spacing = squares?.spacing ?? groundSpacing(info)?.north ?? source.spacing;
  const next = confirmed({ ...recipe, source: { ...source, ...(squares ? { squares } : {}), spacing } }, ['spacing']);
  return withBestFit(next, info);
}

/** For another source: nothing of how the one before was read, and its files as they lie. */
export function readPlainly(recipe: Recipe, arrangement: Arrangement | null): Recipe {
  const { raw: _, files: __, blend: ______, partial: ___, squares: ____, mesh: _____, ...source } = recipe.source;
  const plain = { ...recipe, source };
  return arrangement ? withFiles(plain, arrangement.parts) : plain;
}

/** Another reading of a headerless file. */
export function withRawLayout(recipe: Recipe, raw: RawLayout | null): Recipe {
  const { raw: _, ...source } = recipe.source;
  return { ...recipe, source: raw ? { ...source, raw: { ...raw } } : source };
}

interface Sides {
  readonly width: number;
  readonly height: number;
}

/** What stays when a source is replaced by one of another size. */
export type Keeps = 'extent' | 'spacing';

/** The source that a recipe is for, and its spacing. */
export interface Before extends Sides {
  readonly spacing: number;
}

/**
 * The recipe for a source of another size: the ground keeps its extent (the samples lie closer or further apart), or
 * its spacing (the ground becomes larger or smaller). Every other choice stays.
 */
export function forReplacement(recipe: Recipe, before: Before, after: Sides, keeps: Keeps): Recipe {
  const same = keeps === 'spacing' || before.width < 2 || after.width < 2;
  const spacing = same ? before.spacing : (before.spacing * (before.width - 1)) / (after.width - 1);
  return spacing === recipe.source.spacing ? recipe : { ...recipe, source: { ...recipe.source, spacing } };
}
