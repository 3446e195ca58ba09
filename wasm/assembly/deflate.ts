// Blocks of deflate (RFC 1951). Twin, and the place where the choices are explained: src/core/formats/deflate/.
// The caller gives one stretch of scratch memory; where things lie in it is fixed here.

import { bump, canonical, HUFFMAN_ROOM, lengths, MAX_BITS } from './huffman';

const BLOCK: i32 = 1 << 16;
const WINDOW: i32 = 1 << 15;
const MIN_MATCH: i32 = 4;
const MAX_MATCH: i32 = 258;
const HASH_BITS: u32 = 15;
const CHAIN: i32 = 6;
const TRIAL: i32 = 1 << 13;
const GAIN_SHIFT: i32 = 4;
const LITERALS: i32 = 286;
const DISTANCES: i32 = 30;

// Scratch layout in bytes
const HEAD: usize = 0; // i32 × 32768
const PREVIOUS: usize = HEAD + 131072; // i32 × 32768
const TOKENS: usize = PREVIOUS + 131072; // u32 × 65536
const LITERAL_COUNTS: usize = TOKENS + 262144; // u32 × 288
const DISTANCE_COUNTS: usize = LITERAL_COUNTS + 1152; // u32 × 32
const LITERAL_LENGTHS: usize = DISTANCE_COUNTS + 128; // u8 × 288
const DISTANCE_LENGTHS: usize = LITERAL_LENGTHS + 288; // u8 × 32
const LITERAL_CODES: usize = DISTANCE_LENGTHS + 32; // u16 × 288
const DISTANCE_CODES: usize = LITERAL_CODES + 576; // u16 × 32
const LENGTH_CODE: usize = DISTANCE_CODES + 64; // u16 × 260
const LENGTH_BASE: usize = LENGTH_CODE + 520; // u16 × 30
const LENGTH_EXTRA: usize = LENGTH_BASE + 60; // u8 × 32
const DISTANCE_BASE: usize = LENGTH_EXTRA + 32; // u16 × 30
const DISTANCE_EXTRA: usize = DISTANCE_BASE + 60; // u8 × 32
const DISTANCE_CODE: usize = DISTANCE_EXTRA + 32; // u8 × 512
const BUILD: usize = DISTANCE_CODE + 512 + 4; // what huffman.ts works in
const ALL: usize = BUILD + HUFFMAN_ROOM; // u8 × 320
const SYMBOLS: usize = ALL + 320; // u8 × 320
const EXTRAS: usize = SYMBOLS + 320; // u8 × 320
const RUN_COUNTS: usize = EXTRAS + 320; // u32 × 20
const RUN_LENGTHS: usize = RUN_COUNTS + 80; // u8 × 20
const RUN_CODES: usize = RUN_LENGTHS + 20; // u16 × 20

/** Bytes of scratch memory that `deflatePiece` needs. */
export function deflateScratch(): i32 {
  return <i32>(RUN_CODES + 64);
}

let out: usize = 0;
let held: u64 = 0;
let count: u32 = 0;

// @ts-ignore: decorator
@inline
function put(value: u32, bits: u32): void {
  held |= (<u64>value) << count;
  count += bits;
}

/** Whole bytes leave; called before more than 64 bits could gather. */
// @ts-ignore: decorator
@inline
function drain(): void {
  store<u64>(out, held);
  const bytes = count >>> 3;
  out += bytes;
  held >>>= bytes << 3;
  count &= 7;
}

// @ts-ignore: decorator
@inline
function distanceCode(s: usize, d: u32): u32 {
  return d <= 256 ? load<u8>(s + DISTANCE_CODE + (d - 1)) : load<u8>(s + DISTANCE_CODE + 256 + ((d - 1) >>> 7));
}

function tables(s: usize): void {
  let from = 3;
  for (let c = 0; c < 28; c++) {
    const extra = c < 8 ? 0 : (c >> 2) - 1;
    store<u8>(s + LENGTH_EXTRA + c, extra);
    store<u16>(s + LENGTH_BASE + (c << 1), from);
    for (let n = 0; n < 1 << extra; n++) if (from + n <= MAX_MATCH) store<u16>(s + LENGTH_CODE + ((from + n) << 1), 257 + c);
    from += 1 << extra;
  }
  store<u16>(s + LENGTH_CODE + (MAX_MATCH << 1), 285);
  store<u16>(s + LENGTH_BASE + (28 << 1), MAX_MATCH);
  store<u8>(s + LENGTH_EXTRA + 28, 0);
  let distance = 1;
  for (let c = 0; c < DISTANCES; c++) {
    const extra = c < 4 ? 0 : (c >> 1) - 1;
    store<u8>(s + DISTANCE_EXTRA + c, extra);
    store<u16>(s + DISTANCE_BASE + (c << 1), distance);
    for (let n = 0; n < 1 << extra; n++) {
      const d = distance + n - 1;
      if (d < 256) store<u8>(s + DISTANCE_CODE + d, c);
      else store<u8>(s + DISTANCE_CODE + 256 + (d >> 7), c);
    }
    distance += 1 << extra;
  }
}

