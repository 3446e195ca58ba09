// What proving compares, row by row, and the ground that it works out a second time. Twins: src/core/proof/compare-row.ts,
// ground-error.ts and twin/whole.ts. It shares nothing with the kernels that write, so that a slip there can't hide here. Two samples go together; each has its sums, as in the twins.

/** What a comparison of one row leaves in `state`, f64 each; of the row alone. */
const MAX: usize = 0;
const SUM: usize = 8;
const SQUARES: usize = 16;
const COUNT: usize = 24;
/** Of this row, samples clipped at either end. */
const LOW: usize = 32;
const HIGH: usize = 40;
/** Five sums for a line through truth and what is shown, carried on from row to row. */
const LINE: usize = 48;

/** Samples between those that are fed to the line. */
const LINE_EVERY: i32 = 8;

// @ts-ignore: decorator
@inline
function storeRow(state: usize, max: v128, sum: v128, squares: v128, count: i32): void {
  store<f64>(state, Math.max(f64x2.extract_lane(max, 0), f64x2.extract_lane(max, 1)), MAX);
  store<f64>(state, f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1), SUM);
  store<f64>(state, f64x2.extract_lane(squares, 0) + f64x2.extract_lane(squares, 1), SQUARES);
  store<f64>(state, <f64>count, COUNT);
}

/** A cell of a map keeps the largest error that falls into it, with its sign; of two as large the first. */
// @ts-ignore: decorator
@inline
function mark(cell: usize, error: f32): void {
  if (abs<f32>(error) > abs<f32>(load<f32>(cell))) store<f32>(cell, error);
}

/** The same for two samples, whose cells are mostly one. */
// @ts-ignore: decorator
@inline
function markBoth(cells: usize, first: i32, second: i32, errors: v128): void {
  const a = cells + (<usize>first << 2);
  const e0 = <f32>f64x2.extract_lane(errors, 0);
  const e1 = <f32>f64x2.extract_lane(errors, 1);
  if (first == second) mark(a, abs<f32>(e1) > abs<f32>(e0) ? e1 : e0);
  else {
    mark(a, e0);
    mark(cells + (<usize>second << 2), e1);
  }
}

/**
 * Codes of one row against the fitted ground (`truth = ground · unit + shift`); `table` holds what a target makes of
 * each code (f64). A code at either end whose truth lies below `lowest` or from `highest` on is clipped, not wrong.
 * `columns` holds the cell of each sample within its row of the map, which begins at `cells`; 0: no map.
 */
export function compareCodes(codes: usize, ground: usize, width: i32, table: usize, unit: f64, shift: f64, lowest: f64, highest: f64, columns: usize, cells: usize, state: usize): void {
  const units = f64x2.splat(unit);
  const shifts = f64x2.splat(shift);
  let max = f64x2.splat(0);
  let sum = f64x2.splat(0);
  let squares = f64x2.splat(0);
  let count = 0;
  let low = 0;
  let high = 0;
  let n = load<f64>(state, LINE);
  let t = load<f64>(state, LINE + 8);
  let s = load<f64>(state, LINE + 16);
  let tt = load<f64>(state, LINE + 24);
  let ts = load<f64>(state, LINE + 32);
  for (let x = 0; x < width; x += 2) {
    const samples = f64x2.promote_low_f32x4(v128.load64_zero(ground + (<usize>x << 2)));
    const expected = f64x2.add(f64x2.mul(samples, units), shifts);
    const both = load<u32>(codes + (<usize>x << 1));
    const c0 = both & 0xffff;
    const c1 = both >> 16;
    const shown = v128.load64_lane(table + (<usize>c1 << 3), v128.load64_zero(table + (<usize>c0 << 3)), 1);
    let signed = f64x2.sub(shown, expected);
    let counted = f64x2.eq(samples, samples);
    if (x + 1 == width) counted = v128.and(counted, i64x2(-1, 0));
    // 0 and 65535, each in either half
    if (((c0 + 1) & 0xffff) < 2 || ((c1 + 1) & 0xffff) < 2) {
      const ends0 = i64x2.extract_lane(counted, 0) ? clipped(c0, f64x2.extract_lane(expected, 0), lowest, highest) : 0;
      const ends1 = i64x2.extract_lane(counted, 1) ? clipped(c1, f64x2.extract_lane(expected, 1), lowest, highest) : 0;
      low += (ends0 & 1) + (ends1 & 1);
      high += (ends0 >> 1) + (ends1 >> 1);
      counted = v128.and(counted, i64x2.replace_lane(i64x2.splat(ends0 ? 0 : -1), 1, ends1 ? 0 : -1));
    }
    signed = v128.and(signed, counted);
    const errors = f64x2.abs(signed);
    max = f64x2.pmax(max, errors);
    sum = f64x2.add(sum, errors);
    squares = f64x2.add(squares, f64x2.mul(errors, errors));
    const lanes = i64x2.bitmask(counted);
    count += popcnt(lanes);
    if (x % LINE_EVERY == 0 && lanes & 1) {
      const truth = f64x2.extract_lane(expected, 0);
      const height = f64x2.extract_lane(shown, 0);
      n += 1;
      t += truth;
      s += height;
      tt += truth * truth;
      ts += truth * height;
    }
    if (columns) {
      const place = columns + (<usize>x << 2);
      const first = load<i32>(place);
      markBoth(cells, first, x + 1 < width ? load<i32>(place, 4) : first, signed);
    }
  }
  storeRow(state, max, sum, squares, count);
  store<f64>(state, <f64>low, LOW);
  store<f64>(state, <f64>high, HIGH);
  store<f64>(state, n, LINE);
  store<f64>(state, t, LINE + 8);
  store<f64>(state, s, LINE + 16);
  store<f64>(state, tt, LINE + 24);
  store<f64>(state, ts, LINE + 32);
}

