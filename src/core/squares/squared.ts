import { checkpoint, LevelGridError, type JobContext } from '../base';
import { bandRows, type OpenRaster, type RasterInfo, type StoredBand } from '../raster';
import { SquaresKernel } from '../wasm';
import { gridOf, type Squares, type SquareGrid } from './grid';
import { squaresRow, type Ring } from './sample';
import { projector, zoneName } from './zone';

/**
 * From one exactly projected place to the next there are so many metres at most, and so many squares; between them the
 * way back to degrees is a straight line, which is right to a few millimetres.
 */
const CELL_METRES = 320;
const CELL_SQUARES = 16;

/**
 * A raster in degrees as square metres: streamed, each sample from the 4 × 4 around its place (cubic convolution after
 * R. Keys, 1981), where these hold heights, else from the 2 × 2. What lies outside, or mostly in voids, is void. `plain`:
 * without kernels.
 */
export function squared<T extends OpenRaster>(raster: T, squares: Squares, plain = false): T {
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
  return { ...raster, info, bands: (job) => bandsOf(raster, grid, squares, plain, job) };
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

/** Rows that are held at first; more where lines of squares lie more aslant. */
const FIRST_ROWS = 64;

/** Rows of the raster that are held, in the kernel's memory where there is one: a window that only moves south. */
class Window {
  private readonly bands: AsyncGenerator<StoredBand>;
  private readonly kernel: SquaresKernel | null;
  private ring: Ring;
  /** Places of one row of squares in the raster; written before `fill`. */
  columns: Float64Array;
  rows: Float64Array;
  private first = 0;
  private band: StoredBand | null = null;
  private next = 0;

  constructor(
    raster: OpenRaster,
    private readonly width: number,
    private readonly height: number,
    count: number,
    plain: boolean,
    job?: JobContext,
  ) {
    this.bands = raster.bands(job?.signal ? { signal: job.signal } : undefined);
    // the kernel takes 4 × 4 samples for granted
    this.kernel = plain || width < 4 || height < 4 ? null : SquaresKernel.create(width, count, FIRST_ROWS);
    this.ring = {
      data: this.kernel?.ring() ?? new Float64Array(FIRST_ROWS * width),
      capacity: FIRST_ROWS,
      width,
      height,
    };
    this.columns = this.kernel?.columns() ?? new Float64Array(count);
    this.rows = this.kernel?.rows() ?? new Float64Array(count);
  }

  /** Holds rows `from` to `to`. */
  async move(from: number, to: number): Promise<void> {
    if (to - from + 1 > this.ring.capacity) this.grow(to - from + 1);
    this.first = Math.max(this.first, from);
    const { width } = this;
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
      if (this.next < from) continue;
      const at = (this.next - this.band.y) * width;
      const row = this.band.data.subarray(at, at + width) as Float64Array;
      this.ring.data.set(row, (this.next & (this.ring.capacity - 1)) * width);
    }
  }

  /** Room for `needed` rows; those that are held stay. */
  private grow(needed: number): void {
    const { width, ring, kernel, first, next } = this;
    let { capacity } = ring;
    const before = ring.data.slice();
    while (capacity < needed) capacity *= 2;
    kernel?.grow(capacity);
    this.ring = { ...ring, data: kernel?.ring() ?? new Float64Array(capacity * width), capacity };
    for (let y = Math.max(first, next - ring.capacity); y < next; y++) {
      const from = (y & (ring.capacity - 1)) * width;
      this.ring.data.set(before.subarray(from, from + width), (y & (capacity - 1)) * width);
    }
    const { columns, rows } = this;
    const [c, r] = [columns.slice(), rows.slice()];
    this.columns = kernel?.columns() ?? columns;
    this.rows = kernel?.rows() ?? rows;
    this.columns.set(c);
    this.rows.set(r);
  }

  /** One row of squares at the places that stand in `columns` and `rows`. */
  fill(out: Float32Array): void {
    if (this.kernel) this.kernel.run(this.height, out);
    else squaresRow(out, this.columns, this.rows, this.ring);
  }

  async end(): Promise<void> {
    await this.bands.return(undefined);
  }
}

async function* bandsOf(
  raster: OpenRaster,
  grid: SquareGrid,
  squares: Squares,
  plain: boolean,
  job?: JobContext,
): AsyncGenerator<StoredBand> {
  const { width, height } = raster.info;
  const places = new Places(raster.info, grid, squares);
  const window = new Window(raster, width, height, grid.width, plain, job);
  const perBand = bandRows(grid.width);
  try {
    for (let y0 = 0; y0 < grid.height; y0 += perBand) {
      const count = Math.min(perBand, grid.height - y0);
      const data = new Float32Array(count * grid.width);
      for (let r = 0; r < count; r++) {
        checkpoint(job);
        places.row(y0 + r, window.columns, window.rows);
        const { rows } = window;
        // the line through a raster is nearly straight: its ends and its middle bound it, and two rows more
        const ends = [rows[0]!, rows[grid.width >> 1]!, rows[grid.width - 1]!];
        const top = Math.floor(Math.min(...ends)) - 3;
        const bottom = Math.floor(Math.max(...ends)) + 4;
        await window.move(Math.max(0, Math.min(height - 1, top)), Math.max(0, Math.min(height - 1, bottom)));
        window.fill(data.subarray(r * grid.width, (r + 1) * grid.width));
      }
      yield { y: y0, rows: count, data };
    }
  } finally {
    await window.end();
  }
}
