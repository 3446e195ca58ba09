import { LevelGridError } from '../base';
import type { RawLayout } from '../formats';
import { trueCalibration } from '../height';
import type { PlacedPart } from '../mosaic';
import { highestStored, METRES_PER_UNIT, type HeightUnit, type RasterInfo } from '../raster';
import { ASSUMABLE, MOST_ELEVATION, type Assumable, type Recipe, type SourceHeights } from '../recipe';

/** The recipe with these no longer placeholders. */
export function confirmed(recipe: Recipe, which: readonly Assumable[]): Recipe {
  const { assumed = [], ...source } = recipe.source;
  const left = assumed.filter((a) => !which.includes(a));
  return { ...recipe, source: left.length > 0 ? { ...source, assumed: left } : source };
}

/** The recipe with these as placeholders again: it is asked what they are. */
export function assumed(recipe: Recipe, which: readonly Assumable[]): Recipe {
  const all = ASSUMABLE.filter((a) => which.includes(a) || recipe.source.assumed?.includes(a));
  return { ...recipe, source: { ...recipe.source, assumed: all } };
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

/** What samples of the source are: vertices, of which n span n − 1 spacings, or cells. */
export function withRegistration(recipe: Recipe, registration: 'vertex' | 'cell'): Recipe {
  const { registration: _, ...source } = recipe.source;
  return { ...recipe, source: registration === 'vertex' ? source : { ...source, registration } };
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

/** Only ends have a curve between them. */
const withoutCurve = (recipe: Recipe): Recipe =>
  recipe.steps.some((s) => s.op === 'linearise')
    ? { ...recipe, steps: recipe.steps.filter((s) => s.op !== 'linearise') }
    : recipe;

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

/** A source that is made of several files, where they lie in the whole. */
export function withFiles(recipe: Recipe, files: readonly PlacedPart[]): Recipe {
  const placed = files.map(({ at: [column, row], ...file }) => ({ ...file, at: [column, row] as [number, number] }));
  return { ...recipe, source: { ...recipe.source, files: placed } };
}

/** Another reading of a headerless file. */
export function withRawLayout(recipe: Recipe, raw: RawLayout | null): Recipe {
  const { raw: _, ...source } = recipe.source;
  return { ...recipe, source: raw ? { ...source, raw: { ...raw } } : source };
}

/** Rows that can't be read become voids, or such a file is refused. */
export function withPartial(recipe: Recipe, partial: boolean): Recipe {
  const { partial: _, ...source } = recipe.source;
  return { ...recipe, source: partial ? { ...source, partial } : source };
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
