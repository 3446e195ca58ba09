import { LevelGridError } from '../../base';
import { copyOf } from '../bytes';
import { plainBlock, type Block, type BlockInflater } from '../block-inflater';

/** Compressions that keep every height, by their number. */
export const READ: Readonly<Record<number, 'none' | 'LZW' | 'Deflate' | 'PackBits'>> = {
  1: 'none',
  5: 'LZW',
  8: 'Deflate',
  32773: 'PackBits',
  32946: 'Deflate',
};
/** Others, so that an error can call them by their name. */
export const NOT_READ: Readonly<Record<number, string>> = {
  2: 'CCITT',
  3: 'CCITT fax 3',
  4: 'CCITT fax 4',
  6: 'JPEG (old style)',
  7: 'JPEG',
  34712: 'JPEG 2000',
  34887: 'LERC',
  34925: 'LZMA',
  50000: 'Zstandard',
  50001: 'WebP',
  50002: 'JPEG XL',
};

const damaged = (found: string, expected: string): LevelGridError =>
  new LevelGridError('corrupt', { found, expected, remedy: 'The file is damaged: export or copy it again.' });

/** Unpacks a strip or a tile to exactly `size` bytes; bytes behind them are left out. */
export function unpack(compression: number, packed: Uint8Array, size: number, inflater: BlockInflater): Block {
  const name = READ[compression];
  if (name === 'LZW') return plainBlock(unlzw(packed, size));
  if (name === 'PackBits') return plainBlock(unpackBits(packed, size));
  if (name === 'Deflate') return inflater.unzip(packed, size);
  if (packed.length < size) throw damaged(`a block of ${packed.length} bytes`, `${size}`);
  // on its own memory: it is changed in place
  return plainBlock(copyOf(packed.subarray(0, size)));
}

/** TIFF 6.0, section 9. */
function unpackBits(packed: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  let to = 0;
  for (let at = 0; at < packed.length && to < size;) {
    const n = ((packed[at++] as number) << 24) >> 24;
    if (n >= 0) {
      const part = packed.subarray(at, at + Math.min(n + 1, size - to));
      out.set(part, to);
      to += part.length;
      at += n + 1;
    } else if (n !== -128) {
      if (at >= packed.length) break;
      const count = Math.min(1 - n, size - to);
      out.fill(packed[at++] as number, to, to + count);
      to += count;
    }
  }
  if (to < size) throw damaged(`a block that holds ${to} bytes`, `${size}`);
  return out;
}

const CLEAR = 256;
const END = 257;
const MAX_CODES = 4096;

/** TIFF 6.0, section 13: codes of 9 to 12 bits, the highest bit first, one longer a code before it is needed. */
function unlzw(packed: Uint8Array, size: number): Uint8Array {
  if (packed[0] === 0 && ((packed[1] ?? 0) & 1) === 1)
    throw new LevelGridError('unsupported', {
      found: 'LZW in the order of bits of before TIFF 5',
      expected: 'LZW as TIFF 6 describes it',
      remedy: 'Export it again without compression or with Deflate.',
    });
  const out = new Uint8Array(size);
  // each code stands for bytes that lie in `out` already
  const starts = new Int32Array(MAX_CODES);
  const lengths = new Int32Array(MAX_CODES);
  let to = 0;
  let next = END + 1;
  let width = 9;
  let before = -1;
  let bits = 0;
  let held = 0;
  for (let at = 0; to < size;) {
    while (bits < width) {
      if (at >= packed.length) throw damaged(`a block that holds ${to} bytes`, `${size}`);
      held = ((held << 8) | (packed[at++] as number)) & 0xffffff;
      bits += 8;
    }
    const code = (held >> (bits - width)) & ((1 << width) - 1);
    bits -= width;
    if (code === END) break;
    if (code === CLEAR) {
      next = END + 1;
      width = 9;
      before = -1;
      continue;
    }
    const start = to;
    if (code < CLEAR) out[to++] = code;
    else {
      // the code that is just being made: what was before, and its first byte again
      const fresh = code === next && before >= 0;
      if (!fresh && code >= next) throw damaged(`code ${code}, which nothing has made`, `a code below ${next}`);
      const from = fresh ? before : (starts[code] as number);
      const length = Math.min(fresh ? start - before + 1 : (lengths[code] as number), size - to);
      for (let i = 0; i < length; i++) out[to++] = out[from + i] as number;
    }
    if (before >= 0 && next < MAX_CODES) {
      starts[next] = before;
      lengths[next] = start - before + 1;
      next++;
    }
    before = start;
    if (next + 1 >= 1 << width && width < 12) width++;
  }
  if (to < size) throw damaged(`a block that holds ${to} bytes`, `${size}`);
  return out;
}
