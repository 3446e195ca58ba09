import type { Box, MeshOptions } from '../../raster';
import type { Geometry } from './geometry';

/** Positions as x east, y north, z up, in metres. */
export function upright({ positions }: Geometry, { up, metres }: Pick<MeshOptions, 'up' | 'metres'>): Float64Array {
  const out = new Float64Array(positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    const [a, b, c] = [positions[i]!, positions[i + 1]!, positions[i + 2]!];
    out[i] = a * metres;
    // with y up, z points south
    out[i + 1] = (up === 'y' ? -c : b) * metres;
    out[i + 2] = (up === 'y' ? b : c) * metres;
  }
  return out;
}

/** The box around all vertices that triangles use. Null where there are none. */
export function boundsOf(points: Float64Array, triangles: Uint32Array): Box | null {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (let t = 0; t < triangles.length; t++) {
    const at = 3 * triangles[t]!;
    for (let k = 0; k < 3; k++) {
      const v = points[at + k]!;
      if (v < min[k]!) min[k] = v;
      if (v > max[k]!) max[k] = v;
    }
  }
  return min[0] <= max[0] ? { min, max } : null;
}

/** This near to a whole number of samples, in samples, a side ends on one. */
const ON_SAMPLE = 1e-6;

/** Samples along the sides of a box. */
export function sizeOf({ min, max }: Box, spacing: number): { width: number; height: number } {
  const side = (axis: 0 | 1): number => Math.floor((max[axis] - min[axis]) / spacing + ON_SAMPLE) + 1;
  return { width: side(0), height: side(1) };
}

export interface Baked {
  readonly width: number;
  readonly height: number;
  /** Highest surface at each sample, rows from the north; NaN where there is none. */
  readonly heights: Float32Array;
  /** Samples under which the surface turns back: there is a roof over ground. */
  readonly overhangs: number;
  /** The middle of the longest row of them, column and row; null where there are none. */
  readonly overhangAt: readonly [number, number] | null;
  /** Their rows: row, first and last column; the first of them where there are very many. */
  readonly roofs: readonly (readonly [row: number, from: number, to: number])[];
  /** Triangles that reach beyond the box. */
  readonly outside: number;
}

/**
 * A mesh seen from above: the highest surface at minX + i · spacing, maxY − j · spacing of the box. Each triangle is cut
 * by the rows of samples; between the two places where its edges cross a row the height is a straight line, so that a
 * sample on a vertex gets exactly its height. Sides of a triangle belong to it for heights; for counting surfaces above
 * each other they belong to one neighbour only (a side is crossed where its lower end is at or below the row and its
 * upper end above), so that nothing is counted twice. Where more than one surface faces the same way there is a roof.
 */
