import { freshKernels, type Kernels } from './instance';

/** What a call of the kernel ended with: see wasm/assembly/inflate.ts. */
const STATUS = ['needs-input', 'output-full', 'finished', 'damaged', 'cut-short'] as const;
export type InflateStatus = (typeof STATUS)[number];

const WINDOW = 32768;
/** Compressed bytes in the kernel's memory at once. */
const INPUT = 1 << 17;
/** Bytes that the kernel wants free behind what it writes. */
const MARGIN = 320;
const IN_AT = 24;
const OUT_AT = 28;

/**
 * Raw deflate data (RFC 1951) inflated as it comes, into the memory of `kernels`. The caller pushes input, runs, reads
 * what is unread at `from` and skips it. Up to `most` bytes can be unread at once.
 */
export class InflateKernel {
  private readonly state: number;
  private readonly input: number;
  private readonly window: number;
  private readonly end: number;
  private inFrom: number;
  private inTo: number;
  private out: number;
  private unread: number;
  private sum = 1;
  private status: InflateStatus = 'needs-input';

  private constructor(
    readonly kernels: Kernels,
    most: number,
  ) {
    const k = kernels;
    this.state = k.take(k.run.inflateState());
    k.run.inflateStart(this.state);
    this.input = k.take(INPUT);
    this.window = k.take(WINDOW + most + MARGIN);
    this.end = this.window + WINDOW + most + MARGIN;
    this.inFrom = this.inTo = this.input;
    this.out = this.unread = this.window;
  }

  static create(most: number): InflateKernel | null {
    const k = freshKernels();
    return k ? new InflateKernel(k, most) : null;
  }

  /** Another stream from its first byte on, in the same memory. */
  restart(): void {
    this.kernels.run.inflateStart(this.state);
    this.inFrom = this.inTo = this.input;
    this.out = this.unread = this.window;
    this.sum = 1;
    this.status = 'needs-input';
  }

  /** Bytes that were inflated and not skipped, and where they begin. */
  get available(): number {
    return this.out - this.unread;
  }
  get from(): number {
    return this.unread;
  }
  /** Adler-32 of everything inflated so far. */
  get adler(): number {
    return this.sum;
  }

  /** Compressed bytes that can be pushed now. */
  get room(): number {
    return INPUT - (this.inTo - this.inFrom);
  }

  skip(count: number): void {
    this.unread += count;
  }

  /** Takes as many of `bytes` as there is room for; how many. */
  push(bytes: Uint8Array): number {
    const { kernels: k, input } = this;
    if (this.inFrom > input) {
      k.u8.copyWithin(input, this.inFrom, this.inTo);
      this.inTo -= this.inFrom - input;
      this.inFrom = input;
    }
    const n = Math.min(bytes.length, input + INPUT - this.inTo);
    k.u8.set(n === bytes.length ? bytes : bytes.subarray(0, n), this.inTo);
    this.inTo += n;
    return n;
  }

  /** Inflates until input runs short, there is no more room, or the stream ends. `final`: no more input will come. */
  run(final: boolean): InflateStatus {
    if (this.status === 'finished') return 'finished';
    const { kernels: k, state, window } = this;
    if (this.end - this.out < MARGIN + WINDOW && this.unread > window) {
      const keep = Math.min(this.unread, Math.max(window, this.out - WINDOW));
      k.u8.copyWithin(window, keep, this.out);
      const moved = keep - window;
      this.out -= moved;
      this.unread -= moved;
    }
    if (final) k.u8.fill(0, this.inTo, this.inTo + 64);
    const before = this.out;
    const code = k.run.inflateRun(state, this.inFrom, this.inTo, final ? 1 : 0, before, this.end, window);
    const fields = new DataView(k.u8.buffer, state);
    this.inFrom = fields.getUint32(IN_AT, true);
    this.out = fields.getUint32(OUT_AT, true);
    if (this.out > before) this.sum = k.run.adler32(before, this.out - before, this.sum) >>> 0;
    const status = STATUS[code] ?? 'damaged';
    // no input is left where none will come
    this.status = final && status === 'needs-input' ? 'cut-short' : status;
    return this.status;
  }

  /** After the end of the stream: bytes that follow it and were pushed already. */
  rest(): Uint8Array {
    return this.kernels.copy(this.inFrom, Math.max(0, this.inTo - this.inFrom));
  }
}
