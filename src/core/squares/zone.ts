import proj4 from 'proj4';

/** A zone of the usual transverse cylinder projection: 6 degrees wide, in metres. */
export interface Zone {
  /** 1 to 60, eastwards from 180° W. */
  readonly zone: number;
  /** South of the equator: northings are counted from 10 000 000 m. */
  readonly south: boolean;
}

/** The zone that a place lies in, in degrees. */
export function zoneOf(longitude: number, latitude: number): Zone {
  const turned = (((longitude + 180) % 360) + 360) % 360;
  return { zone: Math.min(60, Math.floor(turned / 6) + 1), south: latitude < 0 };
}

/** Name of the coordinate reference system of a zone. */
export const zoneName = ({ zone, south }: Zone): string => `EPSG:${(south ? 32700 : 32600) + zone}`;

/** Places from one kind of coordinates to another, and back; each a pair of east and north, or longitude and latitude. */
export interface Way {
  readonly forward: (a: number, b: number) => readonly [number, number];
  readonly inverse: (a: number, b: number) => readonly [number, number];
}

/** The definition of a zone, as a line of proj. */
export const zoneDefinition = ({ zone, south }: Zone): string =>
  `+proj=utm +zone=${zone}${south ? ' +south' : ''} +datum=WGS84 +units=m`;

/** Degrees to the coordinates of a system, and back. Throws where the definition can't be read. */
export function fromDegrees(definition: string): Way {
  const converter = proj4('EPSG:4326', definition);
  const pair = (of: readonly number[]): readonly [number, number] => [of[0] ?? NaN, of[1] ?? NaN];
  return {
    forward: (longitude, latitude) => pair(converter.forward([longitude, latitude])),
    inverse: (x, y) => pair(converter.inverse([x, y])),
  };
}

/** Degrees to the metres of a zone, and back. */
export const projector = (zone: Zone): Way => fromDegrees(zoneDefinition(zone));
