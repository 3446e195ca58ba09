import { LevelGridError } from '../base';
import { groundSpacing, metresPerDegree, type Georeference, type RasterInfo } from '../raster';
import { fromCoordinates, middleOf } from './system';
import { zoneOf, type Way, type Zone } from './zone';

/** How a raster in degrees becomes square metres. */
export interface Squares extends Zone {
  /** Metres from sample to sample, both ways. */
  readonly spacing: number;
  /** All that the raster covers, with empty wedges beside it; left out: the largest rectangle that is full. */
  readonly whole?: true | undefined;
}

/** The samples of the result. */
export interface SquareGrid {
  readonly width: number;
  readonly height: number;
  /** Coordinates of the north-western sample, in metres. */
  readonly east: number;
  readonly north: number;
}

type Placed = Pick<RasterInfo, 'width' | 'height' | 'georeference'>;

/** Places along each side of a raster by which its outline is known. */
const ALONG_SIDE = 256;

/** Zones reach so far north and south. */
const MOST_LATITUDE = 84;

/** Coordinates that are no true metres: degrees, and those that a projection stretches. */
const bent = (g: Georeference): boolean => g.degrees || g.system !== undefined;

/** What is proposed for a raster whose coordinates are no true metres: its zone, and squares as fine as its samples are where they are finest. */
export function proposedSquares(info: RasterInfo): Squares | null {
  const { georeference: g } = info;
  const ground = groundSpacing(info);
  if (!g || !bent(g) || !ground || info.width < 2 || info.height < 2) return null;
  const [longitude, latitude] = middleOf(info) ?? [NaN, NaN];
  // beyond the polar circles of the zones nothing is right
  if (!(Math.abs(latitude) <= MOST_LATITUDE)) return null;
  // centimetres: nobody types more
  const spacing = Math.round(Math.min(ground.east, ground.north) * 100) / 100;
  return spacing > 0 ? { ...zoneOf(longitude, latitude), spacing } : null;
}

/** Squares as a recipe asks for them: as many metres apart, or where the vertices of the fit will lie (`rung`). */
export interface AskedSquares extends Omit<Squares, 'spacing'> {
  readonly spacing: number | 'rung';
}

/** The squares that stand for them before anything is fitted: those of the fit are as fine as the samples are. */
export function squaresFor(info: RasterInfo, { zone, south, spacing, whole }: AskedSquares): Squares {
  // of coordinates that can't be made metric nothing is proposed; `gridOf` tells them
  const metres = spacing === 'rung' ? (proposedSquares(info)?.spacing ?? 1) : spacing;
  return { zone, south, spacing: metres, ...(whole ? { whole } : {}) };
}

/** The raster's outline in metres, side by side. */
function outline(g: Georeference, { width, height }: Placed, to: Way) {
  const east = g.x + g.dx * (width - 1);
  const south = g.y - g.dy * (height - 1);
  const side = (lon0: number, lat0: number, lon1: number, lat1: number) =>
    Array.from({ length: ALONG_SIDE + 1 }, (_, i) => {
      const t = i / ALONG_SIDE;
      return to.forward(lon0 + (lon1 - lon0) * t, lat0 + (lat1 - lat0) * t);
    });
  return {
    north: side(g.x, g.y, east, g.y),
    south: side(g.x, south, east, south),
    west: side(g.x, g.y, g.x, south),
    east: side(east, g.y, east, south),
  };
}

/** Widest raster in degrees that one zone takes without bending it out of shape. */
const MOST_DEGREES = 12;

/** Degrees that a raster spans, about: east–west and north–south. */
function degreesOf(g: Georeference, { width, height }: Placed): readonly [number, number] {
  if (g.degrees) return [g.dx * (width - 1), g.dy * (height - 1)];
  const ground = groundSpacing({ height, georeference: g });
  const middle = middleOf({ georeference: g, width, height });
  if (!ground || !middle) return [NaN, NaN];
  const per = metresPerDegree(middle[1]);
  return [(ground.east * (width - 1)) / per.east, (ground.north * (height - 1)) / per.north];
}

/** Where the squares lie. Throws `mosaic` where the raster spans more than a zone can take, or nothing is left. */
export function gridOf(info: Placed, squares: Squares): SquareGrid {
  const { georeference: g, width } = info;
  if (!g || !bent(g))
    throw unsuited(
      'coordinates that are metres already, or of a system that is not known',
      'degrees, or a map that stretches the ground',
      'Take the squares out of the recipe: the raster is used as it lies.',
    );
  const [across, along] = degreesOf(g, info);
  if (!(across <= MOST_DEGREES && along <= 2 * MOST_DEGREES))
    throw unsuited(
      `${across.toFixed(1)} × ${along.toFixed(1)} degrees`,
      `at most ${MOST_DEGREES} × ${2 * MOST_DEGREES}, which one zone takes`,
    );
  const sides = outline(g, info, fromCoordinates(g, width, squares));
  const [lows, highs] = squares.whole ? [Math.min, Math.max] : [Math.max, Math.min];
  const xs = (points: readonly (readonly [number, number])[]): number[] => points.map((p) => p[0]);
  const ys = (points: readonly (readonly [number, number])[]): number[] => points.map((p) => p[1]);
  const { spacing } = squares;
  const west = Math.ceil(lows(...xs(sides.west)) / spacing) * spacing;
  const east = Math.floor(highs(...xs(sides.east)) / spacing) * spacing;
  const south = Math.ceil(lows(...ys(sides.south)) / spacing) * spacing;
  const north = Math.floor(highs(...ys(sides.north)) / spacing) * spacing;
  const columns = Math.round((east - west) / spacing) + 1;
  const rows = Math.round((north - south) / spacing) + 1;
  if (!(columns >= 2 && rows >= 2))
    throw unsuited(`ground of ${columns} × ${rows} squares`, 'two squares each way at least');
  return { width: columns, height: rows, east: west, north };
}

const unsuited = (
  found: string,
  expected: string,
  remedy = 'Cut the raster into smaller blocks, or choose another spacing.',
): LevelGridError => new LevelGridError('mosaic', { found, expected, remedy });
