// Resampling passes, rounding to codes, statistics. Twins: src/core/raster/passes.ts, src/core/height/quantise.ts,
// src/core/raster/ground.ts. Every sum is taken in the same order and precision as in the twin.

/** `out[i] = Σ weights[i·taps + k] · line[first[i] + k]`; taps is a multiple of 4, lanes are added (0 + 1) + (2 + 3). */
export function rowPass(out: usize, line: usize, first: usize, weights: usize, taps: i32, width: i32): void {
  const row: usize = <usize>taps << 2;
  let i = 0;
  // four outputs a turn: their lanes are turned into columns and added together
  for (; i + 4 <= width; i += 4) {
    const a = lanes(line + ((<usize>load<i32>(first)) << 2), weights, row);
    const b = lanes(line + ((<usize>load<i32>(first, 4)) << 2), weights + row, row);
    const c = lanes(line + ((<usize>load<i32>(first, 8)) << 2), weights + 2 * row, row);
    const d = lanes(line + ((<usize>load<i32>(first, 12)) << 2), weights + 3 * row, row);
    const ab01 = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
    const ab23 = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
    const cd01 = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
    const cd23 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
    const x = f32x4.add(v128.shuffle<f32>(ab01, cd01, 0, 1, 4, 5), v128.shuffle<f32>(ab01, cd01, 2, 3, 6, 7));
    const y = f32x4.add(v128.shuffle<f32>(ab23, cd23, 0, 1, 4, 5), v128.shuffle<f32>(ab23, cd23, 2, 3, 6, 7));
    v128.store(out, f32x4.add(x, y));
    out += 16;
    first += 16;
    weights += 4 * row;
  }
  for (; i < width; i++) {
    const s = lanes(line + ((<usize>load<i32>(first)) << 2), weights, row);
    store<f32>(out, f32x4.extract_lane(s, 0) + f32x4.extract_lane(s, 1) + (f32x4.extract_lane(s, 2) + f32x4.extract_lane(s, 3)));
    out += 4;
    first += 4;
    weights += row;
  }
}

/** Products of one output, added up in four lanes. */
// @ts-ignore: decorator
@inline
function lanes(x: usize, weights: usize, row: usize): v128 {
  let sum = f32x4.splat(0);
  for (let k: usize = 0; k < row; k += 16) sum = f32x4.add(sum, f32x4.mul(v128.load(weights + k), v128.load(x + k)));
  return sum;
}

/**
 * `out[x] = Σ weights[k] · ring[(start + k) mod ringRows][x]`, k upwards. Rows lie `stride` bytes apart, padded to a
 * multiple of 16 bytes. Results are held within low..high; a NaN stays.
 */
export function columnPass(out: usize, ring: usize, ringRows: i32, stride: i32, start: i32, weights: usize, taps: i32, width: i32, low: f32, high: f32): void {
  const lows = f32x4.splat(low);
  const highs = f32x4.splat(high);
  const bytes: usize = ((<usize>width + 3) & ~3) << 2;
  const end: usize = <usize>ringRows * <usize>stride;
  const begin: usize = <usize>(start % ringRows) * <usize>stride;
  let x: usize = 0;
  for (; x + 64 <= bytes; x += 64) {
    let s0 = f32x4.splat(0);
    let s1 = f32x4.splat(0);
    let s2 = f32x4.splat(0);
    let s3 = f32x4.splat(0);
    let at = begin;
    for (let k = 0; k < taps; k++) {
      const w = v128.load32_splat(weights + ((<usize>k) << 2));
      const p = ring + at + x;
      s0 = f32x4.add(s0, f32x4.mul(w, v128.load(p)));
      s1 = f32x4.add(s1, f32x4.mul(w, v128.load(p, 16)));
      s2 = f32x4.add(s2, f32x4.mul(w, v128.load(p, 32)));
      s3 = f32x4.add(s3, f32x4.mul(w, v128.load(p, 48)));
      at += stride;
      if (at == end) at = 0;
    }
    v128.store(out + x, f32x4.pmin(f32x4.pmax(s0, lows), highs));
    v128.store(out + x, f32x4.pmin(f32x4.pmax(s1, lows), highs), 16);
    v128.store(out + x, f32x4.pmin(f32x4.pmax(s2, lows), highs), 32);
    v128.store(out + x, f32x4.pmin(f32x4.pmax(s3, lows), highs), 48);
  }
  for (; x < bytes; x += 16) {
    let sum = f32x4.splat(0);
    let at = begin;
    for (let k = 0; k < taps; k++) {
      sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(weights + ((<usize>k) << 2)), v128.load(ring + at + x)));
      at += stride;
      if (at == end) at = 0;
    }
    v128.store(out + x, f32x4.pmin(f32x4.pmax(sum, lows), highs));
  }
}

/** 16-bit codes as Float32. */
export function widen16(from: usize, to: usize, count: i32): void {
  let i = 0;
  for (; i + 8 <= count; i += 8) {
    const v = v128.load(from);
    v128.store(to, f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(v)));
    v128.store(to, f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(v)), 16);
    from += 16;
    to += 32;
  }
  for (; i < count; i++) {
    store<f32>(to, <f32>load<u16>(from));
    from += 2;
    to += 4;
  }
}

