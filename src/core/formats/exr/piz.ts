import { LevelGridError } from '../../base';
import { HOST_IS_LITTLE, swapBytes } from '../bytes';

/*
 * PIZ, the wavelet compression of OpenEXR that keeps every bit: a table of the 16-bit values that occur, a Haar wavelet
 * over their places in it, and Huffman codes with runs (documents and reference source of the format, ImfPizCompressor,
 * ImfWav and ImfHuf).
 */

/** One channel of a block: 16-bit words of a sample, samples across and down, and which of the rows it has. */
export interface PizChannel {
  readonly words: number;
  readonly width: number;
  readonly height: number;
  /** Whether row `r` of the block holds samples of it. */
  readonly has: (r: number) => boolean;
}

const damaged = (found: string): LevelGridError =>
  new LevelGridError('corrupt', {
    found,
    expected: 'a PIZ block',
    remedy: 'The file is damaged: export or copy it again.',
  });

const BITMAP_BYTES = 8192;

/** Unpacks a block to `size` bytes: rows, in each of them the samples of every channel, low byte first. */
export function unpiz(packed: Uint8Array, size: number, channels: readonly PizChannel[]): Uint8Array {
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  if (packed.length < 8) throw damaged(`a block of ${packed.length} bytes`);
  const first = view.getUint16(0, true);
  const last = view.getUint16(2, true);
  let at = 4;
  const bitmap = new Uint8Array(BITMAP_BYTES);
  if (last >= BITMAP_BYTES) throw damaged('a table of values that is too long');
  if (first <= last) {
    const part = packed.subarray(at, at + last - first + 1);
    bitmap.set(part, first);
    at += last - first + 1;
  }
  const { values, highest } = valuesOf(bitmap);
  if (at + 4 > packed.length) throw damaged('a block that ends in its table of values');
  const length = view.getInt32(at, true);
  at += 4;
  if (length < 0 || at + length > packed.length) throw damaged('codes that go on behind their block');
  const words = new Uint16Array(size / 2);
  decodeHuffman(packed.subarray(at, at + length), words);
  let start = 0;
  const starts = channels.map((c) => {
    for (let j = 0; j < c.words; j++)
      unwave(words.subarray(start + j), c.width, c.words, c.height, c.width * c.words, highest);
    const here = start;
    start += c.width * c.height * c.words;
    return here;
  });
  const out = new Uint16Array(size / 2);
  let to = 0;
  for (let r = 0; to < out.length; r++) {
    for (const [i, c] of channels.entries()) {
      if (!c.has(r)) continue;
      const from = starts[i]!;
      const end = from + Math.min(c.width * c.words, out.length - to);
      for (let k = from; k < end; k++) out[to++] = values[words[k]!]!;
      starts[i] = from + c.width * c.words;
    }
    if (r > 65536) throw damaged('rows without samples');
  }
  const bytes = new Uint8Array(out.buffer);
  if (!HOST_IS_LITTLE) swapBytes(bytes, 2);
  return bytes;
}

/** The values that occur, in their order; 0 always does. `highest`: the place of the last. */
function valuesOf(bitmap: Uint8Array): { values: Uint16Array; highest: number } {
  const values = new Uint16Array(65536);
  let n = 0;
  for (let at = 0; at < BITMAP_BYTES; at++) {
    const marks = bitmap[at]! | (at === 0 ? 1 : 0);
    // most are empty
    if (marks !== 0) for (let k = 0; k < 8; k++) if (marks & (1 << k)) values[n++] = at * 8 + k;
  }
  return { values, highest: n - 1 };
}

const SYMBOLS = 65537;
/** Longest code that a block of any allowed size can bring about is far shorter. */
const LONGEST = 48;
const FAST_BITS = 14;
const FAST_MASK = (1 << FAST_BITS) - 1;

/** Bits, the highest of each byte first. */
class Bits {
  private at = 0;
  private held = 0;
  private count = 0;

  constructor(private readonly bytes: Uint8Array) {}

  /** Fills up to at least `n` bits, with zeros behind the end. `n`: 24 at most. */
  private need(n: number): void {
    while (this.count < n) {
      this.held = ((this.held << 8) | (this.bytes[this.at++] ?? 0)) & 0xffffffff;
      this.count += 8;
    }
  }

