import { checkpoint, LevelGridError, type JobContext } from '../base';
import { bandRows, type OpenRaster, type RasterInfo, type StoredBand } from '../raster';
import { gridOf, type Squares, type SquareGrid } from './grid';
import { projector, zoneName } from './zone';

/**
 * From one exactly projected place to the next there are so many metres at most, and so many squares; between them the
 * way back to degrees is a straight line, which is right to a few millimetres.
 */
const CELL_METRES = 320;
const CELL_SQUARES = 16;

/**
 * A raster in degrees as square metres: streamed, each sample from the 4 × 4 around its place (cubic convolution after
 * R. Keys, 1981), where these hold heights, else from the 2 × 2. What lies outside, or mostly in voids, is void.
 */
export function squared<T extends OpenRaster>(raster: T, squares: Squares): T {
  const grid = gridOf(raster.info, squares);
  const { noData: _, ...rest } = raster.info;
  const info: RasterInfo = {
    ...rest,
    width: grid.width,
    height: grid.height,
    sampleType: 'float',
    bitDepth: 32,
    byteOrder: null,
    mayHoldVoids: true,
    georeference: {
      x: grid.east,
      y: grid.north,
      dx: squares.spacing,
      dy: squares.spacing,
      metres: 1,
      degrees: false,
      crs: zoneName(squares),
    },
  };
  return { ...raster, info, bands: (job) => bandsOf(raster, grid, squares, job) };
}

/** Places in the raster, in samples, for every square of a band. */
class Places {
  private readonly g;
  private readonly inverse;
  /** Squares along the side of a cell. */
  private readonly side: number;
  private readonly cells: number;
  private above: Float64Array;
  private below: Float64Array;
  /** The line of cells that is held; none at first. */
  private line = -2;

  constructor(
    info: RasterInfo,
    private readonly grid: SquareGrid,
    private readonly squares: Squares,
  ) {
    this.g = info.georeference!;
    this.inverse = projector(squares).inverse;
    this.side = Math.max(1, Math.min(CELL_SQUARES, Math.floor(CELL_METRES / squares.spacing)));
    this.cells = Math.ceil((grid.width - 1) / this.side) + 1;
    this.above = new Float64Array(2 * this.cells);
    this.below = new Float64Array(2 * this.cells);
  }

  /** Columns and rows, one after the other, of the cells' corners along line `line`. */
  private exact(line: number): Float64Array {
    const { g, squares, grid, side } = this;
    const out = new Float64Array(2 * this.cells);
    for (let c = 0; c < this.cells; c++) {
      const [longitude, latitude] = this.inverse(
        grid.east + c * side * squares.spacing,
        grid.north - line * side * squares.spacing,
      );
      out[2 * c] = (longitude - g.x) / g.dx;
      out[2 * c + 1] = (g.y - latitude) / g.dy;
    }
    return out;
  }

  /** Columns and rows in the raster of row `y` of the squares. */
  row(y: number, columns: Float64Array, rows: Float64Array): void {
    const { side } = this;
    const line = Math.floor(y / side);
    if (line !== this.line) {
      this.above = line === this.line + 1 ? this.below : this.exact(line);
      this.below = this.exact(line + 1);
      this.line = line;
    }
    const down = (y - line * side) / side;
    const { above, below } = this;
    for (let c = 0; c + 1 < this.cells || c === 0; c++) {
      const i = 2 * c;
      const k = Math.min(c + 1, this.cells - 1) * 2;
      const x0 = above[i]! + (below[i]! - above[i]!) * down;
      const x1 = above[k]! + (below[k]! - above[k]!) * down;
      const y0 = above[i + 1]! + (below[i + 1]! - above[i + 1]!) * down;
      const y1 = above[k + 1]! + (below[k + 1]! - above[k + 1]!) * down;
      const end = Math.min(columns.length, (c + 1) * side + (c + 2 >= this.cells ? 1 : 0));
      for (let x = c * side; x < end; x++) {
        const t = (x - c * side) / side;
        columns[x] = x0 + (x1 - x0) * t;
        rows[x] = y0 + (y1 - y0) * t;
      }
    }
  }
}

/** Rows of the raster that are held: a window that only moves south. */
class Window {
  private readonly bands: AsyncGenerator<StoredBand>;
  private readonly held: Float64Array[] = [];
  private first = 0;
  private band: StoredBand | null = null;
  private next = 0;

  constructor(
    raster: OpenRaster,
    private readonly width: number,
    private readonly height: number,
    job?: JobContext,
  ) {
    this.bands = raster.bands(job?.signal ? { signal: job.signal } : undefined);
  }