/** 1: clipped at the low end, 2: at the high end, 0: not clipped. */
// @ts-ignore: decorator
@inline
function clipped(code: u32, expected: f64, lowest: f64, highest: f64): i32 {
  if (code == 0 && expected < lowest) return 1;
  return code == 65535 && expected >= highest ? 2 : 0;
}

/** `count` codes as heights above the datum; up to 12 bytes behind the last are written. */
export function heightsOf16(codes: usize, to: usize, count: i32, datum: f32): void {
  const off = f32x4.splat(datum);
  for (const end = codes + (<usize>count << 1); codes < end; codes += 8, to += 16)
    v128.store(to, f32x4.sub(f32x4.convert_i32x4_u(v128.load16x4_u(codes)), off));
}

/**
 * One row of the source against the fitted ground between two of its rows: for samples from..to−1 the vertex to their
 * left (`left`, i32) and their share of the way to the next (`shares`, f64); `share` of the way from the upper row to
 * the lower. Map as above, by the vertex to the left.
 */
export function compareGround(source: usize, upper: usize, lower: usize, left: usize, shares: usize, from: i32, to: i32, share: f64, unit: f64, columns: usize, cells: usize, state: usize): void {
  const down = f64x2.splat(share);
  const units = f64x2.splat(unit);
  let max = f64x2.splat(0);
  let sum = f64x2.splat(0);
  let squares = f64x2.splat(0);
  let count = 0;
  for (let x = from; x < to; x += 2) {
    const places = left + (<usize>x << 2);
    const l0 = load<i32>(places);
    const l1 = x + 1 < to ? load<i32>(places, 4) : l0;
    const along = v128.load(shares + (<usize>x << 3));
    const a = between(upper, l0, l1, along);
    const b = between(lower, l0, l1, along);
    const height = f64x2.add(a, f64x2.mul(f64x2.sub(b, a), down));
    const samples = f64x2.promote_low_f32x4(v128.load64_zero(source + (<usize>x << 2)));
    let signed = f64x2.mul(f64x2.sub(height, samples), units);
    let counted = f64x2.eq(signed, signed);
    if (x + 1 == to) counted = v128.and(counted, i64x2(-1, 0));
    signed = v128.and(signed, counted);
    const errors = f64x2.abs(signed);
    max = f64x2.pmax(max, errors);
    sum = f64x2.add(sum, errors);
    squares = f64x2.add(squares, f64x2.mul(errors, errors));
    count += popcnt(i64x2.bitmask(counted));
    if (columns) {
      const first = load<i32>(columns + (<usize>l0 << 2));
      markBoth(cells, first, load<i32>(columns + (<usize>l1 << 2)), signed);
    }
  }
  storeRow(state, max, sum, squares, count);
}

/** Heights of a row between vertices l and l + 1, for two samples. */
// @ts-ignore: decorator
@inline
function between(row: usize, l0: i32, l1: i32, along: v128): v128 {
  const p = f64x2.promote_low_f32x4(v128.load64_zero(row + (<usize>l0 << 2)));
  const q = f64x2.promote_low_f32x4(v128.load64_zero(row + (<usize>l1 << 2)));
  const first = v128.shuffle<f64>(p, q, 0, 2);
  return f64x2.add(first, f64x2.mul(f64x2.sub(v128.shuffle<f64>(p, q, 1, 3), first), along));
}

/**
 * Weighs one row of the source across: vertex i is the sum of `shares` from `start[i]` on (f64; up to `start[i + 1]`)
 * times the samples from column `first[i] − from` on; `samples` (f64) are `count`, all of them heights. `sums` get the
 * weighted samples and `weights` the shares that met one, which is 1 where all did.
 */
