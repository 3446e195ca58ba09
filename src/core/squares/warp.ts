import { checkpoint, type JobContext, type Pair } from '../base';
import {
  bandRows,
  Taps,
  toHeights,
  type Band,
  type Bounds,
  type Filter,
  type Georeference,
  type HeightStream,
  type Level,
  type WindowArea,
} from '../raster';
import { HeldRows } from './rows';
import type { Ring } from './sample';
import { fromCoordinates } from './system';
import type { Way, Zone } from './zone';

/*
 * A raster sampled once, at vertices that lie anywhere on it: turned, moved, or on the metric ground of a raster in degrees.
 * Turning it, making it metric and fitting it are one map. Every vertex depends on its own place alone, so windows hold what bands hold.
 */

/** Vertices on the ground, and the raster that their heights come from. */
export interface MetricVertices {
  readonly from: {
    readonly width: number;
    readonly height: number;
    /** Where it lies, as far as places are metres of a zone. */
    readonly georeference?: Pick<Georeference, 'x' | 'y' | 'dx' | 'dy' | 'system'>;
  };
  /** Of the places of vertices: metres east and north; null where they are columns and rows of the raster. */
  readonly zone: Zone | null;
  readonly width: number;
  readonly height: number;
  /** The place of the first vertex, and the way from each to the next one in its row and in its column. */
  readonly origin: Pair;
  readonly across: Pair;
  readonly down: Pair;
  /** First and last vertex each way that lie on the metric ground; others are rim. */
  readonly covered: { readonly west: number; readonly east: number; readonly north: number; readonly south: number };
}

export interface WarpOptions {
  readonly filter: Filter;
  /** Keeps results within these heights. */
  readonly clamp: Bounds | null;
  /** Height of vertices beyond the metric ground. */
  readonly rim: number;
}

/** From one exactly projected place to the next there are so many metres and vertices at most. */
const CELL_METRES = 8000;
const CELL_VERTICES = 8;

/** This near to the outermost samples, in samples, a place still lies on the raster. */
const ON_RASTER = 1e-6;

/** Numbers of a place: column and row in the raster, and how far a kernel widens along both. */
const PLACE = 4;

/** Weights of the cubic through four even places at −1, 0, 1 and 2 (J. L. Lagrange), and their slopes. */
const lagrange = (t: number): number[] => [
  (-t * (t - 1) * (t - 2)) / 6,
  ((t + 1) * (t - 1) * (t - 2)) / 2,
  (-(t + 1) * t * (t - 2)) / 2,
  ((t + 1) * t * (t - 1)) / 6,
];
const slopes = (t: number): number[] => [
  (-3 * t * t + 6 * t - 2) / 6,
  (3 * t * t - 4 * t - 1) / 2,
  (-3 * t * t + 2 * t + 2) / 2,
  (3 * t * t - 1) / 6,
];

/** How far a kernel widens along one axis of the raster where so many samples lie from vertex to vertex, east and south. */
function widening(east: number, south: number): number {
  const square = east * east + south * south;
  return square > 1 ? Math.sqrt(square) : 1;
}

/** Where vertices lie in the raster: projected exactly at every few of them, and along cubics between these. */
class Places {
  /** From metres to the coordinates of the raster, where places are metres. */
  private readonly way: Way | null;
  private readonly side: number;
  private readonly lines = new Map<number, Float64Array>();
  private readonly firstNode: number;
  private readonly nodes: number;
  /** Weights and slopes of the cubics at each vertex of a cell. */
  private readonly across: Float64Array;
  private readonly rise: Float64Array;
  private readonly out: Float64Array;

  /** Places of vertices `from` to `to − 1` of any row. */
  constructor(
    private readonly grid: MetricVertices,
    private readonly from: number,
    private readonly to: number,
  ) {
    const { georeference, width } = grid.from;
    this.way = grid.zone && georeference ? fromCoordinates(georeference, width, grid.zone) : null;
    const metres = Math.max(Math.hypot(...grid.across), Math.hypot(...grid.down));
    this.side = this.way ? Math.max(1, Math.min(CELL_VERTICES, Math.floor(CELL_METRES / metres))) : CELL_VERTICES;
    this.firstNode = Math.floor(from / this.side) - 1;
    this.nodes = Math.floor((to - 1) / this.side) + 2 - this.firstNode + 1;
    const shares = Array.from({ length: this.side }, (_, i) => i / this.side);
    this.across = Float64Array.from(shares.flatMap(lagrange));
    this.rise = Float64Array.from(shares.flatMap(slopes), (slope) => slope / this.side);
    this.out = new Float64Array(PLACE * (to - from));
  }

