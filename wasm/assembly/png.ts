// Row filters of PNG (specification, section 9) for pixels of one 16-bit sample. Twins: src/core/formats/png/filters.ts

/**
 * Undoes the filters of `rows` rows of `width` 16-bit pixels. `filtered` holds filter byte + row, each row after the
 * other; `rowAbove` the bytes of the row before; finished rows go to `out` as bytes, big-endian as stored.
 * Returns the first row whose filter byte is unknown, or -1.
 */
export function unfilter16(filtered: usize, out: usize, rowAbove: usize, width: i32, rows: i32): i32 {
  const n: usize = <usize>width * 2;
  let above = rowAbove;
  for (let r = 0; r < rows; r++) {
    const filter = load<u8>(filtered);
    const src = filtered + 1;
    if (filter == 4) {
      if (r + 4 <= rows && width >= 8 && load<u8>(src + n) == 4 && load<u8>(src + n + n + 1) == 4 && load<u8>(src + 3 * n + 2) == 4) {
        paethFour(src, out, above, n);
        r += 3;
        filtered += 4 * (n + 1);
        out += 4 * n;
        above = out - n;
        continue;
      }
      paeth(src, out, above, 0, n);
    } else if (filter == 1) sub(src, out, n);
    else if (filter == 2) up(src, out, above, n);
    else if (filter == 3) average(src, out, above, n);
    else if (filter == 0) memory.copy(out, src, n);
    else return r;
    above = out;
    out += n;
    filtered = src + n;
  }
  return -1;
}

/** Bytes `from` to `to` of a row, one pixel a turn: both bytes of a sample side by side, a chain from pixel to pixel. */
function paeth(src: usize, cur: usize, prev: usize, from: usize, to: usize): void {
  let a = i16x8.splat(0);
  let c = i16x8.splat(0);
  if (from > 0) {
    a = i16x8.extend_low_i8x16_u(v128.load16_splat(cur + from - 2));
    c = i16x8.extend_low_i8x16_u(v128.load16_splat(prev + from - 2));
  }
  for (let i = from; i < to; i += 2) {
    const b = i16x8.extend_low_i8x16_u(v128.load16_splat(prev + i));
    const r = i8x16.add(paethOf(a, b, c), v128.load16_splat(src + i));
    v128.store_lane<u16>(cur + i, r, 0);
    a = i16x8.extend_low_i8x16_u(r);
    c = b;
  }
}

/** The neighbour nearest to a + b − c for eight bytes in 16-bit lanes, narrowed to bytes 0–7. */
// @ts-ignore: decorator
@inline
function paethOf(a: v128, b: v128, c: v128): v128 {
  const dA = i16x8.sub(b, c);
  const dB = i16x8.sub(a, c);
  const pc = i16x8.abs(i16x8.add(dA, dB));
  const pa = i16x8.abs(dA);
  const pb = i16x8.abs(dB);
  const m = i16x8.min_s(pc, i16x8.min_s(pa, pb));
  const p = v128.bitselect(a, v128.bitselect(b, c, i16x8.eq(pb, m)), i16x8.eq(pa, m));
  return i8x16.narrow_i16x8_u(p, p);
}

/**
 * Four rows at once, each one pixel behind the row above it: what a row has just made is then what the next one has
 * above, and four chains share every instruction.
 */
function paethFour(src: usize, out: usize, above: usize, n: usize): void {
  const s1 = src + n + 1;
  const s2 = s1 + n + 1;
  const s3 = s2 + n + 1;
  const o1 = out + n;
  const o2 = o1 + n;
  const o3 = o2 + n;
  // the steps until all four rows are under way
  paeth(src, out, above, 0, 6);
  paeth(s1, o1, out, 0, 4);
  paeth(s2, o2, o1, 0, 2);
  // pixels just made: 2 of the first row, 1 of the second, 0 of the third, none of the fourth
  let a = four(out + 4, o1 + 2, o2, 0);
  let c = four(above + 4, out + 2, o1, 0);
  for (let i: usize = 6; i < n; i += 2) {
    const b = v128.shuffle<i16>(i16x8.extend_low_i8x16_u(v128.load16_splat(above + i)), a, 0, 1, 8, 9, 10, 11, 12, 13);
    let f = v128.load_zero<u32>(src + i);
    f = v128.load_lane<u16>(s1 + i - 2, f, 1);
    f = v128.load_lane<u16>(s2 + i - 4, f, 2);
    f = v128.load_lane<u16>(s3 + i - 6, f, 3);
    const r = i8x16.add(paethOf(a, b, c), f);
    v128.store_lane<u16>(out + i, r, 0);
    v128.store_lane<u16>(o1 + i - 2, r, 1);
    v128.store_lane<u16>(o2 + i - 4, r, 2);
    v128.store_lane<u16>(o3 + i - 6, r, 3);
    a = i16x8.extend_low_i8x16_u(r);
    c = b;
  }
  paeth(s1, o1, out, n - 2, n);
  paeth(s2, o2, o1, n - 4, n);
  paeth(s3, o3, o2, n - 6, n);
}