  /** The next `n` bits without taking them. */
  peek(n: number): number {
    this.need(n);
    return (this.held >>> (this.count - n)) & ((1 << n) - 1);
  }

  take(n: number): number {
    const value = this.peek(n);
    this.count -= n;
    return value;
  }

  /** Bits taken so far. */
  get taken(): number {
    return this.at * 8 - this.count;
  }
}

/** Fills `out`, whose length is how many symbols there are. */
function decodeHuffman(bytes: Uint8Array, out: Uint16Array): void {
  if (bytes.length === 0) {
    if (out.length > 0) throw damaged('a block without codes');
    return;
  }
  if (bytes.length < 20) throw damaged('a table of codes that is cut short');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const lowest = view.getUint32(0, true);
  const run = view.getUint32(4, true);
  const bitCount = view.getUint32(12, true);
  if (lowest >= SYMBOLS || run >= SYMBOLS || lowest > run) throw damaged('codes of symbols that do not exist');
  const table = new Bits(bytes.subarray(20));
  const lengths = readLengths(table, lowest, run);
  const codes = new Codes(lengths, lowest, run);
  const from = 20 + Math.ceil(table.taken / 8);
  if (from + Math.ceil(bitCount / 8) > bytes.length) throw damaged('codes that go on behind their block');
  codes.decode(bytes.subarray(from, from + Math.ceil(bitCount / 8)), bitCount, run, out);
}

/** Lengths of all codes, 6 bits each; 59 to 62 are runs of 2 to 5 zeros, 63 is followed by a run of 6 and more. */
function readLengths(bits: Bits, lowest: number, highest: number): Uint8Array {
  const lengths = new Uint8Array(SYMBOLS);
  for (let s = lowest; s <= highest;) {
    const length = bits.take(6);
    if (length < 59) lengths[s++] = length;
    else s += length === 63 ? bits.take(8) + 6 : length - 57;
    if (s > highest + 1) throw damaged('a run of symbols without codes that is too long');
  }
  return lengths;
}

/** Codes by their lengths: among equals they rise with the symbol; longer ones come first. */
class Codes {
  /** Length and symbol of the first `FAST_BITS` bits, where they hold a whole code. */
  private readonly fast = new Int32Array(1 << FAST_BITS).fill(-1);
  private readonly firstCode = new Float64Array(LONGEST + 1);
  private readonly firstPlace = new Int32Array(LONGEST + 1);
  private readonly counts = new Int32Array(LONGEST + 1);
  private readonly sorted: Int32Array;

  /** Only symbols from `lowest` to `highest` have codes. */
  constructor(lengths: Uint8Array, lowest: number, highest: number) {
    for (let symbol = lowest; symbol <= highest; symbol++) {
      const l = lengths[symbol]!;
      if (l > LONGEST) throw damaged(`a code of ${l} bits`);
      this.counts[l]!++;
    }
    this.counts[0] = 0;
    let code = 0;
    for (let l = LONGEST; l >= 1; l--) {
      this.firstCode[l] = code;
      code = Math.floor((code + this.counts[l]!) / 2);
    }
    let place = 0;
    for (let l = 1; l <= LONGEST; l++) {
      this.firstPlace[l] = place;
      place += this.counts[l]!;
    }
    this.sorted = new Int32Array(place);
    const next = this.firstPlace.slice();
    for (let symbol = lowest; symbol <= highest; symbol++) {
      const l = lengths[symbol]!;
      if (l === 0) continue;
      const at = next[l]!++;
      this.sorted[at] = symbol;
      if (l > FAST_BITS) continue;
      const value = (this.firstCode[l]! + at - this.firstPlace[l]!) << (FAST_BITS - l);
      this.fast.fill((symbol << 6) | l, value, value + (1 << (FAST_BITS - l)));
    }
  }

