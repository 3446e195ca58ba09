import { deflateKernel } from '../../wasm';
import { canonicalCodes, codeLengths, MAX_BITS } from './huffman';

/** `fast` codes every byte by its frequency alone; `default` also looks for repetitions. */
export type Preset = 'fast' | 'default';

/** Input bytes of one deflate block: short enough for codes to follow the ground, long enough to pay for their table. */
const BLOCK = 1 << 16;
/** A match may reach this far back. */
export const WINDOW = 1 << 15;
const MIN_MATCH = 4;
const MAX_MATCH = 258;
const HASH_BITS = 15;
/** Earlier places with the same hash that are tried. */
const CHAIN = 6;
/**
 * Filtered terrain often repeats nothing. Matches are looked for in the first bytes of a block; where they save less
 * than a 16th of them (a match of the least length saves nothing), the whole block is coded without.
 */
const TRIAL = 1 << 13;
const GAIN_SHIFT = 4;

const LITERALS = 286;
const DISTANCES = 30;

/** Length code, its extra bits and their base, per match length (RFC 1951, 3.2.5). */
const LENGTH_CODE = new Uint16Array(MAX_MATCH + 1);
const LENGTH_EXTRA = new Uint8Array(29);
const LENGTH_BASE = new Uint16Array(29);
const DISTANCE_EXTRA = new Uint8Array(DISTANCES);
const DISTANCE_BASE = new Uint16Array(DISTANCES);
/** Distance code of distance d: by d − 1 below 256, by (d − 1) >> 7 above. */
const DISTANCE_CODE = new Uint8Array(512);
{
  let base = 3;
  for (let c = 0; c < 28; c++) {
    const extra = c < 8 ? 0 : (c >> 2) - 1;
    LENGTH_EXTRA[c] = extra;
    LENGTH_BASE[c] = base;
    for (let n = 0; n < 1 << extra; n++) LENGTH_CODE[base + n] = 257 + c;
    base += 1 << extra;
  }
  LENGTH_CODE[MAX_MATCH] = 285;
  LENGTH_BASE[28] = MAX_MATCH;
  let distance = 1;
  for (let c = 0; c < DISTANCES; c++) {
    const extra = c < 4 ? 0 : (c >> 1) - 1;
    DISTANCE_EXTRA[c] = extra;
    DISTANCE_BASE[c] = distance;
    for (let n = 0; n < 1 << extra; n++) {
      const d = distance + n - 1;
      if (d < 256) DISTANCE_CODE[d] = c;
      else DISTANCE_CODE[256 + (d >> 7)] = c;
    }
    distance += 1 << extra;
  }
}
const distanceCode = (d: number): number => (d <= 256 ? DISTANCE_CODE[d - 1]! : DISTANCE_CODE[256 + ((d - 1) >> 7)]!);

/** Order in which lengths of the code length code are sent (RFC 1951, 3.2.7). */
const ORDER = [16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15];

/** Writes bits from the lowest upwards. */
class BitWriter {
  bytes: Uint8Array;
  length = 0;
  private held = 0;
  private count = 0;

  constructor(capacity: number) {
    this.bytes = new Uint8Array(capacity);
  }

  /** At most 16 bits. */
  put(value: number, bits: number): void {
    this.held |= value << this.count;
    this.count += bits;
    while (this.count >= 8) {
      if (this.length === this.bytes.length) {
        const larger = new Uint8Array(this.bytes.length * 2);
        larger.set(this.bytes);
        this.bytes = larger;
      }
      this.bytes[this.length++] = this.held & 255;
      this.held >>>= 8;
      this.count -= 8;
    }
  }

  align(): void {
    if (this.count > 0) this.put(0, 8 - this.count);
  }
}

/**
 * One piece of a deflate stream (RFC 1951): `input` from `start` on, with up to 32 KiB before it as what a reader
 * already knows. The piece ends on a byte (an empty stored block, a "sync flush"), so pieces made apart can be joined;
 * the last one is marked. The same input gives the same bytes, whoever makes it.
 */
export function deflatePiece(input: Uint8Array, start: number, last: boolean, preset: Preset): Uint8Array {
  return deflateKernel(input, start, last, preset === 'default') ?? deflatePiecePlain(input, start, last, preset);
}

