import { LevelGridError } from '../base';
import { InflateKernel } from '../kernels';

const CUT = 'The file is cut short: copy or export it again.';
const DAMAGED = 'The file is damaged: copy or export it again.';

/** Bytes handed on at once where nobody asks for a certain number. */
const PIECE = 1 << 18;

/**
 * Zlib data inflated as it comes, piece by piece. Ends after the zlib stream; throws `corrupt` for damaged data and
 * `truncated` where the stream does not end.
 */
export async function* inflate(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array, void, undefined> {
  const kernel = KernelInflater.create(pieces, PIECE);
  if (!kernel) {
    yield* portable(pieces);
    return;
  }
  while ((await kernel.fill(1)) > 0) {
    const count = Math.min(PIECE, kernel.available);
    yield kernel.take(count);
  }
  await kernel.finish();
}

/**
 * Zlib data (RFC 1950) inflated into the memory of a kernel, where the next step can work on it without a copy. Reads
 * its input only as far as it is asked.
 */
export class KernelInflater {
  private readonly source: AsyncIterator<Uint8Array>;
  private piece: Uint8Array = new Uint8Array(0);
  private at = 0;
  private drained = false;
  private started = false;
  private ended = false;
  private delivered = 0;

  private constructor(
    private readonly kernel: InflateKernel,
    pieces: AsyncIterable<Uint8Array>,
  ) {
    this.source = pieces[Symbol.asyncIterator]();
  }

  /** Null without a kernel. Up to `most` bytes can be asked for at once. */
  static create(pieces: AsyncIterable<Uint8Array>, most: number): KernelInflater | null {
    const kernel = InflateKernel.create(most);
    return kernel ? new KernelInflater(kernel, pieces) : null;
  }

  get kernels(): InflateKernel['kernels'] {
    return this.kernel.kernels;
  }
  get available(): number {
    return this.kernel.available;
  }
  /** Where the unread bytes begin in the kernel's memory; they stay there until the next `fill`. */
  get from(): number {
    return this.kernel.from;
  }

  /** Inflates until `count` bytes are unread; how many there are: fewer only where the stream has ended. */
  async fill(count: number): Promise<number> {
    if (!this.started) await this.header();
    while (this.kernel.available < count && !this.ended) {
      const status = this.kernel.run(this.drained && this.at === this.piece.length);
      if (status === 'needs-input') {
        if (this.at === this.piece.length) await this.more();
        else this.at += this.kernel.push(this.piece.subarray(this.at));
      } else if (status === 'finished') this.ended = true;
      else if (status !== 'output-full') throw this.fault(status === 'cut-short');
    }
    return this.kernel.available;
  }

  skip(count: number): void {
    this.delivered += count;
    this.kernel.skip(count);
  }

  /** A copy of the next `count` unread bytes. */
  take(count: number): Uint8Array {
    const out = this.kernels.copy(this.kernel.from, count);
    this.skip(count);
    return out;
  }

  /** Reads on to the end of stream and input, and compares the checksum of the stream. */
  async finish(): Promise<void> {
    while ((await this.fill(1)) > 0) this.skip(this.kernel.available);
    let tail = this.kernel.rest();
    while (tail.length < 4) tail = Uint8Array.of(...tail, await this.byte());
    const stored = new DataView(tail.buffer, tail.byteOffset).getUint32(0);
    if (stored !== this.kernel.adler) throw this.fault(false);
    // what follows the stream is no part of it, but its source may still have something to say
    while (!this.drained) await this.more();
  }

  private async header(): Promise<void> {
    this.started = true;
    const method = await this.byte();
    const flags = await this.byte();
    // deflate, a window of at most 32 KiB, no preset dictionary, check bits (RFC 1950, 2.2)
    if ((method & 15) !== 8 || method >> 4 > 7 || (flags & 32) !== 0 || ((method << 8) | flags) % 31 !== 0)
      throw this.fault(false);
  }

  private async byte(): Promise<number> {
    while (this.at === this.piece.length) {
      await this.more();
      if (this.drained) throw this.fault(true);
    }
    return this.piece[this.at++]!;
  }

  private async more(): Promise<void> {
    const next = await this.source.next();
    if (next.done === true) this.drained = true;
    else {
      this.piece = next.value;
      this.at = 0;
    }
  }

  private fault(ended: boolean): LevelGridError {
    return damaged(ended, this.delivered + this.kernel.available);
  }
}

function damaged(ended: boolean, delivered: number): LevelGridError {
  return new LevelGridError(ended ? 'truncated' : 'corrupt', {
    found: `compressed data that ${ended ? 'ends too early' : 'is damaged'}, after ${delivered} bytes of samples`,
    expected: 'a complete compressed stream',
    remedy: ended ? CUT : DAMAGED,
  });
}

/** The fallback where there are no kernels: the platform's own decompressor. */
export async function* portable(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array, void, undefined> {
  const stream = new DecompressionStream('deflate');
  const writer = stream.writable.getWriter();
  const reader = stream.readable.getReader();
  let sourceFault: unknown = null;
  let ended = false;
  let delivered = 0;
  const feeding = (async () => {
    try {
      for await (const piece of pieces) {
        // the decompressor refuses shared memory
        await writer.write(piece.buffer instanceof ArrayBuffer ? (piece as Uint8Array<ArrayBuffer>) : piece.slice());
      }
      ended = true;
      await writer.close();
    } catch (reason) {
      if (!ended && reason instanceof LevelGridError) {
        sourceFault = reason;
        // the read below fails with it
        await writer.abort(reason).catch(() => undefined);
      }
    }
  })();
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      delivered += value.length;
      yield value;
    }
    await feeding;
    if (sourceFault) throw sourceFault as LevelGridError;
  } catch (reason) {
    if (sourceFault) throw sourceFault as LevelGridError;
    if (reason instanceof LevelGridError) throw reason;
    throw damaged(ended, delivered);
  } finally {
    await reader.cancel().catch(() => undefined);
    await writer.abort().catch(() => undefined);
  }
}
