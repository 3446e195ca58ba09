import { InflateKernel } from '../../wasm';
import { damaged, ZlibFrame } from './framing';

/** Compressed bytes handed to the kernel at once. */
const INPUT = 1 << 17;

/**
 * Zlib data inflated into the memory of a kernel, where the next step can work on it without a copy. Reads its source
 * only as far as it is asked.
 */
export class KernelInflater {
  private readonly frame: ZlibFrame;
  private ended = false;
  private last = false;
  private delivered = 0;

  private constructor(
    private readonly kernel: InflateKernel,
    pieces: AsyncIterable<Uint8Array>,
  ) {
    this.frame = new ZlibFrame(pieces);
  }

  /** Null without a kernel. Up to `most` bytes can be asked for at once. */
  static create(pieces: AsyncIterable<Uint8Array>, most: number): KernelInflater | null {
    const kernel = InflateKernel.create(most);
    return kernel ? new KernelInflater(kernel, pieces) : null;
  }

  get kernels(): InflateKernel['kernels'] {
    return this.kernel.kernels;
  }
  /** Unread bytes, and where they begin in the kernel's memory; they stay there until the next `fill`. */
  get available(): number {
    return this.kernel.available;
  }
  get from(): number {
    return this.kernel.from;
  }

  /**
   * Inflates until `count` bytes are unread; how many there are: fewer only where the stream has ended. Throws
   * `corrupt` for damaged data, `truncated` where its source ends before the stream does.
   */
  async fill(count: number): Promise<number> {
    while (this.kernel.available < count && !this.ended) {
      const status = this.kernel.run(this.last);
      if (status === 'needs-input') {
        const bytes = await this.frame.next(Math.min(INPUT, this.kernel.room));
        if (bytes) this.kernel.push(bytes);
        else this.last = true;
      } else if (status === 'finished') this.ended = true;
      else if (status !== 'output-full') throw damaged(status === 'cut-short', this.delivered + this.kernel.available);
    }
    return this.kernel.available;
  }

  skip(count: number): void {
    this.delivered += count;
    this.kernel.skip(count);
  }

  /** Reads on to the end of stream and source, and compares the checksum of the stream; the bytes nobody asked for. */
  async finish(): Promise<number> {
    const before = this.delivered;
    while ((await this.fill(1)) > 0) this.skip(this.kernel.available);
    await this.frame.trailer(this.kernel.rest(), this.kernel.adler, this.delivered);
    return this.delivered - before;
  }
}
