import { LevelGridError, type ByteSource } from '../../base';
import { SequentialReader } from '../bytes';
import { crc32 } from './crc';
import { SIGNATURE } from './header';

export interface Chunk {
  readonly type: string;
  /** The chunk's data, empty where it is too large to matter; image data comes in pieces of any size, cut elsewhere than the chunks are. */
  readonly data: Uint8Array;
}

const PIECE = 1 << 18;
/** Chunks other than image data are read whole; none that matters is larger. */
const MAX_SIDE_CHUNK = 1 << 20;

/** "IDAT" as a number, and the CRC over it. */
const IDAT = 0x49444154;
const IDAT_CRC = crc32(Uint8Array.of(0x49, 0x44, 0x41, 0x54));

const truncated = (found: string, expected: string): LevelGridError =>
  new LevelGridError('truncated', { found, expected, remedy: 'The file is cut short: copy or export it again.' });

/**
 * The chunks of a PNG in order (PNG specification, 5.3), image data in pieces, everything else whole. Every CRC is
 * checked; a piece of image data may be handed on before its CRC is known, so a consumer must read to the end before
 * it trusts.
 */
export async function* readChunks(source: ByteSource): AsyncGenerator<Chunk> {
  const reader = new SequentialReader(source);
  const take = (length: number) => reader.now(length) ?? reader.take(length);
  const signature = await take(8);
  if (signature.length < 8 || SIGNATURE.some((b, i) => signature[i] !== b)) {
    throw new LevelGridError('unknown-format', {
      found: 'a file that does not start as a PNG',
      expected: 'the eight bytes that begin every PNG',
      remedy: 'Check what the file really is; its name alone does not make it a picture.',
    });
  }
  // many writers make chunks of a few KiB: they are gathered, since handing on costs more than copying
  const small = new Gathered();
  try {
    for (let count = 0; ; count++) {
      const head = await take(8);
      if (head.length === 0) break;
      const { type, length } = chunkHead(head, reader.position - 8, count === 0);
      const short = length > reader.remaining;
      // image data that is cut short is handed on as far as it goes
      if (short && type !== 'IDAT')
        throw truncated(`${reader.remaining} bytes of a ${type} chunk`, `${length} bytes and a checksum`);
      if (type !== 'IDAT' || length >= PIECE / 4) {
        const before = small.drain();
        if (before) yield { type: 'IDAT', data: before };
      }
      let crc = type === 'IDAT' ? IDAT_CRC : crc32(head.slice(4, 8));
      let whole: Chunk | null = null;
      if (type === 'IDAT' ? length < PIECE / 4 : length <= MAX_SIDE_CHUNK) {
        const data = await take(length);
        crc = crc32(data, crc);
        if (type !== 'IDAT') whole = { type, data: data.slice() };
        else if (small.add(data)) yield { type, data: small.drain() ?? data };
        if (short) throw truncated(`${data.length} bytes of a ${type} chunk`, `${length} bytes and a checksum`);
      } else {
        for (let left = length; left > 0;) {
          const data = await reader.some(Math.min(left, PIECE));
          if (data.length === 0) throw truncated(`${length - left} bytes of a ${type} chunk`, `${length}`);
          crc = crc32(data, crc);
          left -= data.length;
          if (type === 'IDAT') yield { type, data };
        }
        // too large to matter: that it was there does
        if (type !== 'IDAT') whole = { type, data: new Uint8Array(0) };
      }
      const tail = await take(4);
      if (tail.length < 4) throw truncated(`a ${type} chunk without its checksum`, 'four bytes of checksum');
      const stored = new DataView(tail.buffer, tail.byteOffset, 4).getUint32(0);
      if (stored !== crc) {
        throw new LevelGridError('checksum', {
          found: `checksum ${crc.toString(16).padStart(8, '0')} over the ${type} chunk`,
          expected: `${stored.toString(16).padStart(8, '0')} as the file states`,
          remedy: 'The file is damaged: copy or export it again.',
        });
      }
      if (whole) yield whole;
      if (type === 'IEND') return;
    }
  } catch (reason) {
    // what was good before the fault is still handed on
    const before = small.drain();
    if (before) yield { type: 'IDAT', data: before };
    throw reason;
  } finally {
    await reader.end();
  }
  const before = small.drain();
  if (before) yield { type: 'IDAT', data: before };
}

function chunkHead(head: Uint8Array, position: number, first: boolean): { type: string; length: number } {
  if (head.length < 8) throw truncated('the end of the file inside a chunk header', 'a whole chunk');
  const view = new DataView(head.buffer, head.byteOffset, 8);
  const length = view.getUint32(0);
  // thousands of them in one file
  if (view.getUint32(4) === IDAT && !first) return { type: 'IDAT', length };
  const type = String.fromCharCode(...head.subarray(4, 8));
  if (!/^[A-Za-z]{4}$/.test(type)) {
    throw new LevelGridError('corrupt', {
      found: `a chunk whose type is not four letters, at byte ${position}`,
      expected: 'a PNG chunk',
      remedy: 'The file is damaged: copy or export it again.',
    });
  }
  if (first && type !== 'IHDR') {
    throw new LevelGridError('corrupt', {
      found: `${type} as the first chunk`,
      expected: 'IHDR',
      remedy: 'Export the picture again.',
    });
  }
  return { type, length };
}

/** Small chunks of image data, joined. */
class Gathered {
  private readonly buffer = new Uint8Array(PIECE * 2);
  private filled = 0;

  /** True when it is time to hand on. */
  add(data: Uint8Array): boolean {
    this.buffer.set(data, this.filled);
    this.filled += data.length;
    return this.filled >= PIECE;
  }

  /** What was gathered, as a view that holds until the next `add`; null where there is nothing. */
  drain(): Uint8Array | null {
    if (this.filled === 0) return null;
    const out = this.buffer.subarray(0, this.filled);
    this.filled = 0;
    return out;
  }
}
