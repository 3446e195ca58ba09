import { piecesOf, type ByteSource } from '../base';

/** True where typed arrays hold the low byte first (every machine that Level Grid has met). */
export const HOST_IS_LITTLE = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1;

/** A copy on memory of its own, which `slice` is not for every kind of byte array. */
export const copyOf = (bytes: Uint8Array): Uint8Array<ArrayBuffer> => new Uint8Array(bytes);

/** Reverses the bytes of each `size`-byte sample in place. */
export function swapBytes(bytes: Uint8Array, size: 1 | 2 | 4 | 8): void {
  if (size === 1) return;
  const half = size >> 1;
  for (let i = 0; i + size <= bytes.length; i += size) {
    for (let k = 0; k < half; k++) {
      const low = bytes[i + k] as number;
      bytes[i + k] = bytes[i + size - 1 - k] as number;
      bytes[i + size - 1 - k] = low;
    }
  }
}

/** Reads a source from front to back. What it hands out is good until the next call; `end` lets go of the source. */
export class SequentialReader {
  private readonly pieces: AsyncGenerator<Uint8Array, void, undefined>;
  private piece: Uint8Array = new Uint8Array(0);
  private at = 0;
  private before: number;

  constructor(
    private readonly source: ByteSource,
    start = 0,
  ) {
    this.pieces = piecesOf(source, start);
    this.before = start;
  }

  /** Position of the next unread byte in the source. */
  get position(): number {
    return this.before + this.at;
  }

  get remaining(): number {
    return this.source.size - this.position;
  }

  /** The next `length` bytes where they have been read already: small steps then cost no turn of the event loop. */
  now(length: number): Uint8Array | null {
    if (this.piece.length - this.at < length) return null;
    this.at += length;
    return this.piece.subarray(this.at - length, this.at);
  }

  /** At least one byte and `most` at most, as they lie there; none at the end of the source. */
  async some(most: number): Promise<Uint8Array> {
    if (this.at === this.piece.length && !(await this.more())) return this.piece.subarray(0, 0);
    return this.now(Math.min(most, this.piece.length - this.at)) as Uint8Array;
  }

  /** `length` bytes, fewer only at the end of the source. */
  async take(length: number): Promise<Uint8Array> {
    const there = this.now(length);
    if (there) return there;
    const joined = new Uint8Array(Math.min(length, Math.max(0, this.remaining)));
    return joined.subarray(0, await this.fill(joined));
  }

  /** Fills an array; how many bytes there were: fewer only at the end of the source. */
  async fill(into: Uint8Array): Promise<number> {
    let filled = 0;
    while (filled < into.length) {
      const part = await this.some(into.length - filled);
      if (part.length === 0) break;
      into.set(part, filled);
      filled += part.length;
    }
    return filled;
  }

  async end(): Promise<void> {
    await this.pieces.return();
  }

  private async more(): Promise<boolean> {
    do {
      const { done, value } = await this.pieces.next();
      if (done) return false;
      this.before += this.piece.length;
      this.piece = value;
      this.at = 0;
    } while (this.piece.length === 0);
    return true;
  }
}