/** code = floor(value · scale + offset + 0.5), held to 0..highest; `tally` gets below, above and voids as u32. */
export function quantise(from: usize, to: usize, count: i32, scale: f64, offset: f64, highest: f64, tally: usize): void {
  const scales = f64x2.splat(scale);
  const offsets = f64x2.splat(offset);
  const half = f64x2.splat(0.5);
  const zero = f64x2.splat(0);
  const top = f64x2.splat(highest);
  const topCode = i32x4.splat(<i32>highest);
  const noCode = i32x4.splat(0);
  // masks are −1 where true: subtracting them counts
  let below = i64x2.splat(0);
  let above = i64x2.splat(0);
  let voids = i64x2.splat(0);
  let i = 0;
  for (; i + 4 <= count; i += 4) {
    const v = v128.load(from);
    const a = f64x2.floor(f64x2.add(f64x2.add(f64x2.mul(f64x2.promote_low_f32x4(v), scales), offsets), half));
    const b = f64x2.floor(f64x2.add(f64x2.add(f64x2.mul(f64x2.promote_low_f32x4(v128.shuffle<f32>(v, v, 2, 3, 2, 3)), scales), offsets), half));
    below = i64x2.sub(below, i64x2.add(f64x2.lt(a, zero), f64x2.lt(b, zero)));
    above = i64x2.sub(above, i64x2.add(f64x2.gt(a, top), f64x2.gt(b, top)));
    voids = i64x2.sub(voids, i64x2.add(f64x2.ne(a, a), f64x2.ne(b, b)));
    const codes = v128.shuffle<i32>(i32x4.trunc_sat_f64x2_s_zero(a), i32x4.trunc_sat_f64x2_s_zero(b), 0, 1, 4, 5);
    const held = i32x4.min_s(i32x4.max_s(codes, noCode), topCode);
    v128.store_lane<u64>(to, i16x8.narrow_i32x4_u(held, held), 0);
    from += 16;
    to += 8;
  }
  let lows = <u32>(i64x2.extract_lane(below, 0) + i64x2.extract_lane(below, 1));
  let highs = <u32>(i64x2.extract_lane(above, 0) + i64x2.extract_lane(above, 1));
  let holes = <u32>(i64x2.extract_lane(voids, 0) + i64x2.extract_lane(voids, 1));
  for (; i < count; i++) {
    const code = Math.floor(<f64>load<f32>(from) * scale + offset + 0.5);
    if (code >= 0 && code <= highest) store<u16>(to, <u32>code);
    else if (code > highest) {
      highs++;
      store<u16>(to, <u32>highest);
    } else {
      if (code < 0) lows++;
      else holes++;
      store<u16>(to, 0);
    }
    from += 4;
    to += 2;
  }
  store<u32>(tally, lows);
  store<u32>(tally, highs, 4);
  store<u32>(tally, holes, 8);
}

/** Lowest, highest and sum of 16-bit codes; marks each code in a table of 65536 bytes. Results to `out`: f64 sum, u32 low, u32 high. */
export function statistics16(codes: usize, count: i32, seen: usize, out: usize): void {
  let low: u32 = 65535;
  let high: u32 = 0;
  let sum: u64 = 0;
  for (let i = 0; i < count; i++) {
    const v: u32 = load<u16>(codes);
    codes += 2;
    store<u8>(seen + v, 1);
    sum += v;
    low = min(low, v);
    high = max(high, v);
  }
  store<f64>(out, <f64>sum);
  store<u32>(out, low, 8);
  store<u32>(out, high, 12);
}

/**
 * Facts of a band of the fitted ground, as GroundCollector counts them. `state` (f64 each): 0 lowest, 1 place of it,
 * 2 highest, 3 its place, 4 sum, 5 voids, 6 below, 7 above. `fine` holds `classes` f64 counts.
 */
export function ground(data: usize, width: i32, rows: i32, at: f64, low: f64, high: f64, fine: usize, classes: i32, fineLow: f64, fineScale: f64, state: usize): void {
  let lowest = load<f64>(state);
  let lowestAt = load<f64>(state, 8);
  let highest = load<f64>(state, 16);
  let highestAt = load<f64>(state, 24);
  let sum = load<f64>(state, 32);
  let voids = load<f64>(state, 40);
  let below = load<f64>(state, 48);
  let above = load<f64>(state, 56);
  for (let r = 0; r < rows; r++) {
    let part: f64 = 0;
    for (let x = 0; x < width; x++) {
      const value = <f64>load<f32>(data);
      data += 4;
      if (value != value) {
        voids += 1;
        continue;
      }
      part += value;
      if (value < lowest) {
        lowest = value;
        lowestAt = at + <f64>r * <f64>width + <f64>x;
      }
      if (value > highest) {
        highest = value;
        highestAt = at + <f64>r * <f64>width + <f64>x;
      }
      if (value < low) below += 1;
      else if (value >= high) above += 1;
      const place = (value - fineLow) * fineScale;
      const c = place < 0 ? 0 : place >= <f64>classes ? classes - 1 : <i32>place;
      const slot = fine + ((<usize>c) << 3);
      store<f64>(slot, load<f64>(slot) + 1);
    }
    sum += part;
  }
  store<f64>(state, lowest);
  store<f64>(state, lowestAt, 8);
  store<f64>(state, highest, 16);
  store<f64>(state, highestAt, 24);
  store<f64>(state, sum, 32);
  store<f64>(state, voids, 40);
  store<f64>(state, below, 48);
  store<f64>(state, above, 56);
}
