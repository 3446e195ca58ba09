import proj4 from 'proj4';
import type { JobContext } from '../../../base';
import type { StepOf } from '../../../recipe';
import type { Rastered, TwinOperation, TwinStage, TwinStep } from './operation';

/*
 * Square metres of a raster in degrees, worked out a second time at some places: the projection by its series (L. Krüger,
 * 1912, to the fourth order of the third flattening), not by the package that the pipeline uses, and the height between
 * the samples around by the cubic convolution written out anew.
 */

/** What a place of the squares should hold, and what it does. */
interface SquareProof {
  readonly places: number;
  /** Largest difference, and the largest step between neighbours there, in stored units. */
  readonly largest: number;
  readonly usual: number;
  /** The height furthest from nought there. */
  readonly highest: number;
}

const A = 6378137;
const F = 1 / 298.257223563;
const SCALE = 0.9996;
const FALSE_EAST = 500_000;
const FALSE_SOUTH = 10_000_000;

/** Degrees of a place given in metres of a zone. */
export function degreesOf(east: number, north: number, zone: number, south: boolean): [number, number] {
  const n = F / (2 - F);
  const radius = (A / (1 + n)) * (1 + n ** 2 / 4 + n ** 4 / 64);
  const b = [
    n / 2 - (2 / 3) * n ** 2 + (37 / 96) * n ** 3 - n ** 4 / 360,
    n ** 2 / 48 + n ** 3 / 15 - (437 / 1440) * n ** 4,
    (17 / 480) * n ** 3 - (37 / 840) * n ** 4,
    (4397 / 161280) * n ** 4,
  ];
  const d = [
    2 * n - (2 / 3) * n ** 2 - 2 * n ** 3 + (116 / 45) * n ** 4,
    (7 / 3) * n ** 2 - (8 / 5) * n ** 3 - (227 / 45) * n ** 4,
    (56 / 15) * n ** 3 - (136 / 35) * n ** 4,
    (4279 / 630) * n ** 4,
  ];
  const xi = (north - (south ? FALSE_SOUTH : 0)) / (SCALE * radius);
  const eta = (east - FALSE_EAST) / (SCALE * radius);
  let x = xi;
  let e = eta;
  b.forEach((term, i) => {
    const k = 2 * (i + 1);
    x -= term * Math.sin(k * xi) * Math.cosh(k * eta);
    e -= term * Math.cos(k * xi) * Math.sinh(k * eta);
  });
  const chi = Math.asin(Math.sin(x) / Math.cosh(e));
  const phi = d.reduce((sum, term, i) => sum + term * Math.sin(2 * (i + 1) * chi), chi);
  const lambda = Math.atan2(Math.sinh(e), Math.cos(x));
  const degree = 180 / Math.PI;
  return [6 * zone - 183 + lambda * degree, phi * degree];
}

/** Places along each side that are looked at. */
const SIDE = 24;

/** Weight of a sample `t` steps away (cubic convolution with a = −1/2). */
function weight(t: number): number {
  const s = Math.abs(t);
  if (s < 1) return 1.5 * s ** 3 - 2.5 * s ** 2 + 1;
  return s < 2 ? -0.5 * s ** 3 + 2.5 * s ** 2 - 4 * s + 2 : 0;
}

/** The sphere of the usual map of the world, and its code. */
const WORLD_MAP = 'EPSG:3857';

/**
 * From degrees to the coordinates of a raster. The usual map of the world is written out; of other systems the way that
 * leads to degrees is the package's, and only the rest is worked out anew.
 */
function coordinatesOf(
  g: NonNullable<Rastered['info']['georeference']>,
  width: number,
): (longitude: number, latitude: number) => readonly [number, number] {
  if (g.crs === WORLD_MAP)
    return (longitude, latitude) => {
      const phi = (latitude * Math.PI) / 180;
      return [(A * longitude * Math.PI) / 180, A * Math.log(Math.tan(Math.PI / 4 + phi / 2))];
    };
  if (g.system !== undefined) {
    const { forward } = proj4('EPSG:4326', g.system);
    return (longitude, latitude) => {
      const [x = NaN, y = NaN] = forward([longitude, latitude]);
      return [x, y];
    };
  }
  // longitudes go on across 180°
  const middle = g.x + (g.dx * (width - 1)) / 2;
  return (longitude, latitude) => [longitude - 360 * Math.round((longitude - middle) / 360), latitude];
}

/** Squares may differ by this share of what neighbours differ by: places between those that are projected exactly. */
const OF_NEIGHBOURS = 1e-3;

/** Squares are floats of 32 bits, made of floats: as much of a height is lost to that. */
const FLOAT = 2 ** -22;

/** A metric grid that the pipeline has made, judged: from there on it is what the twin reads. */
export const reproject: TwinOperation<StepOf<'reproject'>> = async (before, step, { witness, job }) => {
  const { width, height, georeference = null } = witness.info;
  const { spacing } = step;
  if (spacing === 'rung') return reprojectedLater(before, step, witness);
  const { places, largest, usual, highest } = await proveSquares(witness, before, { ...step, spacing }, job);
  const holds = places > 0 && largest <= OF_NEIGHBOURS * usual + FLOAT * highest + 1e-3;
  return {
    stage: {
      width,
      height,
      georeference,
      pieces: null,
      samples: {
        files: 1,
        async *bands(inner) {
          for await (const band of witness.bands(inner)) yield { ...band, x: 0, width };
        },
      },
    },
    judged: {
      holds,
      message: holds
        ? `${places} squares were projected and worked out a second time from the coordinates: the largest difference is ${largest.toPrecision(2)} of the file’s units.`
        : places === 0
          ? 'No square could be compared with the samples that it was made of.'
          : `Squares are not what the samples before them give: the largest difference is ${largest.toPrecision(3)} of the file’s units, where neighbours differ by ${usual.toPrecision(3)} at most.`,
    },
  };
};

