import type { ByteSource } from '../base';

/** True where typed arrays hold the low byte first (every machine that Level Grid has met). */
export const HOST_IS_LITTLE = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1;

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

/**
 * Reads a source from front to back in pieces, so that a chunked format costs few calls. From the second piece on the
 * next one is read ahead, while the last is worked on.
 */
export class SequentialReader {
  private buffer: Uint8Array = new Uint8Array(0);
  private at = 0;
  private next: number;

  constructor(
    private readonly source: ByteSource,
    start = 0,
    private readonly piece = 1 << 20,
  ) {
    this.next = start;
  }

  /** What is being read ahead, from `next` on. */
  private ahead: Promise<Uint8Array> | null = null;
  private pieces = 0;

  /** Position of the next unread byte in the source. */
  get position(): number {
    return this.next - (this.buffer.length - this.at);
  }

  get remaining(): number {
    return this.source.size - this.position;
  }

  /** The next `length` bytes where they have been read already: small steps then cost no turn of the event loop. */
  now(length: number): Uint8Array | null {
    if (this.buffer.length - this.at < length) return null;
    this.at += length;
    return this.buffer.subarray(this.at - length, this.at);
  }

  /** Up to `length` bytes, fewer only at the end of the source. May be a view: use it before the next call. */
  async take(length: number): Promise<Uint8Array> {
    const there = this.now(length);
    if (there) return there;
    const held = this.buffer.length - this.at;
    let fresh = await (this.ahead ?? this.read(length - held));
    this.ahead = null;
    this.next += fresh.length;
    if (fresh.length > 0 && fresh.length < length - held) {
      const rest = await this.read(length - held - fresh.length);
      this.next += rest.length;
      const both = new Uint8Array(fresh.length + rest.length);
      both.set(fresh);
      both.set(rest, fresh.length);
      fresh = both;
    }
    if (++this.pieces > 1) {
      this.ahead = this.read(0);
      // a fault is told when its turn comes
      this.ahead.catch(() => undefined);
    }
    if (held === 0) {
      this.buffer = fresh;
      this.at = Math.min(length, fresh.length);
      return fresh.subarray(0, this.at);
    }
    // only what lies across the border of two pieces is copied
    const joined = new Uint8Array(Math.min(length, held + fresh.length));
    joined.set(this.buffer.subarray(this.at));
    joined.set(fresh.subarray(0, joined.length - held), held);
    this.buffer = fresh;
    this.at = joined.length - held;
    return joined;
  }

  private async read(least: number): Promise<Uint8Array> {
    const wanted = Math.min(Math.max(least, this.piece), this.source.size - this.next);
    return wanted > 0 ? this.source.read(this.next, wanted) : new Uint8Array(0);
  }
}
