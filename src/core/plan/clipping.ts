import { HALF_STEP, type Quantiser } from '../height';
import type { Bounds, GroundStatistics } from '../raster';
import type { Recipe } from '../recipe';

/** Height samples beyond these are clipped; null where metres are stored, which have no ends. */
export function clipBounds({ stores, scale, offset, highest }: Quantiser): Bounds | null {
  if (stores === 'metres') return null;
  const half = HALF_STEP[stores];
  return { low: (-half - offset) / scale, high: (highest + half - offset) / scale };
}

/** True where the range follows the ground, so that no sample can lie outside it. */
const neverClips = (recipe: Recipe): boolean => recipe.height.range === 'ground' && recipe.height.strategy !== 'fixed';

/** The bounds that a pass over the ground should count against; null where nothing can lie outside. */
export function boundsToCount(recipe: Recipe, work: { readonly quantiser: Quantiser }): Bounds | null {
  return neverClips(recipe) ? null : clipBounds(work.quantiser);
}

/** How many samples lie beyond each end; null until they have been counted against these bounds. */
export function clippedCounts(
  recipe: Recipe,
  ground: GroundStatistics | null,
  bounds: Bounds | null,
): { low: number | null; high: number | null } {
  if (!ground) return { low: null, high: null };
  if (!bounds) return { low: 0, high: 0 };
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
export function rebased(ground: GroundStatistics, datum: number): GroundStatistics {
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