/**
 * Deflates `input[start .. length)` with the bytes before `start` as what is known; see the twin. Returns the bytes
 * written to `target`, which must have room for the input and an eighth, and 1024 bytes more.
 */
export function deflatePiece(input: usize, start: i32, length: i32, last: bool, matching: bool, target: usize, s: usize): i32 {
  out = target;
  held = 0;
  count = 0;
  tables(s);
  if (matching) {
    memory.fill(s + HEAD, 0xff, 262144);
    for (let i = max(0, start - WINDOW); i < start; i++) add(s, input, i, length);
  }
  for (let at = start; at < length; ) {
    const end = min(length, at + BLOCK);
    if (!matching || !matchedBlock(s, input, at, end, length)) literalBlock(s, input, at, end);
    at = end;
  }
  put(last ? 1 : 0, 3);
  if (count & 7) count += 8 - (count & 7);
  drain();
  put(0, 16);
  put(0xffff, 16);
  drain();
  return <i32>(out - target);
}

// @ts-ignore: decorator
@inline
function hash(at: usize): u32 {
  return (load<u32>(at) * 0x9e3779b1) >>> (32 - HASH_BITS);
}

// @ts-ignore: decorator
@inline
function add(s: usize, input: usize, i: i32, length: i32): void {
  if (i + MIN_MATCH > length) return;
  const h = s + HEAD + ((<usize>hash(input + i)) << 2);
  store<i32>(s + PREVIOUS + ((<usize>(i & (WINDOW - 1))) << 2), load<i32>(h));
  store<i32>(h, i);
}

/** Bytes that are equal at `a` and `b`, at most `most`. */
// @ts-ignore: decorator
@inline
function equal(a: usize, b: usize, most: i32): i32 {
  let n = 0;
  while (n + 8 <= most) {
    const d = load<u64>(a + n) ^ load<u64>(b + n);
    if (d != 0) return n + <i32>(ctz(d) >>> 3);
    n += 8;
  }
  while (n < most && load<u8>(a + n) == load<u8>(b + n)) n++;
  return n;
}

function find(s: usize, input: usize, i: i32, to: i32): u32 {
  const most = min(MAX_MATCH, to - i);
  if (most < MIN_MATCH) return 0;
  let best = MIN_MATCH - 1;
  let distance = 0;
  const here = input + i;
  let at = load<i32>(s + HEAD + ((<usize>hash(here)) << 2));
  for (let tries = CHAIN; tries > 0 && at >= 0 && i - at < WINDOW; tries--) {
    const there = input + at;
    if (load<u8>(there + best) == load<u8>(here + best)) {
      const n = equal(there, here, most);
      if (n > best) {
        best = n;
        distance = i - at;
        if (n == most) break;
      }
    }
    const next = load<i32>(s + PREVIOUS + ((<usize>(at & (WINDOW - 1))) << 2));
    if (next >= at) break;
    at = next;
  }
  return distance > 0 ? (<u32>best << 16) | <u32>distance : 0;
}

function literalBlock(s: usize, input: usize, from: i32, to: i32): void {
  memory.fill(s + LITERAL_COUNTS, 0, 1280);
  for (let i = from; i < to; i++) bump(s + LITERAL_COUNTS + ((<usize>load<u8>(input + i)) << 2));
  store<u32>(s + LITERAL_COUNTS + 1024, 1);
  codes(s);
  send(s);
  let i = from;
  // three codes of at most 15 bits fit beside the 7 that may be waiting
  for (; i + 3 <= to; i += 3) {
    literal(s, load<u8>(input + i));
    literal(s, load<u8>(input + i, 1));
    literal(s, load<u8>(input + i, 2));
    drain();
  }
  for (; i < to; i++) {
    literal(s, load<u8>(input + i));
    drain();
  }
  literal(s, 256);
  drain();
}

// @ts-ignore: decorator
@inline
function literal(s: usize, symbol: u32): void {
  put(load<u16>(s + LITERAL_CODES + ((<usize>symbol) << 1)), load<u8>(s + LITERAL_LENGTHS + symbol));
}

