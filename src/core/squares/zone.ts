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

/** Degrees to metres east and north, and back. */
export interface Projector {
  readonly forward: (longitude: number, latitude: number) => readonly [east: number, north: number];
  readonly inverse: (east: number, north: number) => readonly [longitude: number, latitude: number];
}

export function projector({ zone, south }: Zone): Projector {
  const converter = proj4('EPSG:4326', `+proj=utm +zone=${zone}${south ? ' +south' : ''} +datum=WGS84 +units=m`);
  const pair = (of: readonly number[]): readonly [number, number] => [of[0] ?? NaN, of[1] ?? NaN];
  return {
    forward: (longitude, latitude) => pair(converter.forward([longitude, latitude])),
    inverse: (east, north) => pair(converter.inverse([east, north])),
  };
}
