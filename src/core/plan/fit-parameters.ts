import { metricVertices, type Chain, type FitParameters } from '../chain';
import { sampleOfElevation } from '../height';
import type { Recipe } from '../recipe';
import { needsDouble } from './fine';
import type { Geometry } from './geometry';
import type { Heights } from './heights';

/** Elevation of the rim as the recipe would name it, in true metres: the source's lowest, unless the recipe says otherwise. */
export const rimElevationOf = (recipe: Recipe, { sourceRange }: Heights): number =>
  recipe.fit.rim ?? sourceRange.low / recipe.fit.worldScale;

/** Vertices on both sides: nothing else has to be said. */
const sameKind = ({ source, result }: Geometry['registrations']): boolean => source === 'vertex' && result === 'vertex';

/** Codes that one stored unit makes; floats are held to what 16 bits over the range would tell apart. */
const codesPerUnit = ({ quantiser, plain, range }: Heights): number =>
  quantiser.stores === 'codes' ? quantiser.scale : (65535 * plain.unit) / (range.plain.high - range.plain.low);

/** All that reaches the samples of the fitted ground. `unchanged`: no sample changes. */
export function fitParameters(
  recipe: Recipe,
  chain: Chain,
  geometry: Geometry,
  heights: Heights,
  unchanged: boolean,
): FitParameters {
  const { stats, lowest, highest, datum, plain } = heights;
  const { voids: fill, filter, method, clamp, worldScale } = recipe.fit;
  const heightOf = (elevation: number): number => sampleOfElevation(elevation, plain, worldScale);
  const rim = heightOf(rimElevationOf(recipe, heights));
  const bounds = { low: lowest - datum, high: highest - datum };
  const onGrid = { width: geometry.width, height: geometry.height, datum };
  const filled = fill === undefined ? null : heightOf(fill);
  const { deferred } = chain.entering;
  if (deferred)
    return {
      ...onGrid,
      voidFill: filled,
      how: 'warp',
      vertices: metricVertices(chain.entering, deferred, geometry),
      orientation: chain.entering.orientation,
      filter,
      clamp: clamp || deferred.hold ? bounds : null,
      rim,
    };
  const voids = stats.voids > 0;
  const voidFill = voids ? filled : null;
  if (method !== 'resample')
    return { ...onGrid, voidFill, how: 'place', column: geometry.sourceStart.x, row: geometry.sourceStart.y, rim };
  if (unchanged) return { ...onGrid, voidFill, how: 'as-is' };
  const spread = Math.max(Math.abs(bounds.low), Math.abs(bounds.high));
  return {
    ...onGrid,
    voidFill,
    how: 'resample',
    filter,
    clamp: clamp ? bounds : null,
    voids,
    precise: needsDouble(filter, geometry, spread, codesPerUnit(heights)),
    ...(sameKind(geometry.registrations) ? {} : { registrations: geometry.registrations }),
  };
}
