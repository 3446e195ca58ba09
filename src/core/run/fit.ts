import type { JobContext } from '../base';
import { heightsOf, place, resample, type Band, type HeightStream, type OpenRaster } from '../raster';
import type { Recipe } from '../recipe';
import type { Work } from '../plan';

/** The ground fitted to the target's grid, as a stream of height samples. */
export function fittedGround(raster: OpenRaster, recipe: Recipe, work: Work): HeightStream {
  return fitHeights(heightsOf(raster, work.datum), recipe, work);
}

export function fitHeights(heights: HeightStream, recipe: Recipe, work: Work): HeightStream {
  const fitted = fittedOnly(heights, recipe, work);
  return work.voids && work.voidFill !== null ? withoutVoids(fitted, work.voidFill) : fitted;
}

function fittedOnly(heights: HeightStream, recipe: Recipe, work: Work): HeightStream {
  const { geometry, clamp, voids, rim, precise } = work;
  const { width, height } = geometry;
  if (recipe.fit.method === 'resample') {
    // the same grid needs no kernel: samples stay what they are
    if (width === heights.width && height === heights.height) return heights;
    return resample(heights, { width, height, filter: recipe.fit.filter, clamp, voids, precise });
  }
  return place(heights, { width, height, column: geometry.sourceStart.x, row: geometry.sourceStart.y, rim });
}

/** Vertices without ground get one height. */
function withoutVoids({ width, height, datum, ...stream }: HeightStream, fill: number): HeightStream {
  return {
    width,
    height,
    datum,
    async *bands(job?: JobContext): AsyncGenerator<Band> {
      for await (const { y, rows, data } of stream.bands(job)) {
        const filled = data.slice();
        for (let i = 0; i < filled.length; i++) if (filled[i] !== filled[i]) filled[i] = fill;
        yield { y, rows, data: filled };
      }
    },
  };
}