  /**
   * Fills `out` with the symbols that `bytes` hold in their first `bitCount` bits, the highest of each byte first; the
   * symbol `run` is followed by 8 bits that say how often the one before it comes again. The bits are kept in variables
   * of the loop: it takes nearly all of the time.
   */
  decode(bytes: Uint8Array, bitCount: number, run: number, out: Uint16Array): void {
    const { fast } = this;
    const { length } = bytes;
    let at = 0;
    let held = 0;
    let count = 0;
    for (let n = 0; n < out.length;) {
      if (at * 8 - count >= bitCount) throw damaged(`codes of ${n} of ${out.length} values`);
      // behind the end there are zeros
      for (; count <= 24; count += 8) held = (held << 8) | (at++ < length ? bytes[at - 1]! : 0);
      const found = fast[(held >>> (count - FAST_BITS)) & FAST_MASK]!;
      let symbol = found >> 6;
      if (found >= 0) count -= found & 63;
      else {
        count -= FAST_BITS;
        let code = (held >>> count) & FAST_MASK;
        let l = FAST_BITS;
        do {
          if (++l > LONGEST) throw damaged('bits that are no code');
          if (count === 0) {
            held = at++ < length ? bytes[at - 1]! : 0;
            count = 8;
          }
          code = code * 2 + ((held >>> --count) & 1);
          symbol = code - this.firstCode[l]!;
        } while (symbol < 0 || symbol >= this.counts[l]!);
        symbol = this.sorted[this.firstPlace[l]! + symbol]!;
      }
      if (symbol !== run) {
        out[n++] = symbol;
        continue;
      }
      for (; count < 8; count += 8) held = (held << 8) | (at++ < length ? bytes[at - 1]! : 0);
      count -= 8;
      const times = (held >>> count) & 255;
      if (n === 0 || n + times > out.length) throw damaged('a run that repeats nothing, or too much');
      out.fill(out[n - 1]!, n, n + times);
      n += times;
    }
  }
}

const pair = { a: 0, b: 0 };

/** Two values from their mean and difference; exact where all values have 14 bits. */
function join14(l: number, h: number): void {
  const mean = (l << 16) >> 16;
  const rise = (h << 16) >> 16;
  const a = mean + (rise & 1) + (rise >> 1);
  pair.a = a & 0xffff;
  pair.b = (a - rise) & 0xffff;
}

/** The same with all 16 bits, modulo 65536. */
function join16(l: number, h: number): void {
  pair.b = (l - (h >> 1)) & 0xffff;
  pair.a = (h + pair.b - 0x8000) & 0xffff;
}

/** Undoes the wavelet of `nx` × `ny` values that lie `ox` and `oy` apart, from the coarsest level to the finest. */
function unwave(v: Uint16Array, nx: number, ox: number, ny: number, oy: number, highest: number): void {
  const join = highest < 1 << 14 ? join14 : join16;
  const n = Math.min(nx, ny);
  let p = 1;
  while (p <= n) p <<= 1;
  p >>= 1;
  let p2 = p;
  p >>= 1;
  for (; p >= 1; p2 = p, p >>= 1) {
    const [oy1, oy2, ox1, ox2] = [oy * p, oy * p2, ox * p, ox * p2];
    const endY = oy * (ny - p2);
    let py = 0;
    for (; py <= endY; py += oy2) {
      let px = py;
      const endX = py + ox * (nx - p2);
      for (; px <= endX; px += ox2) {
        const [p01, p10] = [px + ox1, px + oy1];
        const p11 = p10 + ox1;
        join(v[px]!, v[p10]!);
        const { a: i00, b: i10 } = pair;
        join(v[p01]!, v[p11]!);
        const { a: i01, b: i11 } = pair;
        join(i00, i01);
        v[px] = pair.a;
        v[p01] = pair.b;
        join(i10, i11);
        v[p10] = pair.a;
        v[p11] = pair.b;
      }
      if (nx & p) {
        join(v[px]!, v[px + oy1]!);
        v[px + oy1] = pair.b;
        v[px] = pair.a;
      }
    }
    if (ny & p) {
      let px = py;
      const endX = py + ox * (nx - p2);
      for (; px <= endX; px += ox2) {
        join(v[px]!, v[px + ox1]!);
        v[px + ox1] = pair.b;
        v[px] = pair.a;
      }
    }
  }
}
