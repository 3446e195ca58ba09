import { freshKernels, sharedKernels, type Kernels } from './instance';

/** Weights of one axis as the kernels want them: rows of `taps` (a multiple of 4) Float32, zeros behind the real ones. */
export interface KernelAxis {
  readonly first: Int32Array;
  readonly taps: number;
  readonly weights: Float32Array;
}

/** Both passes of a resampling over memory that holds the ring of row results. */
export class ResampleKernel {
  private readonly line: number;
  private readonly firstAcross: number;
  private readonly weightsAcross: number;
  private readonly weightsDown: number;
  private readonly ring: number;
  private readonly stride: number;
  private readonly out: number;

  private constructor(
    private readonly k: Kernels,
    private readonly across: KernelAxis,
    private readonly down: KernelAxis,
    /** Real taps of the column pass. */
    private readonly ringRows: number,
    sourceWidth: number,
    private readonly width: number,
  ) {
    this.line = k.take(sourceWidth * 4);
    this.firstAcross = k.put(across.first);
    this.weightsAcross = k.put(across.weights);
    this.weightsDown = k.put(down.weights);
    this.stride = ((width + 3) & ~3) * 4;
    this.ring = k.take(this.stride * ringRows);
    this.out = k.take(this.stride);
    // behind the line and the ring lies nothing that could turn a zero weight into a NaN
    k.u8.fill(0, this.line, this.line + sourceWidth * 4 + 64);
    k.u8.fill(0, this.ring, this.ring + this.stride * ringRows + 64);
  }

  static create(
    across: KernelAxis,
    down: KernelAxis,
    ringRows: number,
    sourceWidth: number,
    width: number,
  ): ResampleKernel | null {
    const k = freshKernels();
    return k ? new ResampleKernel(k, across, down, ringRows, sourceWidth, width) : null;
  }

  /** Row pass of one source row into its place in the ring. */
  row(line: Float32Array, row: number): void {
    const { k } = this;
    k.u8.set(new Uint8Array(line.buffer, line.byteOffset, line.byteLength), this.line);
    k.run.rowPass(
      this.ring + (row % this.ringRows) * this.stride,
      this.line,
      this.firstAcross,
      this.weightsAcross,
      this.across.taps,
      this.width,
    );
  }

  /** Column pass of output row `row` into `out`, held within low..high. */
  column(out: Float32Array, row: number, low: number, high: number): void {
    const { k, down, ringRows } = this;
    k.run.columnPass(
      this.out,
      this.ring,
      ringRows,
      this.stride,
      down.first[row] ?? 0,
      this.weightsDown + row * down.taps * 4,
      ringRows,
      this.width,
      low,
      high,
    );
    new Uint8Array(out.buffer, out.byteOffset, out.byteLength).set(k.u8.subarray(this.out, this.out + this.width * 4));
  }
}

/** Rounds heights to codes; below, above and voids in the result. Null without a kernel. */
export function quantiseKernel(
  out: Uint16Array,
  heights: Float32Array,
  scale: number,
  offset: number,
  highest: number,
): { below: number; above: number; voids: number } | null {
  const k = sharedKernels();
  if (!k) return null;
  const mark = k.mark();
  const from = k.put(heights);
  const to = k.take(heights.length * 2);
  const tally = k.take(12);
  k.run.quantise(from, to, heights.length, scale, offset, highest, tally);
  new Uint8Array(out.buffer, out.byteOffset, out.byteLength).set(k.u8.subarray(to, to + out.byteLength));
  const [below = 0, above = 0, voids = 0] = new Uint32Array(k.copy(tally, 12).buffer);
  k.release(mark);
  return { below, above, voids };
}

/** Counts 16-bit codes: sum, lowest, highest; marks each in `seen` (65536 bytes). Null without a kernel. */
export function statistics16Kernel(
  codes: Uint16Array,
  seen: Uint8Array,
): { sum: number; low: number; high: number } | null {
  const k = sharedKernels();
  if (!k) return null;
  const mark = k.mark();
  const from = k.put(codes);
  const table = k.put(seen);
  const out = k.take(16);
  k.run.statistics16(from, codes.length, table, out);
  seen.set(k.u8.subarray(table, table + 65536));
  const view = new DataView(k.copy(out, 16).buffer);
  k.release(mark);
  return { sum: view.getFloat64(0, true), low: view.getUint32(8, true), high: view.getUint32(12, true) };
}

/** The counters of a pass over the ground, as the kernel keeps them: see wasm/assembly/raster.ts. */
export class GroundKernel {
  private readonly fine: number;
  private readonly state: number;

  private constructor(
    private readonly k: Kernels,
    private readonly classes: number,
  ) {
    this.fine = k.take(classes * 8);
    this.state = k.take(64);
    k.u8.fill(0, this.fine, this.fine + classes * 8);
    new Float64Array(k.u8.buffer, this.state, 8).set([Infinity, 0, -Infinity, 0, 0, 0, 0, 0]);
  }

  static create(classes: number): GroundKernel | null {
    const k = freshKernels();
    return k ? new GroundKernel(k, classes) : null;
  }

  add(
    data: Float32Array,
    width: number,
    rows: number,
    at: number,
    low: number,
    high: number,
    fineLow: number,
    fineScale: number,
  ): void {
    const { k } = this;
    const mark = k.mark();
    k.run.ground(k.put(data), width, rows, at, low, high, this.fine, this.classes, fineLow, fineScale, this.state);
    k.release(mark);
  }

  result(): { counters: Float64Array; fine: Float64Array } {
    const { k } = this;
    return {
      counters: new Float64Array(k.copy(this.state, 64).buffer),
      fine: new Float64Array(k.copy(this.fine, this.classes * 8).buffer),
    };
  }
}
