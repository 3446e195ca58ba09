// Twins: src/core/formats/png/crc.ts, src/core/formats/deflate/adler.ts

/** Fills sixteen tables of 256 u32 at `tables` (slicing-by-16). */
export function crcTables(tables: usize): void {
  for (let n: u32 = 0; n < 256; n++) {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    store<u32>(tables + ((<usize>n) << 2), c);
  }
  for (let t: usize = 1; t < 16; t++)
    for (let n: usize = 0; n < 256; n++) {
      const c = load<u32>(tables + (t - 1) * 1024 + (n << 2));
      store<u32>(tables + t * 1024 + (n << 2), load<u32>(tables + ((c & 255) << 2)) ^ (c >>> 8));
    }
}

/** What four bytes add that lie `behind` tables before the end of a turn. */
// @ts-ignore: decorator
@inline
function four(word: u32, tables: usize): u32 {
  return (
    load<u32>(tables + ((word & 255) << 2), 3072) ^ load<u32>(tables + (((word >>> 8) & 255) << 2), 2048) ^
    load<u32>(tables + (((word >>> 16) & 255) << 2), 1024) ^ load<u32>(tables + ((word >>> 24) << 2))
  );
}

/*
 * 1 + x^(128·89) + x^(128·117) + x^(128·155) + x^(128·300) is a multiple of the polynomial of CRC-32, so a block of 16
 * bytes can be taken out of a message if it is added to those 145, 183, 211 and 300 blocks behind it: the remainder stays
 * (S. Russell, "Chorba: a novel CRC32 implementation", 2024; this multiple was searched for whole vectors).
 */
const A: usize = 145 << 4;
const B: usize = 183 << 4;
const C: usize = 211 << 4;
const D: usize = 300 << 4;
/** Below this the tables alone are as quick. */
const LEAST: i32 = 2 * 4800;

// @ts-ignore: decorator
@inline
function add(p: usize, offset: usize): v128 {
  return v128.xor(v128.load(p), v128.load(p - offset));
}

/** CRC-32 of bytes that follow others whose CRC was `before`. The bytes are used up. */
export function crc32(bytes: usize, count: i32, before: u32, tables: usize): u32 {
  let c = ~before;
  if (count >= LEAST) {
    // what was there before belongs to the first four bytes
    store<u32>(bytes, load<u32>(bytes) ^ c);
    c = 0;
    // every block takes up the blocks before it that are taken out, as far as there are any; the last ones stay
    const rest = bytes + (<usize>(count & ~15) - D);
    let p = bytes + A;
    for (; p < bytes + B; p += 16) v128.store(p, add(p, A));
    for (; p < bytes + C; p += 16) v128.store(p, v128.xor(add(p, A), v128.load(p - B)));
    for (; p < bytes + D; p += 16) v128.store(p, v128.xor(v128.xor(add(p, A), v128.load(p - B)), v128.load(p - C)));
    for (; p < rest; p += 16) v128.store(p, v128.xor(v128.xor(add(p, A), v128.load(p - B)), v128.xor(v128.load(p - C), v128.load(p - D))));
    for (p = rest; p < rest + A; p += 16) v128.store(p, add(p, A));
    for (p = rest; p < rest + B; p += 16) v128.store(p, add(p, B));
    for (p = rest; p < rest + C; p += 16) v128.store(p, add(p, C));
    for (p = rest; p < rest + D; p += 16) v128.store(p, add(p, D));
    count -= <i32>(rest - bytes);
    bytes = rest;
  }
  const end = bytes + <usize>count;
  while (bytes + 16 <= end) {
    c =
      four(load<u32>(bytes) ^ c, tables + 12288) ^ (four(load<u32>(bytes, 4), tables + 8192) ^
      (four(load<u32>(bytes, 8), tables + 4096) ^ four(load<u32>(bytes, 12), tables)));
    bytes += 16;
  }
  for (; bytes < end; bytes++) c = load<u32>(tables + (((c ^ load<u8>(bytes)) & 255) << 2)) ^ (c >>> 8);
  return ~c;
}

export function adler32(bytes: usize, count: i32, before: u32): u32 {
  let a: u32 = before & 0xffff;
  let b: u32 = before >>> 16;
  const zero = i32x4.splat(0);
  // weights of 16 bytes: 16·a + Σ (16 − i)·byte
  const wLow = i16x8(16, 15, 14, 13, 12, 11, 10, 9);
  const wHigh = i16x8(8, 7, 6, 5, 4, 3, 2, 1);
  let left = count;
  while (left > 0) {
    let n = min(left, 5552);
    left -= n;
    const turns = <u32>n >> 4;
    n &= 15;
    let sums = zero;
    let before = zero;
    let weighted = zero;
    for (let t: u32 = 0; t < turns; t++) {
      const v = v128.load(bytes);
      // what stood in `a` before this turn counts sixteen times in `b`
      before = i32x4.add(before, sums);
      sums = i32x4.add(sums, i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(v)));
      weighted = i32x4.add(weighted, i32x4.add(i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(v), wLow), i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(v), wHigh)));
      bytes += 16;
    }
    b += 16 * (turns * a + total(before)) + total(weighted);
    a += total(sums);
    for (; n > 0; n--) {
      a += load<u8>(bytes++);
      b += a;
    }
    a %= 65521;
    b %= 65521;
  }
  return (b << 16) | a;
}

function total(v: v128): u32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3);
}
