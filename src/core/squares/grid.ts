import { LevelGridError } from '../base';
import { groundSpacing, type Georeference, type RasterInfo } from '../raster';
import { projector, zoneOf, type Projector, type Zone } from './zone';

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

type Degrees = Pick<RasterInfo, 'width' | 'height' | 'georeference'>;

/** Places along each side of a raster by which its outline is known. */
const ALONG_SIDE = 256;

/** What is proposed for a raster in degrees: its zone, and squares as fine as its samples are where they are finest. */
export function proposedSquares(info: RasterInfo): Squares | null {
  const { georeference: g } = info;
  const ground = groundSpacing(info);
  if (!g?.degrees || !ground || info.width < 2 || info.height < 2) return null;
  const longitude = g.x + (g.dx * (info.width - 1)) / 2;
  const latitude = g.y - (g.dy * (info.height - 1)) / 2;
  // centimetres: nobody types more
  const spacing = Math.round(Math.min(ground.east, ground.north) * 100) / 100;
  return spacing > 0 ? { ...zoneOf(longitude, latitude), spacing } : null;
}

/** The raster's outline in metres, side by side. */
function outline(g: Georeference, { width, height }: Degrees, to: Projector) {
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

/** Where the squares lie. Throws `mosaic` where the raster spans more than a zone can take, or nothing is left. */
export function gridOf(info: Degrees, squares: Squares): SquareGrid {
  const { georeference: g, width, height } = info;
  if (!g?.degrees) throw unsuited('a raster whose coordinates are not in degrees', 'degrees');
  if (g.dx * (width - 1) > MOST_DEGREES || g.dy * (height - 1) > 2 * MOST_DEGREES)
    throw unsuited(
      `${(g.dx * (width - 1)).toFixed(1)} × ${(g.dy * (height - 1)).toFixed(1)} degrees`,
      `at most ${MOST_DEGREES} × ${2 * MOST_DEGREES}, which one zone takes`,
    );
  const sides = outline(g, info, projector(squares));
  const [lows, highs] = squares.whole ? [Math.min, Math.max] : [Math.max, Math.min];
  const xs = (points: readonly (readonly [number, number])[]): number[] => points.map((p) => p[0]);
  const ys = (points: readonly (readonly [number, number])[]): number[] => points.map((p) => p[1]);
  const { spacing } = squares;
  const west = Math.ceil(lows(...xs(sides.west)) / spacing) * spacing;
  const east = Math.floor(highs(...xs(sides.east)) / spacing) * spacing;
  const south = Math.ceil(lows(...ys(sides.south)) / spacing) * spacing;
  const north = Math.floor(highs(...ys(sides.north)) / spacing) * spacing;
  const across = Math.round((east - west) / spacing) + 1;
  const down = Math.round((north - south) / spacing) + 1;
  if (across < 2 || down < 2) throw unsuited(`ground of ${across} × ${down} squares`, 'two squares each way at least');
  return { width: across, height: down, east: west, north };
}

const unsuited = (found: string, expected: string): LevelGridError =>
  new LevelGridError('mosaic', {
    found,
    expected,
    remedy: 'Cut the raster into smaller blocks, or choose another spacing.',
  });
