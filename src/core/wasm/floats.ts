import { freshKernels, sharedKernels, type Kernels } from './instance';

/** Samples that lie in the kernel's memory at once, and share a sum. */
export const FLOATS_AT_ONCE = 1 << 16;
const FIRST_BITS = 17;
const EMPTY = 0x7f800000;

/** What the kernel found in some floats: see wasm/assembly/floats.ts. */
export interface FloatFold {
  readonly min: number;
  readonly max: number;
  readonly sum: number;
  readonly voids: number;
}

/** Statistics of floats: range, sum and voids of each call, and the different patterns of all calls. */
export class FloatStatisticsKernel {
  private readonly data: number;
  private readonly state: number;
  private table = 0;
  private bits = FIRST_BITS - 1;

  private constructor(
    private readonly k: Kernels,
    /** With more different patterns than this no further ones are looked for. */
    private most: number,
  ) {
    this.data = k.take(FLOATS_AT_ONCE * 4);
    this.state = k.take(40);
    k.u8.fill(0, this.state, this.state + 40);
    this.grow();
  }

  /** Null without a kernel. */
  static create(most: number): FloatStatisticsKernel | null {
    const k = freshKernels();
    return k ? new FloatStatisticsKernel(k, most) : null;
  }

  /** No further patterns are looked for. */
  get more(): boolean {
    return this.held > this.most;
  }

  /** From here on no further patterns are looked for. */
  stop(): void {
    this.most = Math.min(this.most, this.held - 1);
  }

  /** Different patterns so far; one more than `most` where there are more. */
  get held(): number {
    return new DataView(this.k.u8.buffer, this.state + 32, 4).getInt32(0, true);
  }

  add(values: Float32Array): FloatFold[] {
    const { k } = this;
    const folds: FloatFold[] = [];
    for (let from = 0; from < values.length; from += FLOATS_AT_ONCE) {
      const part = values.subarray(from, from + FLOATS_AT_ONCE);
      k.write(this.data, part);
      k.run.foldFloats(this.data, part.length, this.state);
      const [min = 0, max = 0, sum = 0, voids = 0] = new Float64Array(k.u8.buffer, this.state, 4);
      folds.push({ min, max, sum, voids });
      this.addPatterns(this.data, part.length);
    }
    return folds;
  }

  private addPatterns(data: number, count: number): void {
    const { k, state, most } = this;
    for (let done = 0; done < count && !this.more;) {
      const room = 2 ** (this.bits - 1);
      if (this.held >= room) this.grow();
      else
        done += k.run.addPatterns(
          data + done * 4,
          count - done,
          this.table,
          this.bits,
          Math.min(room, most + 1),
          state,
        );
    }
  }

  /** A table twice as large, with what the one before held. */
  private grow(): void {
    const { k, table: before, bits } = this;
    this.bits++;
    const bytes = 4 * 2 ** this.bits;
    this.table = k.take(bytes);
    new Int32Array(k.u8.buffer, this.table, bytes / 4).fill(EMPTY);
    if (before === 0) return;
    new DataView(k.u8.buffer, this.state + 32, 4).setInt32(0, 0, true);
    k.run.addPatterns(before, 2 ** bits, this.table, this.bits, 2 ** this.bits, this.state);
  }

  /** The different values, in no order. */
  values(): Float32Array {
    const { k } = this;
    const bytes = k.copy(this.table, 4 * 2 ** this.bits);
    const patterns = new Int32Array(bytes.buffer, bytes.byteOffset, 2 ** this.bits).filter((p) => p !== EMPTY);
    return new Float32Array(patterns.buffer);
  }
}

/** Floats less `datum`, NaN where one has no value. Null without a kernel. */
export function floatsAboveKernel(values: Float32Array, datum: number): Float32Array | null {
  const k = sharedKernels();
  if (!k) return null;
  const mark = k.mark();
  const at = k.put(values);
  k.run.floatsAbove(at, values.length, datum);
  const out = new Float32Array(k.copy(at, values.byteLength).buffer);
  k.release(mark);
  return out;
}