/** One pixel of each of four rows (0: none) in 16-bit lanes. */
function four(p0: usize, p1: usize, p2: usize, p3: usize): v128 {
  let v = v128.load_zero<u32>(p0);
  v = v128.load_lane<u16>(p1, v, 1);
  v = v128.load_lane<u16>(p2, v, 2);
  if (p3) v = v128.load_lane<u16>(p3, v, 3);
  else v = v128.replace_lane<u16>(v, 3, 0);
  return i16x8.extend_low_i8x16_u(v);
}

function sub(src: usize, cur: usize, n: usize): void {
  let a: u32 = 0;
  let b: u32 = 0;
  for (let i: usize = 0; i < n; i += 2) {
    a = (a + load<u8>(src + i)) & 255;
    b = (b + load<u8>(src + i + 1)) & 255;
    store<u8>(cur + i, a);
    store<u8>(cur + i + 1, b);
  }
}

function up(src: usize, cur: usize, prev: usize, n: usize): void {
  let i: usize = 0;
  for (; i + 16 <= n; i += 16) v128.store(cur + i, i8x16.add(v128.load(src + i), v128.load(prev + i)));
  for (; i < n; i++) store<u8>(cur + i, load<u8>(src + i) + load<u8>(prev + i));
}

function average(src: usize, cur: usize, prev: usize, n: usize): void {
  let a: u32 = 0;
  let b: u32 = 0;
  for (let i: usize = 0; i < n; i += 2) {
    a = (load<u8>(src + i) + ((a + load<u8>(prev + i)) >> 1)) & 255;
    b = (load<u8>(src + i + 1) + ((b + load<u8>(prev + i + 1)) >> 1)) & 255;
    store<u8>(cur + i, a);
    store<u8>(cur + i + 1, b);
  }
}

/** Exchanges the two bytes of each of `count` 16-bit samples. */
export function swap16(from: usize, to: usize, count: i32): void {
  const n: usize = <usize>count * 2;
  let i: usize = 0;
  for (; i + 16 <= n; i += 16) {
    const v = v128.load(from + i);
    v128.store(to + i, v128.or(i16x8.shl(v, 8), i16x8.shr_u(v, 8)));
  }
  for (; i < n; i += 2) store<u16>(to + i, bswap<u16>(load<u16>(from + i)));
}

/**
 * Filters `rows` rows of `width` 16-bit samples (machine order, little-endian) with sub, up or Paeth, whichever has the
 * least sum of absolute differences; ties go to Paeth, then up. `rowAbove` and `scratch` hold 16 + 2·width bytes each;
 * `rowAbove` starts with 16 zero bytes and then the row before, big-endian. Filter byte + row go to `out`.
 * On return `rowAbove` holds the last row.
 */
export function filter16(codes: usize, out: usize, rowAbove: usize, scratch: usize, width: i32, rows: i32): void {
  const n: usize = <usize>width * 2;
  let above = rowAbove;
  let row = scratch;
  v128.store(scratch, i64x2.splat(0));
  for (let r = 0; r < rows; r++) {
    swap16(codes, row + 16, width);
    codes += n;
    const filter = choose(row + 16, above + 16, n);
    store<u8>(out, filter);
    write(filter, row + 16, above + 16, out + 1, n);
    out += n + 1;
    const t = above;
    above = row;
    row = t;
  }
  if (above != rowAbove) memory.copy(rowAbove, above, n + 16);
}

