import type { RowFigures } from '../wasm';

/** Largest, mean and root mean square of absolute differences, in metres. */
export interface ErrorFigures {
  readonly max: number;
  readonly mean: number;
  readonly rms: number;
}

/** Collects differences; sums are kept per row so that their order is fixed. */
export class ErrorMeter {
  private max = 0;
  private sum = 0;
  private squares = 0;
  private count = 0;

  addRow({ max, sum, squares, count }: { max: number; sum: number; squares: number; count: number }): void {
    if (max > this.max) this.max = max;
    this.sum += sum;
    this.squares += squares;
    this.count += count;
  }

  get samples(): number {
    return this.count;
  }

  figures(): ErrorFigures {
    const n = Math.max(1, this.count);
    return { max: this.max, mean: this.sum / n, rms: Math.sqrt(this.squares / n) };
  }
}

/**
 * Errors of one row, sample by sample, into figures and a map. What the kernels' twins share: two samples go together
 * there, hence two sums.
 */
export class RowErrors {
  private max = 0;
  private count = 0;
  private readonly sums: [number, number] = [0, 0];
  private readonly squares: [number, number] = [0, 0];

  constructor(
    private readonly map: Pick<ErrorMap, 'cells' | 'columnOf'> | null,
    /** First cell of the row. */
    private readonly start: number,
  ) {}

  /** What the `n`-th sample shows above (+) or below (−) the truth; it lies in column `column` of the map. */
  add(n: number, signed: number, column: number): void {
    const error = Math.abs(signed);
    if (error > this.max) this.max = error;
    this.sums[n & 1]! += error;
    this.squares[n & 1]! += error * error;
    this.count++;
    if (!this.map) return;
    const { cells, columnOf } = this.map;
    const cell = this.start + columnOf[column]!;
    if (Math.fround(error) > Math.abs(cells[cell]!)) cells[cell] = signed;
  }

  figures(low = 0, high = 0): RowFigures {
    const { max, sums, squares, count } = this;
    return { max, sum: sums[0] + sums[1], squares: squares[0] + squares[1], count, low, high };
  }
}

/** Least squares line shown = slope · truth + shift, fed sample by sample. */
export class LineFit {
  private n = 0;
  private t = 0;
  private s = 0;
  private tt = 0;
  private ts = 0;

  add(truth: number, shown: number): void {
    this.n++;
    this.t += truth;
    this.s += shown;
    this.tt += truth * truth;
    this.ts += truth * shown;
  }

  /** Takes over sums that were made elsewhere in the same way: count, truth, shown, truth², truth · shown. */
  set([n = 0, t = 0, s = 0, tt = 0, ts = 0]: Iterable<number>): void {
    Object.assign(this, { n, t, s, tt, ts });
  }

  /** How much of the mean square of all errors a line through the heights explains, 0 to 1. */
  explains(rms: number): number {
    const line = this.result();
    if (!line || rms === 0) return 0;
    const by = line.slope - 1;
    const square = (by * by * this.tt + 2 * by * line.shift * this.t) / this.n + line.shift * line.shift;
    return Math.min(1, square / (rms * rms));
  }

  result(): { slope: number; shift: number } | null {
    const spread = this.n * this.tt - this.t * this.t;
    if (this.n < 2 || spread <= 0) return null;
    const slope = (this.n * this.ts - this.t * this.s) / spread;
    return { slope, shift: (this.s - slope * this.t) / this.n };
  }
}

/** The largest error of a map, in metres with its sign, and a vertex of the whole within a cell of where it lies. */
export interface WorstError {
  readonly x: number;
  readonly y: number;
  readonly error: number;
}

/** The largest difference of each cell of a coarse grid over the whole, shown − true in metres, for the difference view. */
export class ErrorMap {
  readonly columns: number;
  readonly rows: number;
  readonly cells: Float32Array;
  /** Cell within its row for each column of the whole. */
  readonly columnOf: Int32Array;

  constructor(
    width: number,
    private readonly height: number,
    most = 384,
  ) {
    this.columns = Math.min(most, width);
    this.rows = Math.min(most, height);
    this.cells = new Float32Array(this.columns * this.rows);
    this.columnOf = Int32Array.from({ length: width }, (_, x) => Math.floor((x * this.columns) / width));
  }

  /** The cell with the largest error: the vertex in its middle. */
  worst(): WorstError {
    const { columns, rows, cells, height, columnOf } = this;
    let at = 0;
    for (let i = 1; i < cells.length; i++) if (Math.abs(cells[i]!) > Math.abs(cells[at]!)) at = i;
    const middle = (cell: number, count: number, size: number): number =>
      Math.min(size - 1, Math.floor(((cell + 0.5) * size) / count));
    return {
      x: middle(at % columns, columns, columnOf.length),
      y: middle(Math.floor(at / columns), rows, height),
      error: cells[at] ?? 0,
    };
  }

  /** First cell of row `y`. */
  rowStart(y: number): number {
    return Math.floor((y * this.rows) / this.height) * this.columns;
  }
}
