import proj4 from 'proj4';
import { metresPerDegree, type Georeference, type RasterInfo } from '../raster';
import { fromDegrees, projector, zoneDefinition, type Way, type Zone } from './zone';

/*
 * Coordinate systems that are neither degrees nor true metres: feet, and projections that stretch the ground (the usual
 * map of the world makes 10 m of it 14 m wide at 45°). What a code in the usual register stands for comes from a list
 * that ships with the application, and from well-known text where a file has that.
 */

/** Metres of a degree or of a unit may be off by this share before it is worth telling. */
const STRETCH_WITHIN = 5e-3;
const LONGEST = 8192;

/** Tables of shifts, which are not here: they move a place by metres, and stretch nothing. */
const GRIDS = /\+nadgrids=(?!@null)\S+/;

/** Definition of a code; the zones of the usual cylinder projections need no list. */
async function definitionOf(crs: string | null): Promise<string | null> {
  const code = /^EPSG:(\d{4,6})$/.exec(crs ?? '')?.[1];
  if (code === undefined) return null;
  const zone = /^32([67])(\d\d)$/.exec(code);
  if (zone && Number(zone[2]) >= 1 && Number(zone[2]) <= 60)
    return zoneDefinition({ zone: Number(zone[2]), south: zone[1] === '7' });
  // some hundred kilobytes, of which few files need a line
  const { default: list } = await import('proj4-list');
  return list[`EPSG:${code}`]?.[1].replace(GRIDS, '').trim() ?? null;
}

/** What the package makes of a definition, as far as it matters here; its types leave it out. */
interface Parsed {
  readonly projName?: string;
  readonly units?: string;
  readonly to_meter?: number | string;
}

interface System {
  readonly degrees: boolean;
  readonly metres: number | null;
  /** Made for a narrow zone, in which it is true to less than is worth telling; far outside, coordinates are made up. */
  readonly zonal: boolean;
}
const ZONAL = /^(utm|e?tmerc|fast_tmerc|transverse.?mercator|gauss.*)$/i;

/** A definition as the package reads it; null where it can't be read. */
function systemIn(definition: string): System | null {
  try {
    const { projName, units, to_meter: metres } = new proj4.Proj(definition) as unknown as Parsed;
    if (projName === undefined) return null;
    if (/^longlat$/i.test(projName)) return { degrees: true, metres: null, zonal: false };
    const unit = Number(metres);
    const known = unit > 0 ? unit : units === undefined || /^m/i.test(units) ? 1 : null;
    return { degrees: false, metres: known, zonal: ZONAL.test(projName) };
  } catch {
    return null;
  }
}

/**
 * Says of a raster with projected coordinates what its system makes of them: the unit, and how far from true a metre of
 * them is in the middle of the raster, where that is worth telling.
 */
export async function withSystem(info: RasterInfo): Promise<RasterInfo> {
  const { georeference: g } = info;
  if (!g || g.degrees) return info;
  const definition =
    (g.text !== undefined && g.text.length <= LONGEST && !GRIDS.test(g.text) ? g.text : null) ??
    (await definitionOf(g.crs));
  const system = definition === null ? null : systemIn(definition);
  if (definition === null || !system) return info;
  if (system.degrees) return { ...info, georeference: { ...g, degrees: true, metres: null } };
  // what the file itself says of the unit counts
  const metres = g.metres === null || g.assumed ? (system.metres ?? g.metres) : g.metres;
  const { assumed: _, ...rest } = g;
  const known: Georeference = { ...rest, metres };
  const scale = system.zonal ? null : scaleOf(definition, known, info);
  if (!scale || metres === null) return { ...info, georeference: known };
  const off = Math.max(Math.abs(scale.east / metres - 1), Math.abs(scale.north / metres - 1));
  return { ...info, georeference: off > STRETCH_WITHIN ? { ...known, system: definition, scale } : known };
}

/** Metres of ground that a unit of the coordinates is in the middle of a raster. */
function scaleOf(
  definition: string,
  g: Georeference,
  { width, height }: Pick<RasterInfo, 'width' | 'height'>,
): { readonly east: number; readonly north: number } | null {
  const x = g.x + (g.dx * (width - 1)) / 2;
  const y = g.y - (g.dy * (height - 1)) / 2;
  try {
    const { inverse } = fromDegrees(definition);
    const place = inverse(x, y);
    const length = (to: readonly [number, number]): number => {
      const per = metresPerDegree(place[1]);
      return Math.hypot(turn(to[0] - place[0]) * per.east, (to[1] - place[1]) * per.north);
    };
    const east = length(inverse(x + g.dx, y)) / g.dx;
    const north = length(inverse(x, y + g.dy)) / g.dy;
    return east > 0 && north > 0 && Number.isFinite(east) && Number.isFinite(north) ? { east, north } : null;
  } catch {
    // a place that the system does not reach
    return null;
  }
}

/** A difference of longitudes, the short way round. */
const turn = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180;

/** Longitude and latitude of the middle of a raster; null where its system is not known. */
export function middleOf({
  georeference: g,
  width,
  height,
}: Pick<RasterInfo, 'georeference' | 'width' | 'height'>): readonly [number, number] | null {
  if (!g) return null;
  const x = g.x + (g.dx * (width - 1)) / 2;
  const y = g.y - (g.dy * (height - 1)) / 2;
  if (g.degrees) return [x, y];
  return g.system === undefined ? null : fromDegrees(g.system).inverse(x, y);
}

/**
 * Coordinates of a raster to metres of a zone (`forward`), and back. Longitudes go on across 180°: a raster that begins
 * at 179.5° ends at 180.5°.
 */
export function fromCoordinates(g: Pick<Georeference, 'x' | 'dx' | 'system'>, width: number, zone: Zone): Way {
  const { forward, inverse } = projector(zone);
  if (g.system !== undefined) {
    const own = fromDegrees(g.system);
    return {
      forward: (x, y) => forward(...own.inverse(x, y)),
      inverse: (east, north) => own.forward(...inverse(east, north)),
    };
  }
  const middle = g.x + (g.dx * (width - 1)) / 2;
  return {
    forward,
    inverse: (east, north) => {
      const [longitude, latitude] = inverse(east, north);
      return [middle + turn(longitude - middle), latitude];
    },
  };
}
