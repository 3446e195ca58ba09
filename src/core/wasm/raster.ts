import { codesAt, floatsAt, freshKernels, sharedKernels, type KernelPlace, type Kernels } from './instance';

/** Weights of one axis: see AxisWeights in core/raster. */
export interface KernelAxis {
  readonly first: Int32Array;
  readonly taps: number;
  readonly weights: Float32Array;
}

/** Rows that go through the row pass together. */
const TOGETHER = 8;

/** Weights as the row pass wants them: outputs in groups of four (the last filled up with zeros), tap after tap. */
function inGroups({ first, taps, weights }: KernelAxis, width: number): { first: Int32Array; weights: Float32Array } {
  const groups = Math.ceil(width / 4);
  const out = { first: new Int32Array(groups * 4), weights: new Float32Array(groups * taps * 4) };
  out.first.set(first);
  for (let i = 0; i < width; i++) {
    const at = (i >> 2) * taps * 4 + (i & 3);
    for (let t = 0; t < taps; t++) out.weights[at + t * 4] = weights[i * taps + t] ?? 0;
  }
  return out;
}

/** Both passes of a resampling over memory that holds the ring of row results and a band of the result. */
export class ResampleKernel {
  private readonly line: number;
  private readonly firstAcross: number;
  private readonly weightsAcross: number;
  private readonly weightsDown: number;
  private readonly ring: number;
  private readonly ringRows: number;
  private readonly spare: number;
  private readonly stride: number;
  private readonly out: number;
  private readonly source: number;
  private readonly slots: number;

  private constructor(
    private readonly k: Kernels,
    private readonly across: KernelAxis,
    private readonly down: KernelAxis,
    private readonly sourceWidth: number,
    private readonly width: number,
    rowsPerBand: number,
    private readonly datum: number,
  ) {
    this.line = k.take(sourceWidth * 4 * TOGETHER);
    const grouped = inGroups(across, width);
    this.firstAcross = k.put(grouped.first);
    this.weightsAcross = k.put(grouped.weights);
    this.weightsDown = k.put(down.weights);
    this.stride = ((width + 3) & ~3) * 4;
    // all rows that an output still needs, and those that come with the last of them
    this.ringRows = down.taps + TOGETHER - 1;
    this.ring = k.take(this.stride * this.ringRows);
    this.spare = k.take(this.stride);
    this.out = k.take(width * 4 * rowsPerBand);
    this.source = k.take(TOGETHER * sourceWidth * 4);
    this.slots = k.take(TOGETHER * 4);
    // behind the ring lies nothing that could slow the column pass down
    k.u8.fill(0, this.ring, this.ring + this.stride * this.ringRows + 64);
  }

  /**
   * `rowsPerBand`: rows of the result that are held at once; `datum`: the whole number that codes are taken above.
   * Null without a kernel.
   */
  static create(
    across: KernelAxis,
    down: KernelAxis,
    sourceWidth: number,
    width: number,
    rowsPerBand: number,
    datum = 0,
  ): ResampleKernel | null {
    const k = freshKernels();
    return k ? new ResampleKernel(k, across, down, sourceWidth, width, rowsPerBand, datum) : null;
  }

  /** Row pass of up to 8 whole rows from row `row` of the source: heights, or 16-bit codes, which go above the datum. */
  rows(data: Float32Array | Uint16Array, row: number): void {
    const { k, sourceWidth, source, line } = this;
    const stride = sourceWidth * data.BYTES_PER_ELEMENT;
    const count = data.length / sourceWidth;
    if (count > TOGETHER) throw new RangeError('more rows than go together');
    k.u8.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), source);
    if (data instanceof Uint16Array) k.run.interleave16(source, stride, count, line, sourceWidth, this.datum);
    else k.run.interleave32(source, stride, count, line, sourceWidth);
    const slots = new Uint32Array(k.u8.buffer, this.slots, TOGETHER);
    for (let n = 0; n < TOGETHER; n++)
      slots[n] = n < count ? this.ring + ((row + n) % this.ringRows) * this.stride : this.spare;
    k.run.rowPass(this.slots, line, this.firstAcross, this.weightsAcross, this.across.taps, this.stride >> 4);
  }

  /** Rows that `rows` takes at once. */
  static readonly together = TOGETHER;

  /** Column pass of output row `row`, held within low..high, into row `slot` of the band. Slots are filled upwards. */
  column(slot: number, row: number, low: number, high: number): void {
    const { k, down, width } = this;
    // a row may write up to 12 bytes behind its end, where the next one begins
    k.run.columnPass(
      this.out + slot * width * 4,
      this.ring,
      this.ringRows,
      this.stride,
      down.first[row] ?? 0,
      this.weightsDown + row * down.taps * 4,
      down.taps,
      width,
      low,
      high,
    );
  }

  /** The first `rows` rows of the band where they lie: there until the next row is put into them. */
  band(rows: number): KernelPlace {
    return { kernels: this.k, at: this.out, length: rows * this.width };
  }
}

