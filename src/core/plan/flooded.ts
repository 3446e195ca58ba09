import type { GroundStatistics } from '../raster';

/**
 * Share of the fitted ground, 0 to 1, at or below a level: from the classes of its histogram, each taken as filled
 * evenly. All in the same metres; null where nothing is known of the ground.
 */
export function floodedShare(
  ground: Pick<GroundStatistics, 'histogram'> | null,
  ends: { readonly low: number; readonly high: number },
  level: number,
): number | null {
  if (!ground) return null;
  if (!(ends.high > ends.low)) return level >= ends.low ? 1 : 0;
  const all = ground.histogram.reduce((a, b) => a + b, 0);
  if (all === 0) return null;
  const classes = ((level - ends.low) / (ends.high - ends.low)) * ground.histogram.length;
  let count = 0;
  ground.histogram.forEach((n, i) => {
    count += n * Math.max(0, Math.min(1, classes - i));
  });
  return count / all;
}