  /** Holds rows `from` to `to`. */
  async move(from: number, to: number): Promise<void> {
    while (this.first < from && this.held.length > 0) {
      this.held.shift();
      this.first++;
    }
    for (; this.next <= to; this.next++) {
      while (!this.band || this.next >= this.band.y + this.band.rows) {
        const step = await this.bands.next();
        if (step.done)
          throw new LevelGridError('truncated', {
            found: `${this.next} rows`,
            expected: `${this.height}`,
            remedy: 'The file changed while it was read: bring it in again.',
          });
        this.band = step.value;
      }
      if (this.next < from) {
        this.first = this.next + 1;
        continue;
      }
      const at = (this.next - this.band.y) * this.width;
      this.held.push(Float64Array.from(this.band.data.subarray(at, at + this.width)));
    }
  }

  row(y: number): Float64Array {
    return this.held[y - this.first]!;
  }

  async end(): Promise<void> {
    await this.bands.return(undefined);
  }
}

async function* bandsOf(
  raster: OpenRaster,
  grid: SquareGrid,
  squares: Squares,
  job?: JobContext,
): AsyncGenerator<StoredBand> {
  const { width, height } = raster.info;
  const places = new Places(raster.info, grid, squares);
  const window = new Window(raster, width, height, job);
  const columns = new Float64Array(grid.width);
  const rows = new Float64Array(grid.width);
  const perBand = bandRows(grid.width);
  try {
    for (let y0 = 0; y0 < grid.height; y0 += perBand) {
      const count = Math.min(perBand, grid.height - y0);
      const data = new Float32Array(count * grid.width);
      for (let r = 0; r < count; r++) {
        checkpoint(job);
        places.row(y0 + r, columns, rows);
        // the line through a raster is nearly straight: its ends and its middle bound it, and two rows more
        const ends = [rows[0]!, rows[grid.width >> 1]!, rows[grid.width - 1]!];
        const top = Math.floor(Math.min(...ends)) - 3;
        const bottom = Math.floor(Math.max(...ends)) + 4;
        await window.move(Math.max(0, Math.min(height - 1, top)), Math.max(0, Math.min(height - 1, bottom)));
        fill(data.subarray(r * grid.width, (r + 1) * grid.width), columns, rows, window, width, height);
      }
      yield { y: y0, rows: count, data };
    }
  } finally {
    await window.end();
  }
}

/** This near to a sample, in samples, a place is that sample: the outline of the raster is not lost to rounding. */
const ON_SAMPLE = 1e-6;

function fill(
  out: Float32Array,
  columns: Float64Array,
  rows: Float64Array,
  window: Window,
  width: number,
  height: number,
): void {
  for (let x = 0; x < out.length; x++) {
    const column = columns[x]!;
    const row = rows[x]!;
    if (column < -ON_SAMPLE || row < -ON_SAMPLE || column > width - 1 + ON_SAMPLE || row > height - 1 + ON_SAMPLE) {
      out[x] = NaN;
      continue;
    }
    const left = Math.max(0, Math.min(width - 2, Math.floor(column)));
    const top = Math.max(0, Math.min(height - 2, Math.floor(row)));
    const u = Math.max(0, Math.min(1, column - left));
    const v = Math.max(0, Math.min(1, row - top));
    const value = left > 0 && top > 0 && left < width - 2 && top < height - 2 ? cubic(window, left, top, u, v) : NaN;
    out[x] = value === value ? value : linear(window, left, top, u, v);
  }
}

/** Cubic convolution (a = −1/2) of the 4 × 4 around; NaN where one of them holds no height. */
function cubic(window: Window, left: number, top: number, u: number, v: number): number {
  const u0 = u * (-0.5 + u * (1 - 0.5 * u));
  const u1 = 1 + u * u * (1.5 * u - 2.5);
  const u2 = u * (0.5 + u * (2 - 1.5 * u));
  const u3 = u * u * (0.5 * u - 0.5);
  let sum = 0;
  for (let k = 0; k < 4; k++) {
    const row = window.row(top - 1 + k);
    const line = u0 * row[left - 1]! + u1 * row[left]! + u2 * row[left + 1]! + u3 * row[left + 2]!;
    const share =
      k === 0
        ? v * (-0.5 + v * (1 - 0.5 * v))
        : k === 1
          ? 1 + v * v * (1.5 * v - 2.5)
          : k === 2
            ? v * (0.5 + v * (2 - 1.5 * v))
            : v * v * (0.5 * v - 0.5);
    sum += share * line;
  }
  return sum;
}

/** Between the 2 × 2 around, of those that hold heights; NaN where these have less than half of the weight. */
function linear(window: Window, left: number, top: number, u: number, v: number): number {
  let sum = 0;
  let weight = 0;
  for (let k = 0; k < 2; k++)
    for (let i = 0; i < 2; i++) {
      const share = (i === 0 ? 1 - u : u) * (k === 0 ? 1 - v : v);
      const value = window.row(top + k)[left + i]!;
      if (share === 0 || value !== value) continue;
      sum += share * value;
      weight += share;
    }
  return weight >= 0.5 ? sum / weight : NaN;
}
