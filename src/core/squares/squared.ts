import { checkpoint, type JobContext } from '../base';
import { bandRows, type OpenRaster, type RasterInfo, type StoredBand } from '../raster';
import { SquaresKernel } from '../wasm';
import { gridOf, type Squares, type SquareGrid } from './grid';
import { FIRST_ROWS, HeldRows } from './rows';
import { squaresRow, type Lines } from './sample';
import { fromCoordinates } from './system';
import { zoneName } from './zone';

/**
 * From one exactly projected place to the next there are so many metres and squares at most, but four squares always, as
 * many as are made at once; between them the way back to degrees is a straight line, which is right to a few millimetres,
 * or, of coarse rasters, to a ten-thousandth of a sample.
 */
const CELL_METRES = 360;
const CELL_SQUARES = 16;
const AT_ONCE = 4;

/**
 * A raster in degrees, or in coordinates that stretch the ground, as square metres: streamed, each sample from the 4 × 4 around its place (cubic convolution after
 * R. Keys, 1981), where these hold heights, else from the 2 × 2. What lies outside, or mostly in voids, is void. `plain`:
 * without kernels.
 */
export function squared<T extends OpenRaster>(raster: T, squares: Squares, plain = false): T {
  const grid = gridOf(raster.info, squares);
  return {
    ...raster,
    info: infoOn(grid, raster.info, squares),
    bands: (job) => bandsOf(raster, grid, squares, plain, job),
  };
}

/** What that raster is, without a sample of it. */
export const squaredInfo = (info: RasterInfo, squares: Squares): RasterInfo =>
  infoOn(gridOf(info, squares), info, squares);

function infoOn(grid: SquareGrid, { noData: _, ...rest }: RasterInfo, squares: Squares): RasterInfo {
  return {
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
}

/** Lines of places in the raster, in samples. */
class PlaceLines implements Lines {
  private readonly g;
  private readonly inverse;
  readonly side: number;
  above: Float64Array;
  below: Float64Array;
  /** The first of the two lines that are held; none at first. */
  private line = -2;

  constructor(
    info: RasterInfo,
    private readonly grid: SquareGrid,
    private readonly squares: Squares,
  ) {
    this.g = info.georeference!;
    this.inverse = fromCoordinates(this.g, info.width, squares).inverse;
    const squaresOf = Math.floor(CELL_METRES / squares.spacing / AT_ONCE) * AT_ONCE;
    this.side = Math.max(AT_ONCE, Math.min(CELL_SQUARES, squaresOf));
    const places = Math.floor((grid.width - 1) / this.side) + 2;
    this.above = new Float64Array(2 * places);
    this.below = new Float64Array(2 * places);
  }

  private exact(line: number): Float64Array {
    const { g, squares, grid, side } = this;
    const out = new Float64Array(this.above.length);
    for (let c = 0; 2 * c < out.length; c++) {
      const [longitude, latitude] = this.inverse(
        grid.east + c * side * squares.spacing,
        grid.north - line * side * squares.spacing,
      );
      out[2 * c] = (longitude - g.x) / g.dx;
      out[2 * c + 1] = (g.y - latitude) / g.dy;
    }
    return out;
  }

  /** Goes on to the lines around row `y` of the squares; true where they are others than before. */
  moveTo(y: number): boolean {
    const line = Math.floor(y / this.side);
    if (line === this.line) return false;
    this.above = line === this.line + 1 ? this.below : this.exact(line);
    this.below = this.exact(line + 1);
    this.line = line;
    return true;
  }

  /** How far row `y` lies from the line above to the one below. */
  down(y: number): number {
    return (y - this.line * this.side) / this.side;
  }

  /** The northernmost and the southernmost row of the raster along both lines. */
  bounds(): readonly [north: number, south: number] {
    let [north, south] = [Infinity, -Infinity];
    for (const line of [this.above, this.below])
      for (let i = 1; i < line.length; i += 2) {
        // by comparing: a place that can't be projected is none
        if (line[i]! < north) north = line[i]!;
        if (line[i]! > south) south = line[i]!;
      }
    return [north, south];
  }
}

/** Rows of the raster that squares are made of, in the kernel's memory where there is one. */
class Window {
  private readonly kernel: SquaresKernel | null;
  private readonly rows: HeldRows;

  constructor(
    raster: OpenRaster,
    width: number,
    private readonly height: number,
    count: number,
    numbers: number,
    plain: boolean,
    job?: JobContext,
  ) {
    // the kernel takes 4 × 4 samples for granted
    const kernel = plain || width < 4 || height < 4 ? null : SquaresKernel.create(width, count, numbers, FIRST_ROWS);
    this.kernel = kernel;
    this.rows = new HeldRows(raster.bands(job?.signal ? { signal: job.signal } : undefined), width, height, (rows) => {
      if (!kernel) return new Float32Array(rows * width);
      if (rows > FIRST_ROWS) kernel.grow(rows);
      return kernel.ring();
    });
  }

  /** Holds all rows that squares between these lines need. */
  async show({ above, below }: Lines, [north, south]: readonly [number, number]): Promise<void> {
    // the 4 × 4 around, and a row more for what rounding makes of whole numbers
    await this.rows.hold(Math.floor(north) - 2, Math.floor(south) + 3);
    this.kernel?.lines(above, below);
  }

  /** One row of squares, `down` of the way between these lines. */
  fill(out: Float32Array, lines: Lines, down: number): void {
    if (this.kernel) this.kernel.run(down, lines.side, this.height, out);
    else squaresRow(out, lines, down, this.rows.ring);
  }

  end = (): Promise<void> => this.rows.end();
}

async function* bandsOf(
  raster: OpenRaster,
  grid: SquareGrid,
  squares: Squares,
  plain: boolean,
  job?: JobContext,
): AsyncGenerator<StoredBand> {
  const { width, height } = raster.info;
  const lines = new PlaceLines(raster.info, grid, squares);
  const window = new Window(raster, width, height, grid.width, lines.above.length, plain, job);
  const perBand = bandRows(grid.width);
  try {
    for (let y0 = 0; y0 < grid.height; y0 += perBand) {
      const count = Math.min(perBand, grid.height - y0);
      const data = new Float32Array(count * grid.width);
      for (let r = 0; r < count; r++) {
        checkpoint(job);
        const y = y0 + r;
        if (lines.moveTo(y)) await window.show(lines, lines.bounds());
        window.fill(data.subarray(r * grid.width, (r + 1) * grid.width), lines, lines.down(y));
      }
      yield { y: y0, rows: count, data };
    }
  } finally {
    await window.end();
  }
}