export function bake(points: Float64Array, triangles: Uint32Array, box: Box, spacing: number): Baked {
  const { width, height } = sizeOf(box, spacing);
  const heights = new Float32Array(width * height).fill(NaN);
  // surfaces that face up and down; at most 255 of each are told apart
  const faces = new Uint8Array(2 * width * height);
  let outside = 0;
  const scale = 1 / spacing;
  const [west, north] = [box.min[0], box.max[1]];
  const slack = ON_SAMPLE;
  // corners in samples: columns, rows (down) and heights
  const xs = new Float64Array(3);
  const ys = new Float64Array(3);
  const zs = new Float64Array(3);
  for (let t = 0; t < triangles.length; t += 3) {
    let beyond = false;
    for (let k = 0; k < 3; k++) {
      const at = 3 * triangles[t + k]!;
      const [x, y, z] = [points[at]!, points[at + 1]!, points[at + 2]!];
      xs[k] = (x - west) * scale;
      ys[k] = (north - y) * scale;
      zs[k] = z;
      beyond ||=
        x < box.min[0] || x > box.max[0] || y < box.min[1] || y > box.max[1] || z < box.min[2] || z > box.max[2];
    }
    if (beyond) outside++;
    const [x0, x1, x2] = [xs[0]!, xs[1]!, xs[2]!];
    const [y0, y1, y2] = [ys[0]!, ys[1]!, ys[2]!];
    const top = Math.max(0, Math.ceil(Math.min(y0, y1, y2) - slack));
    const bottom = Math.min(height - 1, Math.floor(Math.max(y0, y1, y2) + slack));
    if (top > bottom) continue;
    const left = Math.ceil(Math.min(x0, x1, x2) - slack);
    const right = Math.floor(Math.max(x0, x1, x2) + slack);
    if (left > right || right < 0 || left >= width) continue;
    // rows count downwards, so that what winds anticlockwise from above has a negative area here
    const side = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0) < 0 ? 0 : 1;
    for (let row = top; row <= bottom; row++) cutRow(row, side);
  }

  function cutRow(row: number, side: 0 | 1): void {
    // where the sides of the triangle meet the row, closed; and where they cross it, half open
    let [xa, za, xb, zb] = [Infinity, 0, -Infinity, 0];
    let [ca, cb, crossings] = [0, 0, 0];
    for (let k = 0; k < 3; k++) {
      const m = k === 2 ? 0 : k + 1;
      // always from the same end, so that neighbours find the same place
      const swap = ys[k]! > ys[m]! || (ys[k]! === ys[m]! && xs[k]! > xs[m]!);
      const [i, n] = swap ? [m, k] : [k, m];
      const [yi, yn] = [ys[i]!, ys[n]!];
      if (row < yi - slack || row > yn + slack) continue;
      const flat = yn - yi < 1e-12;
      // a flat side lies in the row as a whole
      for (let end = 0; end < (flat ? 2 : 1); end++) {
        const f = flat ? end : Math.max(0, Math.min(1, (row - yi) / (yn - yi)));
        const x = f === 1 ? xs[n]! : xs[i]! + f * (xs[n]! - xs[i]!);
        const z = f === 1 ? zs[n]! : zs[i]! + f * (zs[n]! - zs[i]!);
        if (x < xa || (x === xa && z > za)) [xa, za] = [x, z];
        if (x > xb || (x === xb && z > zb)) [xb, zb] = [x, z];
      }
      if (yi <= row && row < yn) {
        const x = xs[i]! + ((row - yi) / (yn - yi)) * (xs[n]! - xs[i]!);
        if (crossings++ === 0) ca = x;
        else cb = x;
      }
    }
    if (xa > xb) return;
    const from = Math.max(0, Math.ceil(xa - slack));
    const to = Math.min(width - 1, Math.floor(xb + slack));
    const [c0, c1] = crossings === 2 ? [Math.min(ca, cb), Math.max(ca, cb)] : [0, 0];
    const span = xb - xa;
    for (let x = from; x <= to; x++) {
      const f = span > 1e-12 ? Math.max(0, Math.min(1, (x - xa) / span)) : za > zb ? 0 : 1;
      const z = f === 1 ? zb : za + f * (zb - za);
      const at = row * width + x;
      if (!(heights[at]! >= z)) heights[at] = z;
      if (c0 <= x && x < c1 && faces[2 * at + side]! < 255) faces[2 * at + side]!++;
    }
  }

  return { width, height, heights, outside, ...roofsOf(faces, width, height) };
}

/** Rows of overhangs that are kept to be shown. */
const MOST_ROOFS = 20_000;

function roofsOf(faces: Uint8Array, width: number, height: number): Pick<Baked, 'overhangs' | 'overhangAt' | 'roofs'> {
  const roofs: [number, number, number][] = [];
  let overhangs = 0;
  let [longest, overhangAt]: [number, readonly [number, number] | null] = [0, null];
  for (let y = 0; y < height; y++)
    for (let x = 0, run = 0; x <= width; x++) {
      const i = 2 * (y * width + x);
      if (x < width && (faces[i]! > 1 || faces[i + 1]! > 1)) {
        run++;
        continue;
      }
      if (run === 0) continue;
      overhangs += run;
      if (roofs.length < MOST_ROOFS) roofs.push([y, x - run, x - 1]);
      if (run > longest) [longest, overhangAt] = [run, [x - 1 - (run >> 1), y]];
      run = 0;
    }
  return { overhangs, overhangAt, roofs };
}

/**
 * Metres between samples that give about as many samples as there are vertices: of a regular grid its own spacing.
 * From (w / s + 1) · (h / s + 1) = vertices.
 */
export function ownSpacing({ min, max }: Box, vertices: number): number {
  const [w, h] = [max[0] - min[0], max[1] - min[1]];
  if (w <= 0 && h <= 0) return 1;
  const perMetre =
    w > 0 && h > 0
      ? (Math.sqrt((w + h) ** 2 + 4 * w * h * (vertices - 1)) - (w + h)) / (2 * w * h)
      : (vertices - 1) / (w + h);
  // of a few triangles there are two samples a side at least
  const spacing = Math.min(1 / perMetre, ...[w, h].filter((side) => side > 0));
  const whole = [w, h].every((side) => Math.abs(side / spacing - Math.round(side / spacing)) < 1e-3);
  // of a grid the spacing that its sides say, of anything else a number one can read
  if (whole) {
    const steps = Math.round(Math.max(w, h) / spacing);
    return tidy(Math.max(w, h) / steps, 12);
  }
  return tidy(spacing, 2);
}

const tidy = (value: number, digits: number): number => Number(value.toPrecision(digits));
