// Statistics of floats of 32 bits. Twins: src/core/raster/statistics.ts and distinct.ts.

/** What `foldFloats` leaves in `state`, f64 each. */
const LOWEST: usize = 0;
const HIGHEST: usize = 8;
const SUM: usize = 16;
const VOIDS: usize = 24;
/** Different patterns so far, i32. */
const HELD: usize = 32;

/** Exponent of a float that has no value; in a table of patterns it stands for an empty place. */
const NO_VALUE: i32 = 0x7f800000;

/** Lowest, highest and sum of `count` floats that have a value, and how many have none. Two go together, as in the twin. */
export function foldFloats(data: usize, count: i32, state: usize): void {
  const none = f64x2.splat(0);
  const above = f64x2.splat(Infinity);
  const below = f64x2.splat(-Infinity);
  let low = above;
  let high = below;
  let sum = none;
  let valid = 0;
  for (let i = 0; i < count; i += 2) {
    const place = data + (<usize>i << 2);
    const v = f64x2.promote_low_f32x4(i + 1 < count ? v128.load64_zero(place) : v128.load32_zero(place));
    let there = f64x2.eq(f64x2.sub(v, v), none);
    if (i + 1 == count) there = v128.and(there, i64x2(-1, 0));
    low = f64x2.pmin(low, v128.bitselect(v, above, there));
    high = f64x2.pmax(high, v128.bitselect(v, below, there));
    sum = f64x2.add(sum, v128.and(v, there));
    valid += popcnt(i64x2.bitmask(there));
  }
  store<f64>(state, Math.min(f64x2.extract_lane(low, 0), f64x2.extract_lane(low, 1)), LOWEST);
  store<f64>(state, Math.max(f64x2.extract_lane(high, 0), f64x2.extract_lane(high, 1)), HIGHEST);
  store<f64>(state, f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1), SUM);
  store<f64>(state, <f64>(count - valid), VOIDS);
}

/**
 * Puts the patterns of `count` floats into a table of 2^bits places: groups of four, one of which a pattern hashes to;
 * where that is full, the next ones. A group is compared at once, so that the first look nearly always ends the search.
 * Ends before the next one as soon as `most` are held; returns how many floats were looked at. −0 and 0 are one.
 */
export function addPatterns(data: usize, count: i32, table: usize, bits: i32, most: i32, state: usize): i32 {
  const mask: usize = ((<usize>1 << bits) - 1) << 2;
  const shift = 32 - (bits - 2);
  const none = i32x4.splat(NO_VALUE);
  let held = load<i32>(state, HELD);
  let i = 0;
  for (; i < count && held < most; i++) {
    let pattern = load<i32>(data + (<usize>i << 2));
    if ((pattern & NO_VALUE) == NO_VALUE) continue;
    if (pattern == i32.MIN_VALUE) pattern = 0;
    const wanted = i32x4.splat(pattern);
    let at = <usize>(<u32>(pattern * <i32>0x9e3779b1) >>> shift) << 4;
    for (;;) {
      const group = v128.load(table + at);
      if (v128.any_true(i32x4.eq(group, wanted))) break;
      const free = i32x4.bitmask(i32x4.eq(group, none));
      if (free) {
        store<i32>(table + at + (<usize>ctz(free) << 2), pattern);
        held++;
        break;
      }
      at = (at + 16) & mask;
    }
  }
  store<i32>(state, held, HELD);
  return i;
}

/** `count` floats less `datum`, in place; those that have no value become NaN. Up to 12 bytes behind the last are written. */
export function floatsAbove(data: usize, count: i32, datum: f64): void {
  const off = f64x2.splat(datum);
  const none = f32x4.splat(0);
  const nan = f32x4.splat(NaN);
  for (const end = data + (<usize>count << 2); data < end; data += 16) {
    const v = v128.load(data);
    const low = f32x4.demote_f64x2_zero(f64x2.sub(f64x2.promote_low_f32x4(v), off));
    const high = f32x4.demote_f64x2_zero(f64x2.sub(f64x2.promote_low_f32x4(v128.shuffle<i64>(v, v, 1, 1)), off));
    const h = v128.shuffle<i64>(low, high, 0, 2);
    v128.store(data, v128.bitselect(h, nan, f32x4.eq(f32x4.sub(h, h), none)));
  }
}
