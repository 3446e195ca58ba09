import { freshKernels, type Kernels } from './instance';

/** What the comparison of one row gives; clipped samples are not among the `count`. */
export interface RowFigures {
  readonly max: number;
  readonly sum: number;
  readonly squares: number;
  readonly count: number;
  readonly low: number;
  readonly high: number;
}

/** A map of cells that keep the largest error with its sign: how many there are, and the cell of each column within its row. */
export interface KernelMap {
  readonly cells: Float32Array;
  readonly columnOf: Int32Array;
}

/** Room for what every comparison needs: its state, and the map while it is filled. */
class Comparison {
  readonly state: number;
  readonly columns: number;
  private readonly cells: number;

  constructor(
    readonly k: Kernels,
    private readonly map: KernelMap | null,
  ) {
    this.state = k.take(128);
    k.u8.fill(0, this.state, this.state + 128);
    this.columns = map ? k.put(map.columnOf) : 0;
    this.cells = map ? k.put(map.cells) : 0;
  }

  rowAt(start: number): number {
    return this.cells + start * 4;
  }

  numbers(from: number, count: number): Float64Array {
    return new Float64Array(this.k.u8.buffer, this.state + from, count);
  }

  figures(): RowFigures {
    const [max = 0, sum = 0, squares = 0, count = 0, low = 0, high = 0] = this.numbers(0, 6);
    return { max, sum, squares, count, low, high };
  }

  /** Hands the cells over. */
  finish(): void {
    if (this.map) this.map.cells.set(new Float32Array(this.k.copy(this.cells, this.map.cells.byteLength).buffer));
  }
}

/** Rows of codes against the fitted ground: see wasm/assembly/proof.ts. */
export class CodeComparisonKernel {
  private readonly table: number;
  private readonly codes: number;
  private readonly ground: number;

  private constructor(
    private readonly c: Comparison,
    table: Float64Array,
    width: number,
  ) {
    const { k } = c;
    this.table = k.put(table);
    this.codes = k.take(width * 2);
    this.ground = k.take(width * 4);
  }

  /** `table`: the height of each of the 65536 codes; `width`: samples of the longest row. Null without a kernel. */
  static create(table: Float64Array, width: number, map: KernelMap | null): CodeComparisonKernel | null {
    const k = freshKernels();
    return k ? new CodeComparisonKernel(new Comparison(k, map), table, width) : null;
  }

  /** `ground` under `codes`, which begin at column `from` of the map's row at cell `start`. */
  compare(
    codes: Uint16Array,
    ground: Float32Array,
    from: number,
    start: number,
    unit: number,
    shift: number,
    lowest: number,
    highest: number,
  ): RowFigures {
    const { c } = this;
    const { k } = c;
    k.write(this.codes, codes);
    k.write(this.ground, ground);
    const columns = c.columns && c.columns + from * 4;
    k.run.compareCodes(
      this.codes,
      this.ground,
      codes.length,
      this.table,
      unit,
      shift,
      lowest,
      highest,
      columns,
      c.rowAt(start),
      c.state,
    );
    return c.figures();
  }

  /** Sums over every eighth sample: how many, truth, shown, truth², truth · shown. Hands the map over. */
  finish(): { line: Float64Array } {
    this.c.finish();
    return { line: this.c.numbers(48, 5).slice() };
  }
}

/** Rows of the source against the fitted ground between its vertices: see wasm/assembly/proof.ts. */
export class GroundComparisonKernel {
  private readonly left: number;
  private readonly shares: number;
  private readonly source: number;
  private readonly codes: number;
  /** The last row of the band before, then the rows of the band. */
  private rows = 0;
  private room = 0;
  private held = 0;

  private constructor(
    private readonly c: Comparison,
    left: Int32Array,
    shares: Float64Array,
    private readonly width: number,
    private readonly datum: number,
  ) {
    const { k } = c;
    this.left = k.put(left);
    this.shares = k.put(shares);
    // a conversion may write up to 12 bytes behind the last sample
    this.source = k.take(left.length * 4 + 16);
    this.codes = k.take(left.length * 2 + 8);
  }

  /**
   * `left` and `shares` for each sample of a source row; `width`: vertices of a row of the ground; `datum`: what codes
   * are taken above. Null without a kernel.
   */
  static create(
    left: Int32Array,
    shares: Float64Array,
    width: number,
    map: KernelMap | null,
    datum = 0,
  ): GroundComparisonKernel | null {
    const k = freshKernels();
    return k ? new GroundComparisonKernel(new Comparison(k, map), left, shares, width, datum) : null;
  }

  /** The next band of the ground; the last row of the one before stays. */
  band(data: Float32Array): void {
    const { k } = this.c;
    const row = this.width * 4;
    const last = this.held === 0 ? null : k.copy(this.rows + this.held * row, row);
    this.held = data.length / this.width;
    if (this.held > this.room) {
      this.room = this.held;
      this.rows = k.take((this.room + 1) * row);
    }
    if (last) k.write(this.rows, last);
    k.write(this.rows + row, data);
  }

  /** A row of the source, heights or codes, between rows `top` and `top + 1` of the band; −1 is the last of the band before. */
  compare(
    source: Float32Array | Uint16Array,
    top: number,
    from: number,
    to: number,
    share: number,
    start: number,
    unit: number,
  ): RowFigures {
    const { c, width } = this;
    const { k } = c;
    if (source instanceof Uint16Array) {
      k.write(this.codes, source);
      k.run.heightsOf16(this.codes, this.source, source.length, this.datum);
    } else k.write(this.source, source);
    const upper = this.rows + (top + 1) * width * 4;
    k.run.compareGround(
      this.source,
      upper,
      upper + width * 4,
      this.left,
      this.shares,
      from,
      to,
      share,
      unit,
      c.columns,
      c.rowAt(start),
      c.state,
    );
    return c.figures();
  }

  /** Hands the map over. */
  finish(): void {
    this.c.finish();
  }
}
