import type { Filter } from '../raster';
import type { Geometry } from './geometry';

/** A written code may differ from the exact one only where the exact value lies this near to the middle of two. */
const FINEST_CODE = 0.01;

/** One rounding in Float32, as a share of the number. */
const ULP = 2 ** -24;

const REACH: Record<Filter, number> = { nearest: 0, area: 0.5, bilinear: 1, 'catmull-rom': 2, lanczos3: 3 };

/**
 * Whether sums in single precision would be too coarse. The largest error of the passes was measured against sums in
 * double precision (hills of all sizes, kernels of 2 to 192 taps): `(3.7 + taps / 30)` roundings of the largest sample.
 * @param spread largest distance of a stored sample from the datum
 * @param codesPerUnit written codes for one stored unit
 */
export function needsDouble(filter: Filter, geometry: Geometry, spread: number, codesPerUnit: number): boolean {
  if (filter === 'nearest') return false;
  const ratio = Math.max(1, geometry.sourcePerVertex.x, geometry.sourcePerVertex.y);
  const taps = 2 * REACH[filter] * ratio;
  return ULP * (3.7 + taps / 30) * spread * codesPerUnit > FINEST_CODE;
}
