import type { Recipe } from '../recipe';
import type { Target } from '../targets';
import { exaggeratedElevation } from './calibration';

/** Two elevations in world metres. */
export interface Span {
  readonly low: number;
  readonly high: number;
}

/** Elevations in world metres that the lowest and highest code of the written file stand for. */
export interface HeightRange extends Span {
  /** Ends before headroom or a fixed scale: the lowest and highest ground by name. */
  readonly groundLow: number;
  readonly groundHigh: number;
  /** The elevation that exaggeration leaves where it is: the low end of the range. */
  readonly pivot: number;
  /** The range had no extent, so one metre was taken. */
  readonly flat: boolean;
  /** The same two ends before exaggeration: codes are worked out from these, so that exaggeration alone changes none. */
  readonly plain: Span;
}

/** What a range can be taken from: true elevations in world metres, before exaggeration. */
export interface RangeSources {
  /** Of the lowest and highest stored value that occurs in the source. */
  readonly source: Span;
  /** Of the fitted ground. */
  readonly ground: Span;
  /** Of the lowest and highest code that the source's type can hold; null where its samples are metres. */
  readonly codes: Span | null;
}

/** Heights that lie no further apart than floats of 32 bits tell apart are one height. */
const FINEST = 2 ** -24;

/** Smallest range that is written; flat ground gets this much. */
const FLAT_RANGE = 1;

/**
 * The height range of the written file, in world metres. Elevations of the recipe are true ones: they shrink with the
 * world and are exaggerated with the ground, so exaggeration alone changes no code, only what codes stand for.
 */
export function heightRange(recipe: Recipe, target: Target, sources: RangeSources): HeightRange {
  const { strategy, below = 0, above = 0, scale = 0, anchor, exaggeration } = recipe.height;
  const k = recipe.fit.worldScale;
  const base = baseRange(recipe, sources);
  const { low } = base;
  const grown = (elevation: number): number => exaggeratedElevation(elevation, low, exaggeration);
  const flat = !(base.high - low > FINEST * Math.max(Math.abs(low), Math.abs(base.high)));
  const named = { groundLow: low, groundHigh: flat ? low : grown(base.high), pivot: low, flat };
  const range = (plain: Span): HeightRange => ({ low: grown(plain.low), high: grown(plain.high), ...named, plain });
  // flat ground gets its metre as it is written
  const high = flat ? low + FLAT_RANGE / exaggeration : base.high;
  /** So many metres in all as they are written, from an elevation as it is written on; heights that grow against it take other codes. */
  const fixed = (start: number, total: number): HeightRange => {
    const back = (elevation: number): number => exaggeratedElevation(elevation, low, 1 / exaggeration);
    const end = start + total;
    return { low: start, high: end, ...named, plain: { low: back(start), high: back(end) } };
  };
  // a target whose codes are so many metres apart has this range and no other
  if (target.heights.kind === 'fixed-step' && strategy !== 'fixed') return fixed(low, rangeOfScale(0, target));
  switch (strategy) {
    case 'full':
      return range({ low, high });
    case 'headroom': {
      const total = (high - low) / (1 - below / 100 - above / 100);
      const start = low - (below / 100) * total;
      return range({ low: start, high: start + total });
    }
    case 'fixed': {
      const total = rangeOfScale(scale, target);
      const share = { lowest: 0, middle: middleCode(target) / target.highestCode, highest: 1 }[anchor?.at ?? 'lowest'];
      return fixed(grown((anchor?.elevation ?? 0) * k) - share * total, total);
    }
  }
}

function baseRange(recipe: Recipe, { source, ground, codes }: RangeSources): Span {
  const k = recipe.fit.worldScale;
  switch (recipe.height.range) {
    case 'source':
      return source;
    case 'ground':
      return ground;
    case 'codes':
      return codes ?? source;
    case 'pinned':
      return { low: (recipe.height.low ?? 0) * k, high: (recipe.height.high ?? 0) * k };
  }
}

/**
 * The factor on heights about `low` at which ground from `low` to `high` (true elevations in metres) just fills a fixed
 * scale, up to the code that stands for its upper end.
 */
export function flatteningFactor({ low, high }: Span, scale: number, target: Target): number {
  return high > low ? rangeOfScale(scale, target) / (high - low) : 1;
}

/** Metres from the lowest to the highest code at a typed scale: F/100·65535/128 centred, the range itself for a span. */
export function rangeOfScale(scale: number, target: Target): number {
  switch (target.heights.kind) {
    case 'centred':
      return (scale * target.unit.metres * target.highestCode) / target.heights.divisor;
    case 'fixed-step':
      return target.heights.step * target.highestCode;
    case 'span':
    case 'layers':
      return scale;
  }
}

/** The scale to type for a range in metres: F = (H − L)·12800/65535 centred, the range itself for a span. */
export function scaleOfRange(metres: number, target: Target): number {
  switch (target.heights.kind) {
    case 'centred':
      return (metres * target.heights.divisor) / (target.unit.metres * target.highestCode);
    case 'span':
    case 'fixed-step':
    case 'layers':
      return metres;
  }
}

/** The code in the middle of all: 32768 of 16 bits. */
export const middleCode = ({ highestCode }: Pick<Target, 'highestCode'>): number => (highestCode + 1) / 2;

/** The elevation, in world metres, that lies at world zero. */
export function worldZero(recipe: Recipe, target: Target, range: HeightRange): number {
  if (target.zero === 'lowest-code') return range.low;
  if (target.zero === 'elevation') return 0;
  switch (recipe.height.offset) {
    case 'lowest-code':
      return range.low;
    case 'lowest-ground':
      return range.groundLow;
    case 'sea':
      return exaggeratedElevation(
        (recipe.height.sea ?? 0) * recipe.fit.worldScale,
        range.pivot,
        recipe.height.exaggeration,
      );
    case 'survey':
      return 0;
    case 'middle-code':
      return range.low + ((range.high - range.low) * middleCode(target)) / target.highestCode;
  }
}