export function weighRow(samples: usize, count: i32, from: i32, first: usize, start: usize, shares: usize, vertices: i32, sums: usize, weights: usize): void {
  for (let i = 0; i < vertices; i++) {
    const at: usize = <usize>i << 2;
    const begin = load<i32>(start + at);
    const taps = load<i32>(start + at, 4) - begin;
    const column = load<i32>(first + at) - from;
    const low = max(0, -column);
    const high = min(taps, count - column);
    let ab = f64x2.splat(0);
    let cd = f64x2.splat(0);
    let share = shares + (<usize>(begin + low) << 3);
    let sample = samples + (<usize>(column + low) << 3);
    let k = low;
    for (; k + 3 < high; k += 4) {
      ab = f64x2.add(ab, f64x2.mul(v128.load(share), v128.load(sample)));
      cd = f64x2.add(cd, f64x2.mul(v128.load(share, 16), v128.load(sample, 16)));
      share += 32;
      sample += 32;
    }
    let a = f64x2.extract_lane(ab, 0);
    for (; k < high; k++) {
      a += load<f64>(share) * load<f64>(sample);
      share += 8;
      sample += 8;
    }
    store<f64>(sums + (<usize>i << 3), a + f64x2.extract_lane(ab, 1) + f64x2.extract_lane(cd, 0) + f64x2.extract_lane(cd, 1));
    let weight: f64 = taps > 0 ? 1 : 0;
    if (low > 0 || high < taps) {
      weight = 0;
      for (let t = low; t < high; t++) weight += load<f64>(shares + (<usize>(begin + t) << 3));
    }
    store<f64>(weights + (<usize>i << 3), weight);
  }
}

/** `into[i] += share · row[i]` for `count` doubles. */
export function addShare(into: usize, row: usize, share: f64, count: i32): void {
  const shares = f64x2.splat(share);
  let i = 0;
  for (; i + 2 <= count; i += 2) {
    v128.store(into, f64x2.add(v128.load(into), f64x2.mul(shares, v128.load(row))));
    into += 16;
    row += 16;
  }
  if (i < count) store<f64>(into, load<f64>(into) + share * load<f64>(row));
}

/** `count` codes as doubles; up to 24 bytes behind the last are written. */
export function doublesOfCodes(codes: usize, to: usize, count: i32): void {
  for (const end = codes + (<usize>count << 1); codes < end; codes += 8, to += 32) {
    const four = v128.load16x4_u(codes);
    v128.store(to, f64x2.convert_low_i32x4_u(four));
    v128.store(to, f64x2.convert_low_i32x4_u(v128.shuffle<i64>(four, four, 1, 1)), 16);
  }
}

/** `count` floats as doubles; up to 8 bytes behind the last are written. */
export function doublesOfFloats(floats: usize, to: usize, count: i32): void {
  for (const end = floats + (<usize>count << 2); floats < end; floats += 8, to += 16)
    v128.store(to, f64x2.promote_low_f32x4(v128.load64_zero(floats)));
}

/** Lowest and highest of `count` codes, at least one, to `out` (u32 each). */
export function endsOfCodes(codes: usize, count: i32, out: usize): void {
  let lows = i16x8.splat(-1);
  let highs = i16x8.splat(0);
  let low: u32 = 0xffff;
  let high: u32 = 0;
  const end = codes + (<usize>count << 1);
  for (; codes + 16 <= end; codes += 16) {
    const eight = v128.load(codes);
    lows = i16x8.min_u(lows, eight);
    highs = i16x8.max_u(highs, eight);
  }
  v128.store(out, lows);
  v128.store(out, highs, 16);
  for (let k: usize = 0; k < 16; k += 2) {
    low = min(low, <u32>load<u16>(out + k));
    high = max(high, <u32>load<u16>(out + k, 16));
  }
  for (; codes < end; codes += 2) {
    low = min(low, <u32>load<u16>(codes));
    high = max(high, <u32>load<u16>(codes));
  }
  store<u32>(out, low);
  store<u32>(out, high, 4);
}

/** Lowest and highest of `count` floats that have a value (±∞ where none has), and how many have none: to `out`, f32, f32, u32. */
export function endsOfFloats(floats: usize, count: i32, out: usize): void {
  let low: f32 = Infinity;
  let high: f32 = -Infinity;
  let voids: u32 = 0;
  let lows = f32x4.splat(Infinity);
  let highs = f32x4.splat(-Infinity);
  const none = f32x4.splat(0);
  const end = floats + (<usize>count << 2);
  for (; floats + 16 <= end; floats += 16) {
    const four = v128.load(floats);
    const there = f32x4.eq(f32x4.sub(four, four), none);
    lows = f32x4.pmin(lows, v128.bitselect(four, lows, there));
    highs = f32x4.pmax(highs, v128.bitselect(four, highs, there));
    voids += 4 - popcnt(i32x4.bitmask(there));
  }
  v128.store(out, lows);
  v128.store(out, highs, 16);
  for (let k: usize = 0; k < 16; k += 4) {
    low = min(low, load<f32>(out + k));
    high = max(high, load<f32>(out + k, 16));
  }
  for (; floats < end; floats += 4) {
    const value = load<f32>(floats);
    if (value - value != 0) voids++;
    else {
      low = min(low, value);
      high = max(high, value);
    }
  }
  store<f32>(out, low);
  store<f32>(out, high, 4);
  store<u32>(out, voids, 8);
}
