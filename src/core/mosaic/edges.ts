import { checkpoint, type JobContext } from '../base';
import type { Part } from './types';

/** The outermost samples of a part, west to east and north to south; NaN where there is no height. */
export interface Edges {
  readonly width: number;
  readonly height: number;
  readonly north: Float64Array;
  readonly south: Float64Array;
  readonly west: Float64Array;
  readonly east: Float64Array;
}

/** Reads a part once for its edges. */
export async function readEdges({ raster }: Part, job?: JobContext): Promise<Edges> {
  const { width, height } = raster.info;
  const north = new Float64Array(width);
  const south = new Float64Array(width);
  const west = new Float64Array(height);
  const east = new Float64Array(height);
  for await (const { y, rows, data } of raster.bands(job)) {
    checkpoint(job);
    const at = (row: number, column: number): number => Number(data[row * width + column]);
    if (y === 0) for (let x = 0; x < width; x++) north[x] = at(0, x);
    if (y + rows === height) for (let x = 0; x < width; x++) south[x] = at(rows - 1, x);
    for (let r = 0; r < rows; r++) {
      west[y + r] = at(r, 0);
      east[y + r] = at(r, width - 1);
    }
  }
  return { width, height, north, south, west, east };
}

/** How two lines of samples that lie side by side agree. */
export interface Agreement {
  /** Mean and largest difference between them. */
  readonly mean: number;
  readonly largest: number;
  /** Mean difference between neighbours along them. */
  readonly along: number;
  /** Samples that hold a height in both. */
  readonly count: number;
}

const NOTHING: Agreement = { mean: 0, largest: 0, along: 0, count: 0 };

export function agreement(a: Float64Array, b: Float64Array): Agreement {
  const n = Math.min(a.length, b.length);
  let sum = 0;
  let largest = 0;
  let along = 0;
  let count = 0;
  for (let i = 0; i < n; i++) {
    const difference = Math.abs(a[i]! - b[i]!);
    if (!Number.isFinite(difference)) continue;
    sum += difference;
    largest = Math.max(largest, difference);
    const step = i > 0 ? Math.abs(a[i]! - a[i - 1]!) : 0;
    if (Number.isFinite(step)) along += step;
    count++;
  }
  return count === 0 ? NOTHING : { mean: sum / count, largest, along: along / count, count };
}

/**
 * A line through pairs of samples: b ≈ factor · a + shift; how little of the variance is left, 0 to 1; and what is left
 * as a difference (root of the mean square) in units of b.
 */
export interface Line {
  readonly factor: number;
  readonly shift: number;
  readonly left: number;
  readonly residual: number;
}

/** Least squares over the samples that both hold; null where they don't vary. */
export function lineThrough(a: Float64Array, b: Float64Array): Line | null {
  const n = Math.min(a.length, b.length);
  let count = 0;
  let sa = 0;
  let sb = 0;
  for (let i = 0; i < n; i++)
    if (Number.isFinite(a[i]! + b[i]!)) {
      count++;
      sa += a[i]!;
      sb += b[i]!;
    }
  if (count < 8) return null;
  const [ma, mb] = [sa / count, sb / count];
  let aa = 0;
  let bb = 0;
  let ab = 0;
  for (let i = 0; i < n; i++) {
    const [u, v] = [a[i]! - ma, b[i]! - mb];
    if (!Number.isFinite(u + v)) continue;
    aa += u * u;
    bb += v * v;
    ab += u * v;
  }
  if (!(aa > 0) || !(bb > 0)) return null;
  const factor = ab / aa;
  const left = Math.max(0, 1 - (ab * ab) / (aa * bb));
  return { factor, shift: mb - factor * ma, left, residual: Math.sqrt((left * bb) / count) };
}