  /** The line of exact places number `line`: column and row of each. */
  private line(line: number): Float64Array {
    const known = this.lines.get(line);
    if (known) return known;
    const { grid, side, way } = this;
    const { origin, across, down } = grid;
    const out = new Float64Array(2 * this.nodes);
    for (let c = 0; c < this.nodes; c++) {
      const [i, j] = [(this.firstNode + c) * side, line * side];
      const first = origin[0] + i * across[0] + j * down[0];
      const second = origin[1] + i * across[1] + j * down[1];
      if (way) {
        const { x, y, dx, dy } = grid.from.georeference!;
        const [longitude, latitude] = way.inverse(first, second);
        out[2 * c] = (longitude - x) / dx;
        out[2 * c + 1] = (y - latitude) / dy;
      } else {
        out[2 * c] = first;
        out[2 * c + 1] = second;
      }
    }
    this.lines.set(line, out);
    return out;
  }

  /** Places along row `y`, four numbers each; valid until the next row is asked for. */
  row(y: number): Float64Array {
    const { side, nodes, from, to, firstNode } = this;
    const line = Math.floor(y / side);
    for (const known of this.lines.keys()) if (known < line - 1) this.lines.delete(known);
    const down = lagrange((y - line * side) / side);
    const fall = slopes((y - line * side) / side);
    const around = [this.line(line - 1), this.line(line), this.line(line + 1), this.line(line + 2)];
    const at = new Float64Array(2 * nodes);
    const south = new Float64Array(2 * nodes);
    for (let k = 0; k < 4; k++)
      for (let i = 0; i < 2 * nodes; i++) {
        at[i] = at[i]! + down[k]! * around[k]![i]!;
        south[i] = south[i]! + (fall[k]! / side) * around[k]![i]!;
      }
    const { out, across, rise } = this;
    for (let x = from, o = 0; x < to; x++, o += PLACE) {
      const cell = Math.floor(x / side);
      const w = 4 * (x - cell * side);
      const first = 2 * (cell - 1 - firstNode);
      let [column, row, columnEast, rowEast, columnSouth, rowSouth] = [0, 0, 0, 0, 0, 0];
      for (let k = 0; k < 4; k++) {
        const i = first + 2 * k;
        const share = across[w + k]!;
        const slope = rise[w + k]!;
        column += share * at[i]!;
        row += share * at[i + 1]!;
        columnEast += slope * at[i]!;
        rowEast += slope * at[i + 1]!;
        columnSouth += share * south[i]!;
        rowSouth += share * south[i + 1]!;
      }
      out[o] = column;
      out[o + 1] = row;
      out[o + 2] = widening(columnEast, columnSouth);
      out[o + 3] = widening(rowEast, rowSouth);
    }
    return out;
  }
}

/** The rows of the raster that a row of vertices is made of. */
function rowsFor(places: Float64Array, taps: Taps): { readonly from: number; readonly to: number } {
  let [from, to] = [Infinity, -Infinity];
  for (let o = 0; o < places.length; o += PLACE) {
    const row = places[o + 1]!;
    const reach = taps.reach(places[o + 3]!);
    // by comparing: a place that can't be projected is none
    if (row - reach < from) from = row - reach;
    if (row + reach > to) to = row + reach;
  }
  return { from: Math.floor(from) - 2, to: Math.ceil(to) + 2 };
}

/** One row of vertices from the rows around it; `x`, `y`: of the first vertex. */
function fillRow(
  out: Float32Array,
  places: Float64Array,
  x: number,
  y: number,
  grid: MetricVertices,
  ring: Ring,
  { rim, clamp }: WarpOptions,
  across: Taps,
  down: Taps,
): void {
  const { covered } = grid;
  const { width, height } = grid.from;
  const outside = y < covered.north || y > covered.south;
  for (let i = 0, o = 0; i < out.length; i++, o += PLACE) {
    if (outside || x + i < covered.west || x + i > covered.east) {
      out[i] = rim;
      continue;
    }
    const column = places[o]!;
    const row = places[o + 1]!;
    const on =
      column >= -ON_RASTER && row >= -ON_RASTER && column <= width - 1 + ON_RASTER && row <= height - 1 + ON_RASTER;
    if (!on) {
      out[i] = NaN;
      continue;
    }
    across.at(column, places[o + 2]!);
    down.at(row, places[o + 3]!);
    const value = sumOf(ring, across, down);
    out[i] = clamp ? Math.max(clamp.low, Math.min(clamp.high, value)) : value;
  }
}

