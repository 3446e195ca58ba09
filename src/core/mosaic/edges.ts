import { checkpoint, LevelGridError, type JobContext } from '../base';
import type { StoredBand } from '../raster';
import type { Part } from './types';

/** Samples along a line, as they are stored or as numbers. */
export type Line = ArrayLike<number>;

/** The outermost samples of a part, west to east and north to south; NaN where there is no height. */
export interface Edges {
  readonly width: number;
  readonly height: number;
  readonly north: Line;
  readonly west: Line;
  /** From the outermost inwards, as many as an overlap may reach. */
  readonly south: readonly Line[];
  readonly east: readonly Line[];
}

/** An overlap of more samples than this is not looked for where nobody says how files lie. */
export const MOST_OVERLAP = 64;

/** Collects the edges of a raster while its bands pass by. */
export class EdgeRecorder {
  private readonly north: Float64Array;
  private readonly west: Float64Array;
  private readonly south: Float64Array[];
  private readonly east: Float64Array[];
  private rows = 0;

  /** `deep`: lines that are kept at the east and the south. */
  constructor(
    private readonly width: number,
    private readonly height: number,
    deep = 1,
  ) {
    const lines = (count: number, length: number): Float64Array[] =>
      Array.from({ length: Math.max(1, Math.min(deep, count)) }, () => new Float64Array(length));
    this.north = new Float64Array(width);
    this.west = new Float64Array(height);
    this.south = lines(height, width);
    this.east = lines(width, height);
  }

  add({ y, rows, data }: Pick<StoredBand, 'y' | 'rows' | 'data'>): void {
    const { width, height, east, south } = this;
    for (let r = 0; r < rows; r++) {
      const at = r * width;
      const row = y + r;
      this.west[row] = Number(data[at]);
      for (let k = 0; k < east.length; k++) east[k]![row] = Number(data[at + width - 1 - k]);
      if (row === 0) this.north.set(data.subarray(at, at + width));
      const fromSouth = height - 1 - row;
      if (fromSouth < south.length) south[fromSouth]!.set(data.subarray(at, at + width));
    }
    this.rows = y + rows;
  }

  /** Null before the last row has passed by. */
  edges(): Edges | null {
    const { width, height, north, west, south, east } = this;
    return this.rows === height ? { width, height, north, west, south, east } : null;
  }
}

/** Reads a part once for its edges. */
export async function readEdges({ raster }: Part, deep: number, job?: JobContext): Promise<Edges> {
  const { width, height } = raster.info;
  const recorder = new EdgeRecorder(width, height, deep);
  for await (const band of raster.bands(job)) {
    checkpoint(job);
    recorder.add(band);
  }
  const edges = recorder.edges();
  if (edges) return edges;
  throw new LevelGridError('truncated', {
    found: 'fewer rows than the header says',
    expected: `${height}`,
    remedy: 'The file changed while it was read: bring it in again.',
  });
}

/** The edges of values that are multiplied and moved. */
export function scaledEdges(edges: Edges, factor: number, shift: number): Edges {
  if (factor === 1 && shift === 0) return edges;
  const scaled = (line: Line): Line => Float64Array.from(line, (v) => factor * v + shift);
  return {
    ...edges,
    north: scaled(edges.north),
    west: scaled(edges.west),
    south: edges.south.map(scaled),
    east: edges.east.map(scaled),
  };
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

export function agreement(a: Line, b: Line): Agreement {
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
export interface StraightLine {
  readonly factor: number;
  readonly shift: number;
  readonly left: number;
  readonly residual: number;
}

/** Least squares over the samples that both hold; null where they don't vary. */
export function lineThrough(a: Line, b: Line): StraightLine | null {
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