/** False, with nothing written, where matches are not worth their search. */
function matchedBlock(s: usize, input: usize, from: i32, to: i32, length: i32): bool {
  memory.fill(s + LITERAL_COUNTS, 0, 1280);
  let n = 0;
  let gain = 0;
  let trial = min(to, from + TRIAL);
  for (let i = from; i < to; ) {
    if (i >= trial) {
      if (gain << GAIN_SHIFT < i - from) return false;
      trial = to;
    }
    const found = find(s, input, i, to);
    store<u32>(s + TOKENS + ((<usize>n) << 2), found == 0 ? <u32>load<u8>(input + i) : found);
    n++;
    if (found == 0) {
      bump(s + LITERAL_COUNTS + ((<usize>load<u8>(input + i)) << 2));
      add(s, input, i, length);
      i++;
      continue;
    }
    const run = <i32>(found >>> 16);
    gain += run - MIN_MATCH;
    bump(s + LITERAL_COUNTS + ((<usize>load<u16>(s + LENGTH_CODE + (run << 1))) << 2));
    bump(s + DISTANCE_COUNTS + ((<usize>distanceCode(s, found & 0xffff)) << 2));
    for (const stop = i + run; i < stop; i++) add(s, input, i, length);
  }
  store<u32>(s + LITERAL_COUNTS + 1024, 1);
  codes(s);
  send(s);
  for (let k = 0; k < n; k++) {
    const token = load<u32>(s + TOKENS + ((<usize>k) << 2));
    if (token < 256) {
      literal(s, token);
      drain();
      continue;
    }
    const run = token >>> 16;
    const distance = token & 0xffff;
    const code = <u32>load<u16>(s + LENGTH_CODE + (run << 1));
    literal(s, code);
    put(run - load<u16>(s + LENGTH_BASE + ((code - 257) << 1)), load<u8>(s + LENGTH_EXTRA + (code - 257)));
    drain();
    const far = distanceCode(s, distance);
    put(load<u16>(s + DISTANCE_CODES + (far << 1)), load<u8>(s + DISTANCE_LENGTHS + far));
    put(distance - load<u16>(s + DISTANCE_BASE + (far << 1)), load<u8>(s + DISTANCE_EXTRA + far));
    drain();
  }
  literal(s, 256);
  drain();
  return true;
}

function codes(s: usize): void {
  lengths(s + BUILD, s + LITERAL_COUNTS, LITERALS, MAX_BITS, s + LITERAL_LENGTHS);
  lengths(s + BUILD, s + DISTANCE_COUNTS, DISTANCES, MAX_BITS, s + DISTANCE_LENGTHS);
  let any: u32 = 0;
  for (let c = 0; c < DISTANCES; c++) any |= load<u32>(s + DISTANCE_COUNTS + (c << 2));
  if (any == 0) store<u8>(s + DISTANCE_LENGTHS, 1);
  canonical(s + BUILD, s + LITERAL_LENGTHS, LITERALS, s + LITERAL_CODES);
  canonical(s + BUILD, s + DISTANCE_LENGTHS, DISTANCES, s + DISTANCE_CODES);
}

// @ts-ignore: decorator
@inline
function order(i: i32): i32 {
  return i < 3 ? 16 + i : i == 3 ? 0 : i & 1 ? 8 - ((i - 3) >> 1) : 8 + ((i - 4) >> 1);
}

let runs: i32 = 0;
function say(s: usize, symbol: i32, extra: i32): void {
  store<u8>(s + SYMBOLS + runs, symbol);
  store<u8>(s + EXTRAS + runs, extra);
  runs++;
  bump(s + RUN_COUNTS + ((<usize>symbol) << 2));
}

function send(s: usize): void {
  let nLiterals = LITERALS;
  while (nLiterals > 257 && load<u8>(s + LITERAL_LENGTHS + (nLiterals - 1)) == 0) nLiterals--;
  let nDistances = DISTANCES;
  while (nDistances > 1 && load<u8>(s + DISTANCE_LENGTHS + (nDistances - 1)) == 0) nDistances--;
  memory.copy(s + ALL, s + LITERAL_LENGTHS, nLiterals);
  memory.copy(s + ALL + nLiterals, s + DISTANCE_LENGTHS, nDistances);
  const all = nLiterals + nDistances;
  runs = 0;
  memory.fill(s + RUN_COUNTS, 0, 80);
  for (let i = 0; i < all; ) {
    const value = <i32>load<u8>(s + ALL + i);
    let run = 1;
    while (i + run < all && load<u8>(s + ALL + (i + run)) == value) run++;
    i += run;
    if (value != 0) {
      say(s, value, 0);
      run--;
    }
    while (run >= 3) {
      const n = min(run, value != 0 ? 6 : 138);
      if (value != 0) say(s, 16, n - 3);
      else if (n <= 10) say(s, 17, n - 3);
      else say(s, 18, n - 11);
      run -= n;
    }
    while (run-- > 0) say(s, value, 0);
  }
  lengths(s + BUILD, s + RUN_COUNTS, 19, 7, s + RUN_LENGTHS);
  canonical(s + BUILD, s + RUN_LENGTHS, 19, s + RUN_CODES);
  let sent = 19;
  while (sent > 4 && load<u8>(s + RUN_LENGTHS + order(sent - 1)) == 0) sent--;
  put(4, 3);
  put(nLiterals - 257, 5);
  put(nDistances - 1, 5);
  put(sent - 4, 4);
  drain();
  for (let i = 0; i < sent; i++) {
    put(load<u8>(s + RUN_LENGTHS + order(i)), 3);
    drain();
  }
  for (let i = 0; i < runs; i++) {
    const symbol = <i32>load<u8>(s + SYMBOLS + i);
    put(load<u16>(s + RUN_CODES + (symbol << 1)), load<u8>(s + RUN_LENGTHS + symbol));
    if (symbol >= 16) put(load<u8>(s + EXTRAS + i), symbol == 16 ? 2 : symbol == 17 ? 3 : 7);
    drain();
  }
}
