import { placeBefore, type Stage } from '../operations';
import type { MapPlace } from '../raster';
import type { Geometry } from './geometry';

/**
 * Where the samples of the whole lie on the map that the source states: null where it states none, or where its ground was
 * turned by an angle or bent. World scale and exaggeration make a copy of that ground and leave its place.
 */
export function placeOnMap({ info, orientation }: Stage, geometry: Geometry): MapPlace | null {
  const { georeference: g } = info;
  if (!g) return null;
  const { sourceStart: start, sourcePerVertex: per } = geometry;
  const at = (x: number, y: number): readonly [east: number, north: number] => {
    const before = placeBefore(orientation, info, { x: start.x + x * per.x, y: start.y + y * per.y });
    return [g.x + before.x * g.dx, g.y - before.y * g.dy];
  };
  const origin = at(0, 0);
  const way = ([east, north]: readonly [number, number]): readonly [number, number] => [
    east - origin[0],
    north - origin[1],
  ];
  return { origin, across: way(at(1, 0)), down: way(at(0, 1)), degrees: g.degrees, metres: g.metres, crs: g.crs };
}

/** The same of a file, whose first sample is that in a column and row of the whole. */
export function placeOfFile<P extends Pick<MapPlace, 'origin' | 'across' | 'down'>>(
  whole: P,
  { x, y }: { readonly x: number; readonly y: number },
): P {
  const { origin, across, down } = whole;
  return {
    ...whole,
    origin: [origin[0] + x * across[0] + y * down[0], origin[1] + x * across[1] + y * down[1]],
  };
}

/** In the world that is written: metres east and north of the sample in its south-west. */
export const placeInWorld = ({ spacing, height }: Geometry): Pick<MapPlace, 'origin' | 'across' | 'down'> => ({
  origin: [0, (height - 1) * spacing.y],
  across: [spacing.x, 0],
  down: [0, -spacing.y],
});
