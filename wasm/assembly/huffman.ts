// Prefix codes for deflate: lengths from counts, codes from lengths. Twin: src/core/formats/deflate/deflate.ts.
// `s` is where they may work.

export const MAX_BITS: i32 = 15;

const KEYS: usize = 0; // u64 × 288
const WEIGHT: usize = KEYS + 2304; // u64 × 576
const PARENT: usize = WEIGHT + 4608; // i32 × 576
const DEPTH: usize = PARENT + 2304; // i32 × 576
const PER_LENGTH: usize = DEPTH + 2304; // i32 × 20
const NEXT: usize = PER_LENGTH + 80; // u16 × 20
export const HUFFMAN_ROOM: usize = NEXT + 40;

// @ts-ignore: decorator
@inline
export function bump(at: usize): void {
  store<u32>(at, load<u32>(at) + 1);
}

/**
 * Code lengths of `n` symbols, at most `limit` bits, from how often each occurs (u32 at `counts`), one byte each at `to`.
 * Lengths beyond the limit are shortened until the code fits (Kraft), and what is left over is given back.
 */
export function lengths(s: usize, counts: usize, n: i32, limit: i32, to: usize): void {
  memory.fill(to, 0, n);
  let used = 0;
  for (let i = 0; i < n; i++) {
    const f = <u64>load<u32>(counts + (i << 2));
    if (f == 0) continue;
    // sorted as it comes, by frequency and then by symbol
    const key = f * 512 + <u64>i;
    let at = used++;
    while (at > 0 && load<u64>(s + KEYS + ((<usize>(at - 1)) << 3)) > key) {
      store<u64>(s + KEYS + ((<usize>at) << 3), load<u64>(s + KEYS + ((<usize>(at - 1)) << 3)));
      at--;
    }
    store<u64>(s + KEYS + ((<usize>at) << 3), key);
  }
  if (used == 0) return;
  if (used == 1) {
    store<u8>(to + <usize>(load<u64>(s + KEYS) & 511), 1);
    return;
  }
  const nodes = 2 * used - 1;
  for (let i = 0; i < used; i++) store<u64>(s + WEIGHT + ((<usize>i) << 3), load<u64>(s + KEYS + ((<usize>i) << 3)) >> 9);
  let leaf = 0;
  let inner = used;
  for (let next = used; next < nodes; next++) {
    let sum: u64 = 0;
    for (let k = 0; k < 2; k++) {
      const takeLeaf = leaf < used && (inner >= next || load<u64>(s + WEIGHT + ((<usize>leaf) << 3)) <= load<u64>(s + WEIGHT + ((<usize>inner) << 3)));
      const chosen = takeLeaf ? leaf++ : inner++;
      sum += load<u64>(s + WEIGHT + ((<usize>chosen) << 3));
      store<i32>(s + PARENT + ((<usize>chosen) << 2), next);
    }
    store<u64>(s + WEIGHT + ((<usize>next) << 3), sum);
  }
  memory.fill(s + PER_LENGTH, 0, 80);
  store<i32>(s + DEPTH + ((<usize>(nodes - 1)) << 2), 0);
  for (let i = nodes - 2; i >= 0; i--) {
    const depth = load<i32>(s + DEPTH + ((<usize>load<i32>(s + PARENT + ((<usize>i) << 2))) << 2)) + 1;
    store<i32>(s + DEPTH + ((<usize>i) << 2), depth);
    if (i < used) bump(s + PER_LENGTH + ((<usize>min(limit, depth)) << 2));
  }
  let kraft: i64 = 0;
  const full: i64 = 1 << limit;
  for (let l = 1; l <= limit; l++) kraft += <i64>load<i32>(s + PER_LENGTH + (l << 2)) << (limit - l);
  while (kraft > full) {
    let l = limit - 1;
    while (load<i32>(s + PER_LENGTH + (l << 2)) == 0) l--;
    move(s, l, l + 1);
    kraft -= <i64>1 << (limit - l - 1);
  }
  for (let l = limit; l > 1; l--) {
    const one = <i64>1 << (limit - l);
    while (load<i32>(s + PER_LENGTH + (l << 2)) > 0 && kraft + one <= full) {
      move(s, l, l - 1);
      kraft += one;
    }
  }
  let at = 0;
  for (let l = limit; l >= 1; l--)
    for (let k = load<i32>(s + PER_LENGTH + (l << 2)); k > 0; k--) {
      store<u8>(to + <usize>(load<u64>(s + KEYS + ((<usize>at) << 3)) & 511), l);
      at++;
    }
}

// @ts-ignore: decorator
@inline
function move(s: usize, from: i32, to: i32): void {
  const a = s + PER_LENGTH + (from << 2);
  const b = s + PER_LENGTH + (to << 2);
  store<i32>(a, load<i32>(a) - 1);
  store<i32>(b, load<i32>(b) + 1);
}

/** The codes of such lengths in the order of the format (RFC 1951, 3.2.2), bits reversed, u16 each at `to`. */
export function canonical(s: usize, from: usize, n: i32, to: usize): void {
  memory.fill(s + PER_LENGTH, 0, 80);
  for (let i = 0; i < n; i++) bump(s + PER_LENGTH + ((<usize>load<u8>(from + i)) << 2));
  store<i32>(s + PER_LENGTH, 0);
  let code = 0;
  for (let l = 1; l <= MAX_BITS; l++) {
    code = (code + load<i32>(s + PER_LENGTH + ((l - 1) << 2))) << 1;
    store<u16>(s + NEXT + (l << 1), code);
  }
  for (let i = 0; i < n; i++) {
    const l = <i32>load<u8>(from + i);
    if (l == 0) continue;
    let value = <u32>load<u16>(s + NEXT + (l << 1));
    store<u16>(s + NEXT + (l << 1), value + 1);
    let reversed: u32 = 0;
    for (let k = 0; k < l; k++) {
      reversed = (reversed << 1) | (value & 1);
      value >>= 1;
    }
    store<u16>(to + (i << 1), reversed);
  }
}
