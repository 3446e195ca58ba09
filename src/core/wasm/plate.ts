import { freshKernels, type Kernels } from './instance';

/** How far a sample may go from where it was stored, and the ends of the ground. */
export interface PlateBounds {
  readonly below: number;
  readonly above: number;
  readonly lowest: number;
  readonly highest: number;
}

/** Sweeps of a thin plate over a whole grid, in memory of its own. */
export class PlateKernel {
  private readonly at: number;
  private readonly stored: number;
  private readonly flat: number;
  private readonly rows: number;
  private readonly wide: boolean;

  private constructor(
    private readonly k: Kernels,
    private readonly width: number,
    private readonly height: number,
    stored: Float32Array | Float64Array,
    flat: Uint8Array,
  ) {
    this.rows = k.take(4 * 8 * width);
    this.flat = k.put(flat);
    this.stored = k.put(stored);
    this.at = k.take(8 * width * height);
    this.wide = stored instanceof Float64Array;
  }

  /** `stored`: heights as they came; `flat`: 1 for those that may move. Null without a kernel. */
  static create(
    width: number,
    height: number,
    stored: Float32Array | Float64Array,
    flat: Uint8Array,
  ): PlateKernel | null {
    const k = freshKernels();
    return k ? new PlateKernel(k, width, height, stored, flat) : null;
  }

  /** The surface where it lies. */
  get surface(): Float64Array {
    return new Float64Array(this.k.u8.buffer, this.at, this.width * this.height);
  }

  /** One sweep: each sample takes `share` of what its neighbours ask of it. */
  sweep(share: number, { below, above, lowest, highest }: PlateBounds): void {
    const { run } = this.k;
    const { at, stored, flat, width, height, rows } = this;
    if (this.wide) run.plateSweep64(at, stored, flat, width, height, rows, share, below, above, lowest, highest);
    else run.plateSweep32(at, stored, flat, width, height, rows, share, below, above, lowest, highest);
  }
}