/** The plain twin of the kernel: slower, byte for byte the same. */
export function deflatePiecePlain(input: Uint8Array, start: number, last: boolean, preset: Preset): Uint8Array {
  const out = new BitWriter(Math.max(64, Math.ceil((input.length - start) * 0.9)));
  const matcher = preset === 'default' ? new Matcher(input, start) : null;
  for (let at = start; at < input.length;) {
    const end = Math.min(input.length, at + BLOCK);
    if (!matcher || !matchedBlock(out, input, at, end, matcher)) literalBlock(out, input, at, end);
    at = end;
  }
  // an empty stored block: three header bits, padding, length 0 and its complement
  out.put(last ? 1 : 0, 3);
  out.align();
  out.put(0, 16);
  out.put(0xffff, 16);
  return out.bytes.subarray(0, out.length);
}

function literalBlock(out: BitWriter, input: Uint8Array, from: number, to: number): void {
  const literals = new Uint32Array(LITERALS);
  for (let i = from; i < to; i++) literals[input[i]!] = literals[input[i]!]! + 1;
  literals[256] = 1;
  const tables = new Tables(literals, new Uint32Array(DISTANCES));
  tables.send(out);
  const { literalCodes, literalLengths } = tables;
  for (let i = from; i < to; i++) out.put(literalCodes[input[i]!]!, literalLengths[input[i]!]!);
  out.put(literalCodes[256]!, literalLengths[256]!);
}

/** False, with nothing written, where matches are not worth their search. */
function matchedBlock(out: BitWriter, input: Uint8Array, from: number, to: number, matcher: Matcher): boolean {
  const literals = new Uint32Array(LITERALS);
  const distances = new Uint32Array(DISTANCES);
  // a token is a literal, or length << 16 | distance
  const tokens = new Uint32Array(to - from);
  let count = 0;
  let gain = 0;
  let trial = Math.min(to, from + TRIAL);
  for (let i = from; i < to;) {
    if (i >= trial) {
      if (gain << GAIN_SHIFT < i - from) return false;
      trial = to;
    }
    const found = matcher.find(i, to);
    if (found === 0) {
      const byte = input[i]!;
      literals[byte] = literals[byte]! + 1;
      tokens[count++] = byte;
      matcher.add(i);
      i++;
      continue;
    }
    const length = found >>> 16;
    const distance = found & 0xffff;
    gain += length - MIN_MATCH;
    const code = LENGTH_CODE[length]!;
    literals[code] = literals[code]! + 1;
    const far = distanceCode(distance);
    distances[far] = distances[far]! + 1;
    tokens[count++] = found;
    for (const stop = i + length; i < stop; i++) matcher.add(i);
  }
  literals[256] = 1;
  const tables = new Tables(literals, distances);
  tables.send(out);
  const { literalCodes, literalLengths, distanceCodes, distanceLengths } = tables;
  for (let k = 0; k < count; k++) {
    const token = tokens[k]!;
    if (token < 256) {
      out.put(literalCodes[token]!, literalLengths[token]!);
      continue;
    }
    const length = token >>> 16;
    const distance = token & 0xffff;
    const code = LENGTH_CODE[length]!;
    out.put(literalCodes[code]!, literalLengths[code]!);
    out.put(length - LENGTH_BASE[code - 257]!, LENGTH_EXTRA[code - 257]!);
    const far = distanceCode(distance);
    out.put(distanceCodes[far]!, distanceLengths[far]!);
    out.put(distance - DISTANCE_BASE[far]!, DISTANCE_EXTRA[far]!);
  }
  out.put(literalCodes[256]!, literalLengths[256]!);
  return true;
}

/** Finds earlier occurrences by a hash of four bytes, nearest first. */
class Matcher {
  private readonly head = new Int32Array(1 << HASH_BITS).fill(-1);
  private readonly previous = new Int32Array(WINDOW).fill(-1);

  constructor(
    private readonly input: Uint8Array,
    start: number,
  ) {
    for (let i = Math.max(0, start - WINDOW); i < start; i++) this.add(i);
  }

  private hash(i: number): number {
    const b = this.input;
    return Math.imul(b[i]! | (b[i + 1]! << 8) | (b[i + 2]! << 16) | (b[i + 3]! << 24), 0x9e3779b1) >>> (32 - HASH_BITS);
  }

