import { heightsOf, place, resample, type HeightStream, type OpenRaster } from '../raster';
import type { Recipe } from '../recipe';
import type { Work } from '../plan';

/** The ground fitted to the target's grid, as a stream of height samples. */
export function fittedGround(raster: OpenRaster, recipe: Recipe, work: Work): HeightStream {
  return fitHeights(heightsOf(raster, work.datum), recipe, work);
}

export function fitHeights(heights: HeightStream, recipe: Recipe, work: Work): HeightStream {
  const { geometry, clamp, voids, rim } = work;
  const { width, height } = geometry;
  if (recipe.fit.method === 'resample') {
    // the same grid needs no kernel: samples stay what they are
    if (width === heights.width && height === heights.height) return heights;
    return resample(heights, { width, height, filter: recipe.fit.filter, clamp, voids });
  }
  return place(heights, { width, height, column: geometry.sourceStart.x, row: geometry.sourceStart.y, rim });
}
