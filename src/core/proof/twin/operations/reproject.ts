import proj4 from 'proj4';
import type { JobContext } from '../../../base';
import type { StepOf } from '../../../recipe';
import { acrossAll, seedOf } from '../places';
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
  /** Places that are void and should not be, or the other way round. */
  readonly voids: number;
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

/** Metres of a zone of a place given in degrees. */
export function zoneMetresOf(longitude: number, latitude: number, zone: number, south: boolean): [number, number] {
  const n = F / (2 - F);
  const radius = (A / (1 + n)) * (1 + n ** 2 / 4 + n ** 4 / 64);
  const a = [
    n / 2 - (2 / 3) * n ** 2 + (5 / 16) * n ** 3 + (41 / 180) * n ** 4,
    (13 / 48) * n ** 2 - (3 / 5) * n ** 3 + (557 / 1440) * n ** 4,
    (61 / 240) * n ** 3 - (103 / 140) * n ** 4,
    (49561 / 161280) * n ** 4,
  ];
  const degree = Math.PI / 180;
  const turns = Math.round((longitude - (6 * zone - 183)) / 360);
  const lambda = (longitude - 360 * turns - (6 * zone - 183)) * degree;
  const sin = Math.sin(latitude * degree);
  const e = (2 * Math.sqrt(n)) / (1 + n);
  const t = Math.sinh(Math.atanh(sin) - e * Math.atanh(e * sin));
  const xi = Math.atan2(t, Math.cos(lambda));
  const eta = Math.atanh(Math.sin(lambda) / Math.hypot(1, t));
  let [x, y] = [xi, eta];
  a.forEach((term, i) => {
    const k = 2 * (i + 1);
    x += term * Math.sin(k * xi) * Math.cosh(k * eta);
    y += term * Math.cos(k * xi) * Math.sinh(k * eta);
  });
  return [FALSE_EAST + SCALE * radius * y, (south ? FALSE_SOUTH : 0) + SCALE * radius * x];
}

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

/** From the coordinates of a raster to degrees, the way back. */
function degreesFrom(
  g: NonNullable<Rastered['info']['georeference']>,
): (x: number, y: number) => readonly [number, number] {
  if (g.crs === WORLD_MAP)
    return (x, y) => [(x / A) * (180 / Math.PI), (2 * Math.atan(Math.exp(y / A)) - Math.PI / 2) * (180 / Math.PI)];
  if (g.system !== undefined) {
    const { inverse } = proj4('EPSG:4326', g.system);
    return (x, y) => {
      const [longitude = NaN, latitude = NaN] = inverse([x, y]);
      return [longitude, latitude];
    };
  }
  return (longitude, latitude) => [longitude, latitude];
}

/** Places along each side of the ground by which its outline is known. */
const ALONG = 256;
/** So near to a whole number of squares, two ways of projecting may fall on either side. */
const EITHER = 2e-3;

/**
 * Where a metric grid must lie, from the outline of the ground: whole squares of the zone, all within the ground, or as
 * `whole` has it all that hold any of it. What is wrong with the one that was made; null where nothing is.
 */
