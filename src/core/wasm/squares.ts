import { freshKernels, type Kernels } from './instance';

/** Rows of a raster, and places in it, in the memory of the kernel that makes squares of them. */
export class SquaresKernel {
  private readonly columnsAt: number;
  private readonly rowsAt: number;
  private readonly outAt: number;
  private ringAt: number;

  private constructor(
    private readonly k: Kernels,
    private readonly width: number,
    private readonly count: number,
    private capacity: number,
  ) {
    this.columnsAt = k.take(count * 8);
    this.rowsAt = k.take(count * 8);
    this.outAt = k.take(count * 4);
    this.ringAt = k.take(capacity * width * 8);
  }

  /** For rasters `width` wide and rows of `count` squares; `capacity` rows, a power of two. Null without a kernel. */
  static create(width: number, count: number, capacity: number): SquaresKernel | null {
    const k = freshKernels();
    return k ? new SquaresKernel(k, width, count, capacity) : null;
  }

  /** Room for more rows; what was there is lost. */
  grow(capacity: number): void {
    this.capacity = capacity;
    this.ringAt = this.k.take(capacity * this.width * 8);
  }

  /** Views of the kernel's memory, valid until `grow`. */
  ring(): Float64Array {
    return new Float64Array(this.k.u8.buffer, this.ringAt, this.capacity * this.width);
  }
  columns(): Float64Array {
    return new Float64Array(this.k.u8.buffer, this.columnsAt, this.count);
  }
  rows(): Float64Array {
    return new Float64Array(this.k.u8.buffer, this.rowsAt, this.count);
  }

  /** One row of squares into `out`. */
  run(height: number, out: Float32Array): void {
    const { k, count, capacity, width } = this;
    k.run.squaresRow(this.columnsAt, this.rowsAt, count, this.ringAt, capacity, width, height, this.outAt);
    out.set(new Float32Array(k.u8.buffer, this.outAt, count));
  }
}
