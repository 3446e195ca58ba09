import { formatNumber, formatShort } from '../base';
import { highestStored } from './stored-range';
import { METRES_PER_UNIT, type Georeference, type RasterInfo, type RasterWarning } from './types';

/** Sides of a sample that differ by less than this share are alike. */
const SQUARE_WITHIN = 1e-3;

/**
 * Metres of one degree of latitude and of longitude at a latitude in degrees (series of the meridian and parallel arcs
 * of the ellipsoid, to centimetres).
 */
export function metresPerDegree(latitude: number): { north: number; east: number } {
  const phi = (latitude * Math.PI) / 180;
  return {
    north: 111132.954 - 559.822 * Math.cos(2 * phi) + 1.175 * Math.cos(4 * phi),
    east: 111412.84 * Math.cos(phi) - 93.5 * Math.cos(3 * phi) + 0.118 * Math.cos(5 * phi),
  };
}

/** Metres from sample to sample, where a file says enough to know: east and north, in the middle of the raster. */
export function groundSpacing(
  info: Pick<RasterInfo, 'height' | 'georeference' | 'noted'>,
): { east: number; north: number } | null {
  const { georeference: g } = info;
  const said = info.noted?.spacing;
  if (!g) return said === undefined ? null : { east: said, north: said };
  if (g.degrees) {
    const middle = middleLatitude(g, info.height);
    if (Math.abs(middle) >= 90) return null;
    const per = metresPerDegree(middle);
    return { east: g.dx * per.east, north: g.dy * per.north };
  }
  if (g.scale) return { east: g.dx * g.scale.east, north: g.dy * g.scale.north };
  return g.metres === null ? null : { east: g.dx * g.metres, north: g.dy * g.metres };
}

const middleLatitude = (g: Georeference, height: number): number => g.y - (g.dy * (height - 1)) / 2;

/** What of the placement of a raster stands in the way of taking its samples for squares of metres. */
export function georeferenceWarnings(info: RasterInfo): RasterWarning[] {
  const { georeference: g, height } = info;
  const spacing = groundSpacing(info);
  if (!g || !spacing) return [];
  const stretch = spacing.north / spacing.east;
  const words = `${formatShort(spacing.east, 2)} m east–west and ${formatShort(spacing.north, 2)} m north–south`;
  if (g.degrees)
    return [
      {
        code: 'degrees',
        message: `The samples lie ${formatShort(g.dx * 3600, 3)} arc-seconds apart, which in the middle (${formatNumber(middleLatitude(g, height), 2)}°) is ${words}. They are read as squares: everything looks ${formatShort(stretch, 2)} times too wide. Make square metres of them.`,
      },
    ];
  if (g.scale)
    return [
      {
        code: 'degrees',
        message: `The map that the coordinates belong to${g.crs === null ? '' : ` (${g.crs})`} stretches the ground: ${formatShort(g.dx * (g.metres ?? 1), 2)} m of it are ${words} in the middle, and other lengths elsewhere. Make square metres of them.`,
      },
    ];
  if (Math.abs(stretch - 1) <= SQUARE_WITHIN) return [];
  return [
    {
      code: 'degrees',
      message: `The samples lie ${words} apart. They are read as squares of ${formatShort(spacing.north, 2)} m: resample the raster to squares before.`,
    },
  ];
}

/** Metres of one unit of the stored heights, where the file says what they are. */
export const metresOfHeight = ({ unit }: Pick<RasterInfo, 'unit'>): number | null =>
  unit === undefined ? null : METRES_PER_UNIT[unit];

/**
 * Stored values as metres (`offset + unit · value`), as far as the file, a record or a note beside it says what they are:
 * true ones, any stretch undone. Null where nothing is said.
 */
export function metresOfStored(info: RasterInfo): { readonly unit: number; readonly offset: number } | null {
  const { codes, stretched = 1 } = info;
  if (codes) return { unit: (codes.high - codes.low) / highestStored(info) / codes.stretch, offset: codes.low };
  const unit = metresOfHeight(info);
  // where a factor is said and no unit, it makes metres of what is stored
  if (info.scaled)
    return { unit: (info.scaled.factor * (unit ?? 1)) / stretched, offset: info.scaled.base * (unit ?? 1) };
  return unit === null ? null : { unit: unit / stretched, offset: 0 };
}
