import { freshKernels, type Kernels } from './instance';

/** Squares that the kernel may write beyond the end of a row. */
const BEYOND = 3;

/** Rows of a raster, and places in it, in the memory of the kernel that makes squares of them. */
export class SquaresKernel {
  private readonly aboveAt: number;
  private readonly belowAt: number;
  private readonly scratchAt: number;
  private readonly outAt: number;
  private ringAt: number;

  private constructor(
    private readonly k: Kernels,
    private readonly width: number,
    private readonly count: number,
    private readonly numbers: number,
    private capacity: number,
  ) {
    this.aboveAt = k.take(numbers * 8);
    this.belowAt = k.take(numbers * 8);
    this.scratchAt = k.take(k.run.squaresScratch());
    this.outAt = k.take((count + BEYOND) * 4);
    this.ringAt = k.take(capacity * width * 4);
  }

  /**
   * For rasters `width` wide and rows of `count` squares, whose lines of places are `numbers` numbers; `capacity` rows, a
   * power of two. Null without a kernel.
   */
  static create(width: number, count: number, numbers: number, capacity: number): SquaresKernel | null {
    const k = freshKernels();
    return k ? new SquaresKernel(k, width, count, numbers, capacity) : null;
  }

  /** Room for more rows; what was there is lost. */
  grow(capacity: number): void {
    this.capacity = capacity;
    this.ringAt = this.k.take(capacity * this.width * 4);
  }

  /** A view of the kernel's memory, valid until `grow`. */
  ring(): Float32Array {
    return new Float32Array(this.k.u8.buffer, this.ringAt, this.capacity * this.width);
  }

  /** The lines that rows lie between from now on. */
  lines(above: Float64Array, below: Float64Array): void {
    new Float64Array(this.k.u8.buffer, this.aboveAt, this.numbers).set(above);
    new Float64Array(this.k.u8.buffer, this.belowAt, this.numbers).set(below);
  }

  /** One row of squares into `out`, `down` of the way from line to line; its places stand `side` squares apart. */
  run(down: number, side: number, height: number, out: Float32Array): void {
    const { k, aboveAt, belowAt, count, ringAt, capacity, width, scratchAt, outAt } = this;
    k.run.squaresRow(aboveAt, belowAt, down, side, count, ringAt, capacity, width, height, scratchAt, outAt);
    out.set(new Float32Array(k.u8.buffer, outAt, count));
  }
}