function placeFault(
  made: Rastered['info'],
  ground: NonNullable<Rastered['info']['georeference']>,
  before: TwinStage,
  { zone, south, whole }: Pick<StepOf<'reproject'>, 'zone' | 'south' | 'whole'>,
): string | null {
  const origin = made.georeference;
  if (!origin) return 'it has no coordinates';
  const toDegrees = degreesFrom(ground);
  const right = ground.x + ground.dx * (before.width - 1);
  const bottom = ground.y - ground.dy * (before.height - 1);
  const side = (x0: number, y0: number, x1: number, y1: number): [number, number][] =>
    Array.from({ length: ALONG + 1 }, (_, i) => {
      const t = i / ALONG;
      return zoneMetresOf(...toDegrees(x0 + (x1 - x0) * t, y0 + (y1 - y0) * t), zone, south);
    });
  const [inner, outer] = whole ? [Math.min, Math.max] : [Math.max, Math.min];
  const squares = {
    west: inner(...side(ground.x, ground.y, ground.x, bottom).map((p) => p[0])) / origin.dx,
    east: outer(...side(right, ground.y, right, bottom).map((p) => p[0])) / origin.dx,
    south: inner(...side(ground.x, bottom, right, bottom).map((p) => p[1])) / origin.dy,
    north: outer(...side(ground.x, ground.y, right, ground.y).map((p) => p[1])) / origin.dy,
  };
  const found = {
    west: origin.x / origin.dx,
    east: origin.x / origin.dx + made.width - 1,
    south: origin.y / origin.dy - (made.height - 1),
    north: origin.y / origin.dy,
  };
  const up = (q: number, at: number): boolean => at === Math.ceil(q - EITHER) || at === Math.ceil(q + EITHER);
  const down = (q: number, at: number): boolean => at === Math.floor(q + EITHER) || at === Math.floor(q - EITHER);
  for (const way of ['west', 'east', 'south', 'north'] as const) {
    const at = Math.round(found[way]);
    const fits = way === 'west' || way === 'south' ? up(squares[way], at) : down(squares[way], at);
    if (Math.abs(found[way] - at) > EITHER || !fits)
      return `its ${way} edge lies at ${(found[way] * origin.dx).toFixed(2)} m of zone ${zone}, and the ground ends there at ${(squares[way] * origin.dx).toFixed(2)} m`;
  }
  return null;
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
  const { places, largest, usual, highest, voids } = await proveSquares(witness, before, { ...step, spacing }, job);
  const ground = before.georeference;
  const lies = ground ? placeFault(witness.info, ground, before, step) : 'its source has no coordinates';
  const spaced = georeference?.dx === spacing && georeference.dy === spacing;
  const holds =
    places > 0 && largest <= OF_NEIGHBOURS * usual + FLOAT * highest + 1e-3 && voids === 0 && lies === null && spaced;
  return {
    stage: {
      width,
      height,
      georeference,
      pieces: null,
      samples: {
        files: 1,
        // squares are made of all files together
        outlines: [],
        async *bands(inner) {
          for await (const band of witness.bands(inner)) yield { ...band, x: 0, width };
        },
      },
    },
    judged: {
      holds,
      message: holds
        ? `${places} squares were projected and worked out a second time from the coordinates, one at least in each row and each column: the largest difference is ${largest.toPrecision(2)} of the file’s units. Place and size follow from the outline of the ground.`
        : lies !== null
          ? `The metric ground does not lie where its outline puts it: ${lies}.`
          : !spaced
            ? `Squares are said to be ${georeference?.dx ?? 0} m wide; the recipe asks for ${spacing} m.`
            : places === 0
              ? 'No square could be compared with the samples that it was made of.'
              : voids > 0
                ? `${voids} of ${places} squares are void where there is ground around, or hold a height where there is none.`
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
function reprojectedLater(
  before: TwinStage,
  { zone, south, hold, whole }: StepOf<'reproject'>,
  witness: Rastered,
): TwinStep {
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
  const lies = placeFault(witness.info, ground, before, { zone, south, whole });
  const within = Math.abs(fine - origin.dx) <= AS_FINE * fine + CENTIMETRES && origin.dx === origin.dy && lies === null;
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
        : lies !== null
          ? `The metric ground does not lie where its outline puts it: ${lies}.`
          : `It should be as fine as its samples are, ${fine.toFixed(2)} m; it is said to be ${origin.dx.toFixed(2)} m.`,
    },
  };
}

/** Compares squares with the ground that they were made of, where all samples around hold heights. */
async function proveSquares(
  squares: Rastered,
  before: TwinStage,
  { spacing, zone, south, hold }: Pick<StepOf<'reproject'>, 'zone' | 'south' | 'hold'> & { readonly spacing: number },
  job: JobContext,
): Promise<SquareProof> {
  const origin = squares.info.georeference;
  const ground = before.georeference;
  if (!origin || !ground) return { places: 0, largest: Infinity, usual: 0, highest: 0, voids: 0 };
  const { width, height } = squares.info;
  const toCoordinates = coordinatesOf(ground, before.width);
  interface Spot {
    readonly x: number;
    readonly y: number;
    readonly column: number;
    readonly row: number;
    readonly around: Map<string, number>;
    found: number;
  }
  const spots = acrossAll(width, height, seedOf([`${width} ${height} ${origin.x} ${origin.y}`])).map(
    ({ x, y }): Spot => {
      const [longitude, latitude] = degreesOf(origin.x + x * spacing, origin.y - y * spacing, zone, south);
      const [x0, y0] = toCoordinates(longitude, latitude);
      const column = (x0 - ground.x) / ground.dx;
      const row = (ground.y - y0) / ground.dy;
      return { x, y, column, row, around: new Map(), found: NaN };
    },
  );
  for await (const { y, rows, data } of squares.bands(job))
    for (const s of spots) if (s.y >= y && s.y < y + rows) s.found = Number(data[(s.y - y) * width + s.x]);
  const across = before.width;
  let [low, high] = [Infinity, -Infinity];
  for await (const { y, x, rows, width: wide, data } of before.samples.bands(job)) {
    if (hold)
      for (let i = 0; i < data.length; i++) {
        const value = Number(data[i]);
        if (!Number.isFinite(value)) continue;
        low = Math.min(low, value);
        high = Math.max(high, value);
      }
    for (const s of spots)
      for (let r = Math.max(y, Math.floor(s.row) - 1); r <= Math.min(y + rows - 1, Math.floor(s.row) + 2); r++)
        for (let c = Math.floor(s.column) - 1; c <= Math.floor(s.column) + 2; c++) {
          if (c < x || c >= x + wide || c >= across) continue;
          const value = Number(data[(r - y) * wide + c - x]);
          // of files that overlap the first that holds a height counts
          if (!s.around.has(`${c} ${r}`) || Number.isFinite(value)) s.around.set(`${c} ${r}`, value);
        }
  }
  let [places, largest, usual, highest, voids] = [0, 0, 0, 0, 0];
  for (const s of spots) {
    const { value, sure } = squareOf(s, before);
    const expected = hold ? Math.min(high, Math.max(low, value)) : value;
    places++;
    if (Number.isFinite(expected) !== Number.isFinite(s.found)) {
      if (sure) voids++;
      continue;
    }
    if (!Number.isFinite(expected)) continue;
    const heights = [...s.around.values()].filter(Number.isFinite);
    largest = Math.max(largest, Math.abs(expected - s.found));
    highest = Math.max(highest, ...heights.map(Math.abs));
    usual = Math.max(usual, Math.max(...heights) - Math.min(...heights));
  }
  return { places, largest, usual, highest, voids };
}

/** This near to the edge of the ground, or to half the weight, either is right: a height, or none. */
const AT_EDGE = 1e-3;

/**
 * A place among samples: of the 4 × 4 around by cubic convolution where all hold heights, else of the 2 × 2 that do, where
 * these have half the weight; outside nothing. `sure`: rounding could not make it otherwise.
 */
function squareOf(
  {
    column,
    row,
    around,
  }: { readonly column: number; readonly row: number; readonly around: ReadonlyMap<string, number> },
  { width, height }: Pick<TwinStage, 'width' | 'height'>,
): { readonly value: number; readonly sure: boolean } {
  const beyond = Math.max(-column, -row, column - (width - 1), row - (height - 1));
  if (!(beyond <= AT_EDGE)) return { value: NaN, sure: true };
  const sure = beyond < -AT_EDGE;
  const at = (c: number, r: number): number => around.get(`${c} ${r}`) ?? NaN;
  const [left, top] = [Math.floor(column), Math.floor(row)];
  let cubic = 0;
  for (let r = top - 1; r <= top + 2; r++)
    for (let c = left - 1; c <= left + 2; c++) cubic += at(c, r) * weight(column - c) * weight(row - r);
  if (Number.isFinite(cubic)) return { value: cubic, sure };
  let [sum, share] = [0, 0];
  for (let r = top; r <= top + 1; r++)
    for (let c = left; c <= left + 1; c++) {
      const part = (1 - Math.abs(column - c)) * (1 - Math.abs(row - r));
      if (part <= 0 || !Number.isFinite(at(c, r))) continue;
      sum += part * at(c, r);
      share += part;
    }
  const half = Math.abs(share - 0.5) < AT_EDGE;
  return { value: share >= 0.5 || half ? sum / share : NaN, sure: sure && !half };
}