/** Rounds heights to codes; below, above and voids in the result. Null without a kernel. */
export function quantiseKernel(
  out: Uint16Array,
  heights: Float32Array | KernelPlace,
  scale: number,
  offset: number,
  highest: number,
): { below: number; above: number; voids: number } | null {
  const there = !(heights instanceof Float32Array);
  const k = there ? heights.kernels : sharedKernels();
  if (!k) return null;
  const mark = k.mark();
  const from = there ? heights.at : k.put(heights);
  const to = k.take(heights.length * 2);
  const tally = k.take(12);
  k.run.quantise(from, to, heights.length, scale, offset, highest, tally);
  new Uint8Array(out.buffer, out.byteOffset, out.byteLength).set(k.u8.subarray(to, to + out.byteLength));
  const [below = 0, above = 0, voids = 0] = new Uint32Array(k.copy(tally, 12).buffer);
  k.release(mark);
  return { below, above, voids };
}

/** Sum, lowest, highest and occurrence of 16-bit codes, kept in the kernel's memory from band to band. */
export class CodeStatisticsKernel {
  private readonly seen: number;
  private readonly out: number;

  private constructor(private readonly k: Kernels) {
    this.seen = k.take(65536);
    this.out = k.take(48);
    k.u8.fill(0, this.seen, this.seen + 65536);
    const start = new DataView(k.u8.buffer, this.out, 16);
    start.setFloat64(0, 0, true);
    start.setUint32(8, 65535, true);
    start.setUint32(12, 0, true);
  }

  /** In the memory of `kernels` where the bands lie there, else in its own. Null without a kernel. */
  static create(kernels?: Kernels): CodeStatisticsKernel | null {
    const k = kernels ?? freshKernels();
    return k ? new CodeStatisticsKernel(k) : null;
  }

  add(codes: Uint16Array | KernelPlace): void {
    const { k } = this;
    const mark = k.mark();
    const there = codes instanceof Uint16Array ? null : codes;
    const from = there?.kernels === k ? there.at : k.put(codes instanceof Uint16Array ? codes : codesAt(codes));
    k.run.statistics16(from, codes.length, this.seen, this.out);
    k.release(mark);
  }

  /** `seen` holds 1 for every code that occurred. */
  result(): { sum: number; low: number; high: number; seen: Uint8Array } {
    const { k } = this;
    const view = new DataView(k.copy(this.out, 16).buffer);
    return {
      sum: view.getFloat64(0, true),
      low: view.getUint32(8, true),
      high: view.getUint32(12, true),
      seen: k.copy(this.seen, 65536),
    };
  }
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

  /** In the memory of `kernels` where the bands lie there, else in its own. Null without a kernel. */
  static create(classes: number, kernels?: Kernels): GroundKernel | null {
    const k = kernels ?? freshKernels();
    return k ? new GroundKernel(k, classes) : null;
  }

  /** Bounds and classes in single precision. */
  add(
    data: Float32Array | KernelPlace,
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
    const there = data instanceof Float32Array ? null : data;
    const from = there?.kernels === k ? there.at : k.put(data instanceof Float32Array ? data : floatsAt(data));
    k.run.ground(from, width, rows, at, low, high, this.fine, this.classes, fineLow, fineScale, this.state);
    k.release(mark);
  }

  result(): { counters: Float64Array; fine: Float64Array } {
    const { k, classes } = this;
    const halves = new Uint32Array(k.copy(this.fine, classes * 8).buffer);
    return {
      counters: new Float64Array(k.copy(this.state, 64).buffer),
      fine: Float64Array.from({ length: classes }, (_, c) => halves[c]! + halves[classes + c]!),
    };
  }
}
