import type { Georeference } from '../raster';

/** A raster by its name, size and place. */
export interface Lying {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly georeference?: Georeference | undefined;
}

/** A hair of a sample: places on a border belong to both sides. */
const ON_BORDER = 1e-6;

/**
 * The rasters that hold a place, in the units of their coordinates (degrees: longitude and latitude), with the sample
 * next to it, column and row; those that say nowhere where they lie hold none.
 */
export function holdersOf(
  rasters: readonly Lying[],
  east: number,
  north: number,
): { readonly name: string; readonly column: number; readonly row: number }[] {
  return rasters.flatMap(({ name, width, height, georeference: g }) => {
    if (!g) return [];
    // a raster across 180° goes on counting
    const middle = g.x + (g.dx * (width - 1)) / 2;
    const along = g.degrees ? east - 360 * Math.round((east - middle) / 360) : east;
    const [x, y] = [(along - g.x) / g.dx, (g.y - north) / g.dy];
    const inside = x >= -ON_BORDER && y >= -ON_BORDER && x <= width - 1 + ON_BORDER && y <= height - 1 + ON_BORDER;
    return inside ? [{ name, column: Math.round(x), row: Math.round(y) }] : [];
  });
}
