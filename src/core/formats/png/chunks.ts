import { LevelGridError, type ByteSource } from '../../base';
import { SequentialReader } from '../bytes';
import { crc32 } from './crc';
import { SIGNATURE } from './header';

export interface Chunk {
  readonly type: string;
  /** A piece of the chunk's data; a long chunk comes in several pieces. */
  readonly data: Uint8Array;
  readonly length: number;
}

const PIECE = 1 << 18;
/** Chunks other than image data are read whole; none that matters is larger. */
const MAX_SIDE_CHUNK = 1 << 20;

const truncated = (found: string, expected: string): LevelGridError =>
  new LevelGridError('truncated', { found, expected, remedy: 'The file is cut short: copy or export it again.' });

/**
 * The chunks of a PNG in order (PNG specification, 5.3), image data in pieces, everything else whole. Every CRC is
 * checked; an IDAT piece is handed on before its CRC is known, so a consumer must read to the end before it trusts.
 */
export async function* readChunks(source: ByteSource): AsyncGenerator<Chunk> {
  const reader = new SequentialReader(source);
  const signature = await reader.take(8);
  if (signature.length < 8 || SIGNATURE.some((b, i) => signature[i] !== b)) {
    throw new LevelGridError('unknown-format', {
      found: 'a file that does not start as a PNG',
      expected: 'the eight bytes that begin every PNG',
      remedy: 'Check what the file really is; its name alone does not make it a picture.',
    });
  }
  for (let count = 0; ; count++) {
    const head = await reader.take(8);
    if (head.length === 0) return;
    if (head.length < 8) throw truncated('the end of the file inside a chunk header', 'a whole chunk');
    const view = new DataView(head.buffer, head.byteOffset, 8);
    const length = view.getUint32(0);
    const typeBytes = head.slice(4, 8);
    const type = String.fromCharCode(...typeBytes);
    if (!/^[A-Za-z]{4}$/.test(type)) {
      throw new LevelGridError('corrupt', {
        found: `a chunk whose type is not four letters, at byte ${reader.position - 8}`,
        expected: 'a PNG chunk',
        remedy: 'The file is damaged: copy or export it again.',
      });
    }
    if (count === 0 && type !== 'IHDR') {
      throw new LevelGridError('corrupt', {
        found: `${type} as the first chunk`,
        expected: 'IHDR',
        remedy: 'Export the picture again.',
      });
    }
    if (length > reader.remaining) {
      throw truncated(`${reader.remaining} bytes of a ${type} chunk`, `${length} bytes and a checksum`);
    }
    let crc = crc32(typeBytes);
    let whole: Chunk | null = null;
    if (type === 'IDAT') {
      for (let left = length; left > 0;) {
        const data = await reader.take(Math.min(left, PIECE));
        if (data.length === 0) throw truncated(`${length - left} bytes of an IDAT chunk`, `${length}`);
        crc = crc32(data, crc);
        left -= data.length;
        yield { type, data, length };
      }
    } else if (length > MAX_SIDE_CHUNK) {
      for (let left = length; left > 0;) {
        const data = await reader.take(Math.min(left, PIECE));
        if (data.length === 0) throw truncated(`${length - left} bytes of a ${type} chunk`, `${length}`);
        crc = crc32(data, crc);
        left -= data.length;
      }
    } else {
      const data = (await reader.take(length)).slice();
      crc = crc32(data, crc);
      whole = { type, data, length };
    }
    const tail = await reader.take(4);
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
}
