import { freshKernels, type KernelPlace, type Kernels } from './instance';

/** Weights of one axis in double precision: see AxisWeights in core/raster. */
export interface KernelAxis64 {
  readonly first: Int32Array;
  readonly taps: number;
  readonly exact: Float64Array;
}

/** Rows that go through the row pass together. */
const TOGETHER = 8;

/** Both passes of a resampling in double precision and around voids, over a ring of row results. */
export class PreciseResampleKernel {
  private readonly line: number;
  private readonly first: number;
  private readonly weightsAcross: number;
  private readonly weightsDown: number;
  private readonly ring: number;
  private readonly ringRows: number;
  /** Bytes of the sums of a row, behind which their weights lie. */
  private readonly plane: number;
  private readonly spare: number;
  /** The weights of a row without voids. */
  private readonly whole: number;
  private readonly out: number;
  private readonly source: number;
  private readonly slots: number;

  private constructor(
    private readonly k: Kernels,
    private readonly across: KernelAxis64,
    private readonly down: KernelAxis64,
    private readonly sourceWidth: number,
    private readonly width: number,
    rowsPerBand: number,
    private readonly datum: number,
  ) {
    this.plane = ((width + 3) & ~3) * 8;
    this.line = k.take(sourceWidth * 8 * TOGETHER);
    this.first = k.put(across.first);
    this.weightsAcross = k.put(across.exact);
    this.weightsDown = k.put(down.exact);
    // all rows that an output still needs, and those that come with the last of them
    this.ringRows = down.taps + TOGETHER - 1;
    this.ring = k.take(2 * this.plane * this.ringRows);
    this.spare = k.take(2 * this.plane);
    this.whole = k.put(weightsOf(across, width));
    this.out = k.take(width * 4 * rowsPerBand);
    this.source = k.take(TOGETHER * sourceWidth * 4);
    this.slots = k.take(TOGETHER * 4);
    // the columns that fill up a group of four: nothing lies there that could slow the column pass down
    k.u8.fill(0, this.ring, this.ring + 2 * this.plane * this.ringRows);
  }

  /**
   * `rowsPerBand`: rows of the result that are held at once; `datum`: the whole number that codes are taken above.
   * Null without a kernel.
   */
  static create(
    across: KernelAxis64,
    down: KernelAxis64,
    sourceWidth: number,
    width: number,
    rowsPerBand: number,
    datum = 0,
  ): PreciseResampleKernel | null {
    const k = freshKernels();
    return k ? new PreciseResampleKernel(k, across, down, sourceWidth, width, rowsPerBand, datum) : null;
  }

  /** Rows that `rows` takes at once. */
  static readonly together = TOGETHER;

  /** Row pass of up to 8 whole rows from row `row` of the source: heights (NaN is a void), or codes above the datum. */
  rows(data: Float32Array | Uint16Array, row: number): void {
    const { k, sourceWidth, source, line, across, width, plane } = this;
    const stride = sourceWidth * data.BYTES_PER_ELEMENT;
    const count = data.length / sourceWidth;
    if (count > TOGETHER) throw new RangeError('more rows than go together');
    k.write(source, data);
    const voids =
      data instanceof Uint16Array
        ? k.run.interleaveCodes64(source, stride, count, line, sourceWidth, this.datum)
        : k.run.interleaveHeights64(source, stride, count, line, sourceWidth);
    const slots = new Uint32Array(k.u8.buffer, this.slots, TOGETHER);
    for (let n = 0; n < TOGETHER; n++)
      slots[n] = n < count ? this.ring + ((row + n) % this.ringRows) * 2 * plane : this.spare;
    if (voids !== 0) {
      k.run.rowPassAround64(this.slots, line, this.first, this.weightsAcross, across.taps, width, plane);
      return;
    }
    k.run.rowPass64(this.slots, line, this.first, this.weightsAcross, across.taps, width);
    for (const slot of slots.subarray(0, count)) k.u8.copyWithin(slot + plane, this.whole, this.whole + width * 8);
  }

  /**
   * Column pass of output row `row`, held within low..high, into row `slot` of the band; a void where less than `least`
   * of the weight met ground. Slots are filled upwards.
   */
  column(slot: number, row: number, low: number, high: number, least: number): void {
    const { k, down, width, plane } = this;
    // a row may write up to 12 bytes behind its end, where the next one begins
    k.run.columnPass64(
      this.out + slot * width * 4,
      this.ring,
      this.ringRows,
      2 * plane,
      plane,
      down.first[row] ?? 0,
      this.weightsDown + row * down.taps * 8,
      down.taps,
      low,
      high,
      least,
    );
  }

  /** The first `rows` rows of the band where they lie: there until the next row is put into them. */
  band(rows: number): KernelPlace {
    return { kernels: this.k, at: this.out, length: rows * this.width };
  }
}

/** What the weights of each output add up to, tap after tap. */
function weightsOf({ taps, exact }: KernelAxis64, width: number): Float64Array {
  const out = new Float64Array(width);
  for (let i = 0; i < width; i++)
    for (let k = 0; k < taps; k++) out[i] = (out[i] as number) + (exact[i * taps + k] as number);
  return out;
}