  add(i: number): void {
    if (i + MIN_MATCH > this.input.length) return;
    const h = this.hash(i);
    this.previous[i & (WINDOW - 1)] = this.head[h]!;
    this.head[h] = i;
  }

  /** The longest match at `i` that ends by `to`, as length << 16 | distance; 0 where there is none. */
  find(i: number, to: number): number {
    const { input, previous } = this;
    const most = Math.min(MAX_MATCH, to - i);
    if (most < MIN_MATCH) return 0;
    let best = MIN_MATCH - 1;
    let distance = 0;
    let at = this.head[this.hash(i)]!;
    for (let tries = CHAIN; tries > 0 && at >= 0 && i - at < WINDOW; tries--) {
      if (input[at + best] === input[i + best]) {
        let n = 0;
        while (n < most && input[at + n] === input[i + n]) n++;
        if (n > best) {
          best = n;
          distance = i - at;
          if (n === most) break;
        }
      }
      const next = previous[at & (WINDOW - 1)]!;
      // a slot that was written over since belongs to a later place
      if (next >= at) break;
      at = next;
    }
    return distance > 0 ? best * 65536 + distance : 0;
  }
}

/** The two prefix codes of a block and how they are sent. */
class Tables {
  readonly literalLengths = new Uint8Array(LITERALS);
  readonly literalCodes = new Uint16Array(LITERALS);
  readonly distanceLengths = new Uint8Array(DISTANCES);
  readonly distanceCodes = new Uint16Array(DISTANCES);

  constructor(literals: Uint32Array, distances: Uint32Array) {
    codeLengths(literals, LITERALS, MAX_BITS, this.literalLengths);
    codeLengths(distances, DISTANCES, MAX_BITS, this.distanceLengths);
    // one distance code must exist, even where no match does; readers differ about none
    if (distances.every((n) => n === 0)) this.distanceLengths[0] = 1;
    canonicalCodes(this.literalLengths, LITERALS, this.literalCodes);
    canonicalCodes(this.distanceLengths, DISTANCES, this.distanceCodes);
  }

  /** Block header and both tables (RFC 1951, 3.2.7): lengths run-length coded, themselves Huffman coded. */
  send(out: BitWriter): void {
    let nLiterals = LITERALS;
    while (nLiterals > 257 && this.literalLengths[nLiterals - 1] === 0) nLiterals--;
    let nDistances = DISTANCES;
    while (nDistances > 1 && this.distanceLengths[nDistances - 1] === 0) nDistances--;
    const all = new Uint8Array(nLiterals + nDistances);
    all.set(this.literalLengths.subarray(0, nLiterals));
    all.set(this.distanceLengths.subarray(0, nDistances), nLiterals);
    // symbol and extra value of each run
    const symbols: number[] = [];
    const extras: number[] = [];
    const frequencies = new Uint32Array(19);
    const say = (symbol: number, extra: number): void => {
      symbols.push(symbol);
      extras.push(extra);
      frequencies[symbol] = frequencies[symbol]! + 1;
    };
    for (let i = 0; i < all.length;) {
      const value = all[i]!;
      let run = 1;
      while (i + run < all.length && all[i + run] === value) run++;
      i += run;
      if (value !== 0) {
        say(value, 0);
        run--;
      }
      while (run >= 3) {
        const n = Math.min(run, value !== 0 ? 6 : 138);
        if (value !== 0) say(16, n - 3);
        else if (n <= 10) say(17, n - 3);
        else say(18, n - 11);
        run -= n;
      }
      while (run-- > 0) say(value, 0);
    }
    const lengths = new Uint8Array(19);
    const codes = new Uint16Array(19);
    codeLengths(frequencies, 19, 7, lengths);
    canonicalCodes(lengths, 19, codes);
    let sent = 19;
    while (sent > 4 && lengths[ORDER[sent - 1]!] === 0) sent--;
    out.put(0b100, 3);
    out.put(nLiterals - 257, 5);
    out.put(nDistances - 1, 5);
    out.put(sent - 4, 4);
    for (let i = 0; i < sent; i++) out.put(lengths[ORDER[i]!]!, 3);
    symbols.forEach((symbol, i) => {
      out.put(codes[symbol]!, lengths[symbol]!);
      if (symbol === 16) out.put(extras[i]!, 2);
      else if (symbol === 17) out.put(extras[i]!, 3);
      else if (symbol === 18) out.put(extras[i]!, 7);
    });
  }
}