/** Squares as fine as the samples are where they are finest: by this share they may be finer or coarser, and rounded to centimetres. */
const AS_FINE = 0.02;
const CENTIMETRES = 0.006;

/**
 * Ground that is made metric while it is fitted: nothing is sampled yet, so what is judged is where it lies and how fine
 * it is said to be; the heights are compared vertex by vertex with the rest of the fit.
 */
function reprojectedLater(before: TwinStage, { zone, south, hold }: StepOf<'reproject'>, witness: Rastered): TwinStep {
  const { width, height, georeference: origin } = witness.info;
  const ground = before.georeference;
  if (!origin || !ground)
    return {
      stage: before,
      judged: { holds: false, message: 'The ground is made metric, and its source has no coordinates.' },
    };
  const toCoordinates = coordinatesOf(ground, before.width);
  const find = (x: number, y: number): readonly [number, number] => {
    const [east, north] = toCoordinates(...degreesOf(origin.x + x * origin.dx, origin.y - y * origin.dy, zone, south));
    return [(east - ground.x) / ground.dx, (ground.y - north) / ground.dy];
  };
  // how much of a sample lies between two places of the metric ground, in its middle
  const [a, b] = [(width - 1) / 2, (height - 1) / 2];
  const [east, west, north, below] = [find(a + 0.5, b), find(a - 0.5, b), find(a, b - 0.5), find(a, b + 0.5)];
  const columns = Math.hypot(east[0] - west[0], below[0] - north[0]);
  const rows = Math.hypot(east[1] - west[1], below[1] - north[1]);
  const fine = origin.dx / Math.max(columns, rows);
  const within = Math.abs(fine - origin.dx) <= AS_FINE * fine + CENTIMETRES && origin.dx === origin.dy;
  return {
    stage: {
      ...before,
      width,
      height,
      georeference: origin,
      pieces: null,
      deferred: { width: before.width, height: before.height, find, hold: hold === true },
    },
    judged: {
      holds: within,
      message: within
        ? 'It is sampled at the vertices of the fit, which are compared one by one.'
        : `It should be as fine as its samples are, ${fine.toFixed(2)} m; it is said to be ${origin.dx.toFixed(2)} m.`,
    },
  };
}

/** Compares squares with the ground that they were made of, where all samples around hold heights. */
async function proveSquares(
  squares: Rastered,
  before: TwinStage,
  { spacing, zone, south }: Pick<StepOf<'reproject'>, 'zone' | 'south'> & { readonly spacing: number },
  job: JobContext,
): Promise<SquareProof> {
  const origin = squares.info.georeference;
  const ground = before.georeference;
  if (!origin || !ground) return { places: 0, largest: Infinity, usual: 0, highest: 0 };
  const { width, height } = squares.info;
  const toCoordinates = coordinatesOf(ground, before.width);
  const at = (i: number, n: number): number => Math.round(((n - 1) * (i + 0.5)) / SIDE);
  interface Spot {
    readonly x: number;
    readonly y: number;
    readonly column: number;
    readonly row: number;
    readonly around: Map<string, number>;
    found: number;
  }
  const spots: Spot[] = [];
  for (let j = 0; j < SIDE; j++)
    for (let i = 0; i < SIDE; i++) {
      const [x, y] = [at(i, width), at(j, height)];
      const [longitude, latitude] = degreesOf(origin.x + x * spacing, origin.y - y * spacing, zone, south);
      const [x0, y0] = toCoordinates(longitude, latitude);
      const column = (x0 - ground.x) / ground.dx;
      const row = (ground.y - y0) / ground.dy;
      spots.push({ x, y, column, row, around: new Map(), found: NaN });
    }
  for await (const { y, rows, data } of squares.bands(job))
    for (const s of spots) if (s.y >= y && s.y < y + rows) s.found = Number(data[(s.y - y) * width + s.x]);
  const across = before.width;
  for await (const { y, x, rows, width: wide, data } of before.samples.bands(job))
    for (const s of spots)
      for (let r = Math.max(y, Math.floor(s.row) - 1); r <= Math.min(y + rows - 1, Math.floor(s.row) + 2); r++)
        for (let c = Math.floor(s.column) - 1; c <= Math.floor(s.column) + 2; c++) {
          if (c < x || c >= x + wide || c >= across) continue;
          const value = Number(data[(r - y) * wide + c - x]);
          // of files that overlap the first that holds a height counts
          if (!s.around.has(`${c} ${r}`) || Number.isFinite(value)) s.around.set(`${c} ${r}`, value);
        }
  let [places, largest, usual, highest] = [0, 0, 0, 0];
  for (const s of spots) {
    const values = [...s.around];
    if (values.length < 16 || values.some(([, v]) => !Number.isFinite(v))) continue;
    const expected = values.reduce((sum, [key, v]) => {
      const [c = 0, r = 0] = key.split(' ').map(Number);
      return sum + v * weight(s.column - c) * weight(s.row - r);
    }, 0);
    const heights = values.map(([, v]) => v);
    places++;
    largest = Math.max(largest, Math.abs(expected - s.found) || (Number.isFinite(s.found) ? 0 : Infinity));
    highest = Math.max(highest, ...heights.map(Math.abs));
    usual = Math.max(usual, Math.max(...heights) - Math.min(...heights));
  }
  return { places, largest, usual, highest };
}
