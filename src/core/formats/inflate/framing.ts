import { LevelGridError } from '../../base';

/** What is told of compressed data that can't be inflated: cut short (`ended`) or damaged. */
export function damaged(ended: boolean, delivered: number): LevelGridError {
  return new LevelGridError(ended ? 'truncated' : 'corrupt', {
    found: `compressed data that ${ended ? 'ends too early' : 'is damaged'}, after ${delivered} bytes of samples`,
    expected: 'a complete compressed stream',
    remedy: `The file is ${ended ? 'cut short' : 'damaged'}: copy or export it again.`,
  });
}

/** Deflate, a window of at most 32 KiB, no preset dictionary, check bits (RFC 1950, 2.2). */
export const isZlibHead = (method = 0, flags = 0): boolean =>
  (method & 15) === 8 && method >> 4 <= 7 && (flags & 32) === 0 && ((method << 8) | flags) % 31 === 0;

/** The frame around a deflate stream (zlib, RFC 1950), taken from a source of pieces as it is needed. */
export class ZlibFrame {
  private readonly source: AsyncIterator<Uint8Array>;
  private piece: Uint8Array = new Uint8Array(0);
  private at = 0;
  private drained = false;
  private started = false;

  constructor(pieces: AsyncIterable<Uint8Array>) {
    this.source = pieces[Symbol.asyncIterator]();
  }

  /** The next bytes behind the header, `most` at most; null at the end of the source. A view: used before the next call. */
  async next(most: number): Promise<Uint8Array | null> {
    if (!this.started) await this.header();
    while (this.at === this.piece.length) {
      await this.more();
      if (this.drained) return null;
    }
    const out = this.piece.subarray(this.at, this.at + most);
    this.at += out.length;
    return out;
  }

  /**
   * Compares the checksum that follows the stream. `rest` holds what was taken and not used. Then reads on to the end
   * of the source: what follows the stream is no part of it, but its source may still have something to say.
   */
  async trailer(rest: Uint8Array, sum: number, delivered: number): Promise<void> {
    const stored = [...rest.subarray(0, 4)];
    while (stored.length < 4) {
      const next = await this.next(1);
      if (!next) throw damaged(true, delivered);
      stored.push(...next);
    }
    if (new DataView(Uint8Array.from(stored).buffer).getUint32(0) !== sum) throw damaged(false, delivered);
    while (!this.drained) await this.more();
  }

  private async header(): Promise<void> {
    this.started = true;
    const [method] = (await this.next(1)) ?? [];
    const [flags] = (await this.next(1)) ?? [];
    if (method === undefined || flags === undefined) throw damaged(true, 0);
    if (!isZlibHead(method, flags)) throw damaged(false, 0);
  }

  private async more(): Promise<void> {
    const next = await this.source.next();
    if (next.done === true) this.drained = true;
    else {
      this.piece = next.value;
      this.at = 0;
    }
  }
}