/** |x| of a difference mod 256 taken as a signed byte, summed into 32-bit lanes. */
// @ts-ignore: decorator
@inline
function magnitude(sum: v128, difference: v128): v128 {
  // |-128| wraps to 0x80, which unsigned is the 128 that is meant
  return i32x4.add(sum, i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(i8x16.abs(difference))));
}

// @ts-ignore: decorator
@inline
function predict(a: v128, b: v128, c: v128): v128 {
  // |a − c| and |b − c| by saturating subtraction; |a + b − 2c| needs 16 bits
  const pb = v128.or(i8x16.sub_sat_u(a, c), i8x16.sub_sat_u(c, a));
  const pa = v128.or(i8x16.sub_sat_u(b, c), i8x16.sub_sat_u(c, b));
  const lo = i16x8.abs(i16x8.sub(i16x8.add(i16x8.extend_low_i8x16_u(a), i16x8.extend_low_i8x16_u(b)), i16x8.shl(i16x8.extend_low_i8x16_u(c), 1)));
  const hi = i16x8.abs(i16x8.sub(i16x8.add(i16x8.extend_high_i8x16_u(a), i16x8.extend_high_i8x16_u(b)), i16x8.shl(i16x8.extend_high_i8x16_u(c), 1)));
  // above 255 it is never the least: saturating is safe, since pa and pb are at most 255 and win ties
  const pc = i8x16.narrow_i16x8_u(lo, hi);
  const m = i8x16.min_u(pa, i8x16.min_u(pb, pc));
  return v128.bitselect(a, v128.bitselect(b, c, i8x16.eq(pb, m)), i8x16.eq(pa, m));
}

function choose(row: usize, above: usize, n: usize): u32 {
  let s = i32x4.splat(0);
  let u = i32x4.splat(0);
  let p = i32x4.splat(0);
  let i: usize = 0;
  for (; i + 16 <= n; i += 16) {
    const x = v128.load(row + i);
    const a = v128.load(row + i - 2);
    const b = v128.load(above + i);
    const c = v128.load(above + i - 2);
    s = magnitude(s, i8x16.sub(x, a));
    u = magnitude(u, i8x16.sub(x, b));
    p = magnitude(p, i8x16.sub(x, predict(a, b, c)));
  }
  let sub = total(s);
  let up = total(u);
  let pae = total(p);
  for (; i < n; i++) {
    const x: i32 = load<u8>(row + i);
    const a: i32 = load<u8>(row + i - 2);
    const b: i32 = load<u8>(above + i);
    const c: i32 = load<u8>(above + i - 2);
    sub += size(x - a);
    up += size(x - b);
    pae += size(x - predictOne(a, b, c));
  }
  return pae <= sub && pae <= up ? 4 : up <= sub ? 2 : 1;
}

// @ts-ignore: decorator
@inline
function total(v: v128): u32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3);
}

// @ts-ignore: decorator
@inline
function size(d: i32): u32 {
  const s = (d << 24) >> 24;
  return s < 0 ? -s : s;
}

// @ts-ignore: decorator
@inline
function predictOne(a: i32, b: i32, c: i32): i32 {
  const pa = abs(b - c);
  const pb = abs(a - c);
  const pc = abs(a + b - c - c);
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
}

function write(filter: u32, row: usize, above: usize, out: usize, n: usize): void {
  let i: usize = 0;
  if (filter == 4) {
    for (; i + 16 <= n; i += 16) v128.store(out + i, i8x16.sub(v128.load(row + i), predict(v128.load(row + i - 2), v128.load(above + i), v128.load(above + i - 2))));
    for (; i < n; i++) store<u8>(out + i, load<u8>(row + i) - predictOne(load<u8>(row + i - 2), load<u8>(above + i), load<u8>(above + i - 2)));
    return;
  }
  const from = filter == 2 ? above : row - 2;
  for (; i + 16 <= n; i += 16) v128.store(out + i, i8x16.sub(v128.load(row + i), v128.load(from + i)));
  for (; i < n; i++) store<u8>(out + i, load<u8>(row + i) - load<u8>(from + i));
}
