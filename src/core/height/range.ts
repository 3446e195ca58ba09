import type { Recipe } from '../recipe';
import type { Target } from '../targets';

/** Elevations in world metres that the lowest and highest code of the written file stand for. */
export interface HeightRange {
  readonly low: number;
  readonly high: number;
  /** Low end before headroom or a fixed scale: the lowest ground by name. */
  readonly groundLow: number;
  readonly groundHigh: number;
  /** The range had no extent, so one metre was taken. */
  readonly flat: boolean;
}

/** Smallest range that is written; flat ground gets this much. */
const FLAT_RANGE = 1;

/**
 * The height range of the written file. `source` and `ground` are the calibrated elevations of the lowest and highest
 * that occur there, in world metres; pinned and anchored elevations of the recipe are true ones and shrink with the world.
 */
export function heightRange(
  recipe: Recipe,
  target: Target,
  source: { low: number; high: number },
  ground: { low: number; high: number },
): HeightRange {
  const { range, strategy, below = 0, above = 0, scale = 0, anchor } = recipe.height;
  const k = recipe.fit.worldScale;
  let low: number;
  let high: number;
  switch (range) {
    case 'source':
      ({ low, high } = source);
      break;
    case 'ground':
      ({ low, high } = ground);
      break;
    case 'pinned':
      low = (recipe.height.low ?? 0) * k;
      high = (recipe.height.high ?? 0) * k;
      break;
  }
  const flat = !(high > low);
  if (flat) high = low + FLAT_RANGE;
  const base = { groundLow: low, groundHigh: flat ? low : high, flat };
  switch (strategy) {
    case 'full':
      return { low, high, ...base };
    case 'headroom': {
      const total = (high - low) / (1 - below / 100 - above / 100);
      const start = low - (below / 100) * total;
      return { low: start, high: start + total, ...base };
    }
    case 'fixed': {
      const total = rangeOfScale(scale, target);
      const share = { lowest: 0, middle: 32768 / target.highestCode, highest: 1 }[anchor?.at ?? 'lowest'];
      const start = (anchor?.elevation ?? 0) * k - share * total;
      return { low: start, high: start + total, ...base };
    }
  }
}

/** Metres from the lowest to the highest code at a typed scale: F/100·65535/128 centred, the range itself for a span. */
export function rangeOfScale(scale: number, target: Target): number {
  switch (target.heights.kind) {
    case 'centred':
      return (scale * target.unit.metres * target.highestCode) / target.heights.divisor;
    case 'span':
      return scale;
  }
}

/** The scale to type for a range in metres: F = (H − L)·12800/65535 centred, the range itself for a span. */
export function scaleOfRange(metres: number, target: Target): number {
  switch (target.heights.kind) {
    case 'centred':
      return (metres * target.heights.divisor) / (target.unit.metres * target.highestCode);
    case 'span':
      return metres;
  }
}

/** The elevation, in world metres, that lies at world zero. */
export function worldZero(recipe: Recipe, target: Target, range: HeightRange): number {
  switch (recipe.height.offset) {
    case 'lowest-code':
      return range.low;
    case 'lowest-ground':
      return range.groundLow;
    case 'sea':
      return (recipe.height.sea ?? 0) * recipe.fit.worldScale;
    case 'survey':
      return 0;
    case 'middle-code':
      return range.low + ((range.high - range.low) * 32768) / target.highestCode;
  }
}