/** The weighted sum in doubles; voids leave their share to the rest, unless they have most of it. */
function sumOf(ring: Ring, across: Taps, down: Taps): number {
  const { data, capacity, width } = ring;
  const { first, count, weights } = across;
  let sum = 0;
  for (let k = 0; k < down.count; k++) {
    const at = ((down.first + k) & (capacity - 1)) * width + first;
    let line = 0;
    for (let c = 0; c < count; c++) line += weights[c]! * data[at + c]!;
    sum += down.weights[k]! * line;
  }
  return sum === sum ? sum : sumAround(ring, across, down);
}

function sumAround({ data, capacity, width }: Ring, across: Taps, down: Taps): number {
  let sum = 0;
  let weight = 0;
  for (let k = 0; k < down.count; k++) {
    const at = ((down.first + k) & (capacity - 1)) * width + across.first;
    for (let c = 0; c < across.count; c++) {
      const sample = data[at + c]!;
      if (sample !== sample) continue;
      const share = down.weights[k]! * across.weights[c]!;
      sum += share * sample;
      weight += share;
    }
  }
  return weight >= 0.5 ? sum / weight : NaN;
}

/** Whether rows of vertices need rows of the raster ever further south; of ground that is turned they may not. */
const goesSouth = ({ zone, across, down }: MetricVertices): boolean =>
  zone === null ? down[1] >= 0 : across[1] === 0 && down[0] === 0 && down[1] < 0;

/**
 * All vertices, streamed: holds the rows that the widest kernel of a row meets; of ground that is turned upside down, or
 * aslant and metric, all of them.
 */
export function warped(heights: HeightStream, grid: MetricVertices, options: WarpOptions): HeightStream {
  const { width, height } = grid;
  return {
    width,
    height,
    datum: heights.datum,
    async *bands(job?: JobContext): AsyncGenerator<Band> {
      const across = new Taps(options.filter, grid.from.width);
      const down = new Taps(options.filter, grid.from.height);
      const places = new Places(grid, 0, width);
      const quiet = job?.signal ? { signal: job.signal } : undefined;
      const rows = new HeldRows(
        heights.bands(quiet),
        grid.from.width,
        grid.from.height,
        (count) => new Float32Array(count * grid.from.width),
      );
      const perBand = bandRows(width);
      try {
        if (!goesSouth(grid)) await rows.hold(0, grid.from.height - 1);
        for (let y = 0; y < height; y += perBand) {
          const count = Math.min(perBand, height - y);
          const data = new Float32Array(count * width);
          for (let r = 0; r < count; r++) {
            checkpoint(job);
            const along = places.row(y + r);
            const { from, to } = rowsFor(along, down);
            await rows.hold(from, to);
            fillRow(data.subarray(r * width, (r + 1) * width), along, 0, y + r, grid, rows.ring, options, across, down);
          }
          yield { y, rows: count, data };
        }
      } finally {
        await rows.end();
      }
    },
  };
}

/** A window of the vertices, computed alone: bit for bit what the bands hold there. */
export function warpedWindow(
  whole: Level,
  datum: number,
  grid: MetricVertices,
  options: WarpOptions,
  area: WindowArea,
): Float32Array {
  const out = new Float32Array(area.width * area.height);
  const across = new Taps(options.filter, grid.from.width);
  const down = new Taps(options.filter, grid.from.height);
  const places = new Places(grid, area.x, area.x + area.width);
  const lines = Array.from({ length: area.height }, (_, r) => places.row(area.y + r).slice());
  const needed = lines.map((along) => rowsFor(along, down));
  const last = whole.height - 1;
  const top = Math.max(0, Math.min(last, Math.min(...needed.map((n) => n.from))));
  const bottom = Math.max(0, Math.min(last, Math.max(...needed.map((n) => n.to))));
  let capacity = 1;
  while (capacity < bottom - top + 1) capacity *= 2;
  const { width } = whole;
  const ring: Ring = { data: new Float32Array(capacity * width), capacity, width, height: whole.height };
  for (let y = top; y <= bottom; y++)
    ring.data.set(toHeights(whole.samples.subarray(y * width, (y + 1) * width), datum), (y & (capacity - 1)) * width);
  lines.forEach((along, r) => {
    const line = out.subarray(r * area.width, (r + 1) * area.width);
    fillRow(line, along, area.x, area.y + r, grid, ring, options, across, down);
  });
  return out;
}
