// Resampling passes in double precision and around voids. Twins: rowPassAround and columnPassAround of
// src/core/raster/passes.ts, tap after tap in the same order.

/**
 * Turns `count` rows (at most eight) of `width` samples into groups of eight Float64: for every x the samples of rows
 * 0 to 7, `stride` bytes apart; the last row stands in for those that are missing. `datum`, a whole number, is taken
 * off codes. Returns 1 where a sample is a void.
 */
export function interleaveCodes64(rows: usize, stride: i32, count: i32, to: usize, width: i32, datum: f64): i32 {
  return interleave<u16>(rows, stride, count, to, width, datum);
}

export function interleaveHeights64(rows: usize, stride: i32, count: i32, to: usize, width: i32): i32 {
  return interleave<f32>(rows, stride, count, to, width, 0);
}

function interleave<T>(rows: usize, stride: i32, count: i32, to: usize, width: i32, datum: f64): i32 {
  const size: usize = sizeof<T>();
  let voids = 0;
  for (let r = 0; r < 8; r++) {
    let from = rows + <usize>(min(r, count - 1) * stride);
    let at = to + (<usize>r << 3);
    for (let x = 0; x < width; x++) {
      const value = <f64>load<T>(from) - datum;
      voids |= <i32>(value != value);
      store<f64>(at, value);
      from += size;
      at += 64;
    }
  }
  return voids;
}

/**
 * Row pass of eight interleaved rows without voids: `out[i] = Σ weight[i][k] · line[first[i] + k]`, k upwards, for each
 * of them. `outs` holds the addresses of eight rows of Float64.
 */
export function rowPass64(outs: usize, line: usize, first: usize, weights: usize, taps: i32, width: i32): void {
  const row: usize = <usize>taps << 3;
  for (let i = 0; i < width; i++) {
    let p = line + ((<usize>load<i32>(first + (<usize>i << 2))) << 6);
    let a = f64x2.splat(0);
    let b = f64x2.splat(0);
    let c = f64x2.splat(0);
    let d = f64x2.splat(0);
    for (const end = weights + row; weights < end; weights += 8) {
      const w = v128.load64_splat(weights);
      a = f64x2.add(a, f64x2.mul(w, v128.load(p)));
      b = f64x2.add(b, f64x2.mul(w, v128.load(p, 16)));
      c = f64x2.add(c, f64x2.mul(w, v128.load(p, 32)));
      d = f64x2.add(d, f64x2.mul(w, v128.load(p, 48)));
      p += 64;
    }
    pair(outs, i, a);
    pair(outs + 8, i, b);
    pair(outs + 16, i, c);
    pair(outs + 24, i, d);
  }
}

/**
 * The same around voids: sums of what is there, and behind them, `plane` bytes on in each row, the weight of what is
 * there.
 */
export function rowPassAround64(outs: usize, line: usize, first: usize, weights: usize, taps: i32, width: i32, plane: i32): void {
  const row: usize = <usize>taps << 3;
  for (let i = 0; i < width; i++) {
    let p = line + ((<usize>load<i32>(first + (<usize>i << 2))) << 6);
    let a = f64x2.splat(0);
    let b = f64x2.splat(0);
    let c = f64x2.splat(0);
    let d = f64x2.splat(0);
    let aw = f64x2.splat(0);
    let bw = f64x2.splat(0);
    let cw = f64x2.splat(0);
    let dw = f64x2.splat(0);
    for (const end = weights + row; weights < end; weights += 8) {
      const w = v128.load64_splat(weights);
      // a void adds +0, which changes no sum that began at +0
      let v = v128.load(p);
      let there = f64x2.eq(v, v);
      a = f64x2.add(a, v128.and(f64x2.mul(w, v), there));
      aw = f64x2.add(aw, v128.and(w, there));
      v = v128.load(p, 16);
      there = f64x2.eq(v, v);
      b = f64x2.add(b, v128.and(f64x2.mul(w, v), there));
      bw = f64x2.add(bw, v128.and(w, there));
      v = v128.load(p, 32);
      there = f64x2.eq(v, v);
      c = f64x2.add(c, v128.and(f64x2.mul(w, v), there));
      cw = f64x2.add(cw, v128.and(w, there));
      v = v128.load(p, 48);
      there = f64x2.eq(v, v);
      d = f64x2.add(d, v128.and(f64x2.mul(w, v), there));
      dw = f64x2.add(dw, v128.and(w, there));
      p += 64;
    }
    const behind = i + (plane >> 3);
    pair(outs, i, a);
    pair(outs, behind, aw);
    pair(outs + 8, i, b);
    pair(outs + 8, behind, bw);
    pair(outs + 16, i, c);
    pair(outs + 16, behind, cw);
    pair(outs + 24, i, d);
    pair(outs + 24, behind, dw);
  }
}

/** Output `i` of two rows. */
// @ts-ignore: decorator
@inline
function pair(outs: usize, i: i32, values: v128): void {
  const at: usize = <usize>i << 3;
  v128.store_lane<f64>(<usize>load<u32>(outs) + at, values, 0);
  v128.store_lane<f64>(<usize>load<u32>(outs, 4) + at, values, 1);
}

/**
 * Column pass of such rows, a ring of `ringRows` from row `start` on: `out[x] = Σ w·sum / Σ w·weight`, k upwards,
 * rounded to Float32 and held within low..high; NaN where the weight is less than `least`. Rows lie `stride` bytes
 * apart, each of two planes of `plane` bytes, a multiple of 32. Writes whole groups of four.
 */
export function columnPass64(out: usize, ring: usize, ringRows: i32, stride: i32, plane: i32, start: i32, weights: usize, taps: i32, low: f32, high: f32, least: f64): void {
  const lows = f32x4.splat(low);
  const highs = f32x4.splat(high);
  const enough = f64x2.splat(least);
  const none = f64x2.splat(NaN);
  const end: usize = <usize>ringRows * <usize>stride;
  const begin: usize = <usize>(start % ringRows) * <usize>stride;
  const bytes = <usize>plane;
  for (let x: usize = 0; x < bytes; x += 32) {
    let a = f64x2.splat(0);
    let b = f64x2.splat(0);
    let aw = f64x2.splat(0);
    let bw = f64x2.splat(0);
    let at = begin;
    for (let k = 0; k < taps; k++) {
      const w = v128.load64_splat(weights + (<usize>k << 3));
      const p = ring + at + x;
      a = f64x2.add(a, f64x2.mul(w, v128.load(p)));
      b = f64x2.add(b, f64x2.mul(w, v128.load(p, 16)));
      aw = f64x2.add(aw, f64x2.mul(w, v128.load(p + bytes)));
      bw = f64x2.add(bw, f64x2.mul(w, v128.load(p + bytes, 16)));
      at += stride;
      if (at == end) at = 0;
    }
    const left = v128.bitselect(f64x2.div(a, aw), none, f64x2.ge(aw, enough));
    const right = v128.bitselect(f64x2.div(b, bw), none, f64x2.ge(bw, enough));
    const both = v128.shuffle<f32>(f32x4.demote_f64x2_zero(left), f32x4.demote_f64x2_zero(right), 0, 1, 4, 5);
    v128.store(out + (x >> 1), f32x4.pmin(f32x4.pmax(both, lows), highs));
  }
}
