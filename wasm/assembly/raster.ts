// Resampling passes, rounding to codes, statistics. Twins: src/core/raster/passes.ts, src/core/height/quantise.ts,
// src/core/raster/ground.ts. Every sum is taken in the same order and precision as in the twin.

/**
 * Turns eight rows of `width` samples into groups of eight Float32: for every x the samples of rows 0 to 7. Rows lie
 * `stride` bytes apart; where fewer than eight are there, the last one stands in for the rest. `datum` is taken off
 * codes (a whole number: the difference is exact); heights are above theirs already.
 */
export function interleave16(rows: usize, stride: i32, count: i32, to: usize, width: i32, datum: f32): void {
  interleave<u16>(rows, stride, count, to, width, datum);
}

export function interleave32(rows: usize, stride: i32, count: i32, to: usize, width: i32): void {
  interleave<f32>(rows, stride, count, to, width, 0);
}

function interleave<T>(rows: usize, stride: i32, count: i32, to: usize, width: i32, datum: f32): void {
  const off = f32x4.splat(datum);
  const r1 = rows + rowOffset(1, count, stride);
  const r2 = rows + rowOffset(2, count, stride);
  const r3 = rows + rowOffset(3, count, stride);
  const r4 = rows + rowOffset(4, count, stride);
  const r5 = rows + rowOffset(5, count, stride);
  const r6 = rows + rowOffset(6, count, stride);
  const r7 = rows + rowOffset(7, count, stride);
  const size: usize = sizeof<T>();
  let x: usize = 0;
  const end: usize = <usize>width * size;
  for (; x + 4 * size <= end; x += 4 * size) {
    quadruples(to, four<T>(rows + x, off), four<T>(r1 + x, off), four<T>(r2 + x, off), four<T>(r3 + x, off));
    quadruples(to + 16, four<T>(r4 + x, off), four<T>(r5 + x, off), four<T>(r6 + x, off), four<T>(r7 + x, off));
    to += 128;
  }
  for (; x < end; x += size) {
    store<f32>(to, <f32>load<T>(rows + x) - datum);
    store<f32>(to, <f32>load<T>(r1 + x) - datum, 4);
    store<f32>(to, <f32>load<T>(r2 + x) - datum, 8);
    store<f32>(to, <f32>load<T>(r3 + x) - datum, 12);
    store<f32>(to, <f32>load<T>(r4 + x) - datum, 16);
    store<f32>(to, <f32>load<T>(r5 + x) - datum, 20);
    store<f32>(to, <f32>load<T>(r6 + x) - datum, 24);
    store<f32>(to, <f32>load<T>(r7 + x) - datum, 28);
    to += 32;
  }
}

// @ts-ignore: decorator
@inline
function rowOffset(row: i32, count: i32, stride: i32): usize {
  return <usize>(min(row, count - 1) * stride);
}

/** Four samples as Float32: 16-bit codes less the datum, or heights as they are. */
// @ts-ignore: decorator
@inline
function four<T>(samples: usize, off: v128): v128 {
  return sizeof<T>() == 2 ? f32x4.sub(f32x4.convert_i32x4_u(v128.load16x4_u(samples)), off) : v128.load(samples);
}

/** Rows a, b, c, d of four become columns, 32 bytes apart. */
// @ts-ignore: decorator
@inline
function quadruples(to: usize, a: v128, b: v128, c: v128, d: v128): void {
  const abLow = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
  const abHigh = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const cdLow = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
  const cdHigh = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(to, v128.shuffle<f32>(abLow, cdLow, 0, 1, 4, 5));
  v128.store(to, v128.shuffle<f32>(abLow, cdLow, 2, 3, 6, 7), 32);
  v128.store(to, v128.shuffle<f32>(abHigh, cdHigh, 0, 1, 4, 5), 64);
  v128.store(to, v128.shuffle<f32>(abHigh, cdHigh, 2, 3, 6, 7), 96);
}

/** Four outputs of four rows go to where each row's outputs are, `at` bytes in. */
// @ts-ignore: decorator
@inline
function spread(outs: usize, at: usize, a: v128, b: v128, c: v128, d: v128): void {
  const abLow = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
  const abHigh = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const cdLow = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
  const cdHigh = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(<usize>load<u32>(outs) + at, v128.shuffle<f32>(abLow, cdLow, 0, 1, 4, 5));
  v128.store(<usize>load<u32>(outs, 4) + at, v128.shuffle<f32>(abLow, cdLow, 2, 3, 6, 7));
  v128.store(<usize>load<u32>(outs, 8) + at, v128.shuffle<f32>(abHigh, cdHigh, 0, 1, 4, 5));
  v128.store(<usize>load<u32>(outs, 12) + at, v128.shuffle<f32>(abHigh, cdHigh, 2, 3, 6, 7));
}

/**
 * Row pass of eight interleaved rows: `out[i] = Σ weight[i][k] · line[first[i] + k]`, k upwards, for each of them.
 * Every weight is loaded once for eight rows, and eight sums run side by side. Outputs come in groups of four, whose
 * weights lie together: `weights[(group · taps + k) · 4 + i mod 4]`. `outs` holds the addresses of eight rows.
 */
export function rowPass(outs: usize, line: usize, first: usize, weights: usize, taps: i32, groups: i32): void {
  const row: usize = <usize>taps << 4;
  for (let g = 0; g < groups; g++) {
    let pa = line + ((<usize>load<i32>(first)) << 5);
    let pb = line + ((<usize>load<i32>(first, 4)) << 5);
    let pc = line + ((<usize>load<i32>(first, 8)) << 5);
    let pd = line + ((<usize>load<i32>(first, 12)) << 5);
    let a = f32x4.splat(0);
    let b = f32x4.splat(0);
    let c = f32x4.splat(0);
    let d = f32x4.splat(0);
    let a2 = f32x4.splat(0);
    let b2 = f32x4.splat(0);
    let c2 = f32x4.splat(0);
    let d2 = f32x4.splat(0);
    for (const end = weights + row; weights < end; weights += 16) {
      const wa = v128.load32_splat(weights);
      a = f32x4.add(a, f32x4.mul(wa, v128.load(pa)));
      a2 = f32x4.add(a2, f32x4.mul(wa, v128.load(pa, 16)));
      const wb = v128.load32_splat(weights, 4);
      b = f32x4.add(b, f32x4.mul(wb, v128.load(pb)));
      b2 = f32x4.add(b2, f32x4.mul(wb, v128.load(pb, 16)));
      const wc = v128.load32_splat(weights, 8);
      c = f32x4.add(c, f32x4.mul(wc, v128.load(pc)));
      c2 = f32x4.add(c2, f32x4.mul(wc, v128.load(pc, 16)));
      const wd = v128.load32_splat(weights, 12);
      d = f32x4.add(d, f32x4.mul(wd, v128.load(pd)));
      d2 = f32x4.add(d2, f32x4.mul(wd, v128.load(pd, 16)));
      pa += 32;
      pb += 32;
      pc += 32;
      pd += 32;
    }
    const at: usize = <usize>g << 4;
    spread(outs, at, a, b, c, d);
    spread(outs + 16, at, a2, b2, c2, d2);
    first += 16;
  }
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

/** code = floor(value · scale + offset + 0.5), held to 0..highest; `tally` gets below, above and voids as u32. */
export function quantise(from: usize, to: usize, count: i32, scale: f64, offset: f64, highest: f64, tally: usize): void {
  const scales = f64x2.splat(scale);
  const offsets = f64x2.splat(offset);
  const half = f64x2.splat(0.5);
  const zero = f64x2.splat(0);
  const top = f64x2.splat(highest);
  // added to a whole number below 2³² this leaves that number in the low 32 bits
  const magic = f64x2.splat(4503599627370496);
  let lows: u32 = 0;
  let highs: u32 = 0;
  let holes: u32 = 0;
  let i = 0;
  for (; i + 4 <= count; i += 4) {
    const v = v128.load(from);
    const a = f64x2.floor(f64x2.add(f64x2.add(f64x2.mul(f64x2.promote_low_f32x4(v), scales), offsets), half));
    const b = f64x2.floor(f64x2.add(f64x2.add(f64x2.mul(f64x2.promote_low_f32x4(v128.shuffle<f32>(v, v, 2, 3, 2, 3)), scales), offsets), half));
    // a void becomes 0: pmax takes its first operand where the second is no number
    const aHeld = f64x2.pmin(top, f64x2.pmax(zero, a));
    const bHeld = f64x2.pmin(top, f64x2.pmax(zero, b));
    if (!i64x2.all_true(v128.and(f64x2.eq(a, aHeld), f64x2.eq(b, bHeld)))) {
      lows += bits(f64x2.lt(a, zero)) + bits(f64x2.lt(b, zero));
      highs += bits(f64x2.gt(a, top)) + bits(f64x2.gt(b, top));
      holes += bits(f64x2.ne(a, a)) + bits(f64x2.ne(b, b));
    }
    const codes = v128.shuffle<i32>(f64x2.add(aHeld, magic), f64x2.add(bHeld, magic), 0, 2, 4, 6);
    v128.store_lane<u64>(to, i16x8.narrow_i32x4_u(codes, codes), 0);
    from += 16;
    to += 8;
  }
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

/** Lanes of a mask of two that are set. */
// @ts-ignore: decorator
@inline
function bits(mask: v128): u32 {
  return popcnt(<u32>i64x2.bitmask(mask));
}

/** Lowest, highest and sum of 16-bit codes; marks each code in a table of 65536 bytes. `out`: f64 sum, u32 low, u32 high, carried on. */
export function statistics16(codes: usize, count: i32, seen: usize, out: usize): void {
  let lows = i16x8.splat(-1);
  let highs = i16x8.splat(0);
  let sum: u64 = 0;
  let i = 0;
  while (i + 8 <= count) {
    // 32-bit lanes hold 32768 sums of two codes
    const end = i + min((count - i) & ~7, 8 * 32768);
    let sums = i32x4.splat(0);
    for (; i < end; i += 8) {
      const v = v128.load(codes);
      lows = i16x8.min_u(lows, v);
      highs = i16x8.max_u(highs, v);
      sums = i32x4.add(sums, i32x4.extadd_pairwise_i16x8_u(v));
      const a = load<u64>(codes);
      const b = load<u64>(codes, 8);
      store<u8>(seen + (<usize>a & 0xffff), 1);
      store<u8>(seen + (<usize>(a >> 16) & 0xffff), 1);
      store<u8>(seen + (<usize>(a >> 32) & 0xffff), 1);
      store<u8>(seen + <usize>(a >> 48), 1);
      store<u8>(seen + (<usize>b & 0xffff), 1);
      store<u8>(seen + (<usize>(b >> 16) & 0xffff), 1);
      store<u8>(seen + (<usize>(b >> 32) & 0xffff), 1);
      store<u8>(seen + <usize>(b >> 48), 1);
      codes += 16;
    }
    sum += <u64>(<u32>i32x4.extract_lane(sums, 0)) + <u64>(<u32>i32x4.extract_lane(sums, 1)) + <u64>(<u32>i32x4.extract_lane(sums, 2)) + <u64>(<u32>i32x4.extract_lane(sums, 3));
  }
  let low: u32 = load<u32>(out, 8);
  let high: u32 = load<u32>(out, 12);
  v128.store(out, lows, 16);
  v128.store(out, highs, 32);
  for (let k: usize = 0; k < 16; k += 2) {
    low = min(low, <u32>load<u16>(out + k, 16));
    high = max(high, <u32>load<u16>(out + k, 32));
  }
  for (; i < count; i++) {
    const v: u32 = load<u16>(codes);
    codes += 2;
    store<u8>(seen + v, 1);
    sum += v;
    low = min(low, v);
    high = max(high, v);
  }
  store<f64>(out, load<f64>(out) + <f64>sum);
  store<u32>(out, low, 8);
  store<u32>(out, high, 12);
}

/**
 * Facts of a band of the fitted ground, as GroundCollector counts them. `state` (f64 each): 0 lowest, 1 place of it,
 * 2 highest, 3 its place, 4 sum, 5 voids, 6 below, 7 above. `fine` holds two tables of `classes` u32 counts, for even
 * and odd samples: neighbours fall into one class and would wait for each other.
 */
export function ground(data: usize, width: i32, rows: i32, at: f64, low: f32, high: f32, fine: usize, classes: i32, fineLow: f32, fineScale: f32, state: usize): void {
  let lowest = <f32>load<f64>(state);
  let lowestAt = load<f64>(state, 8);
  let highest = <f32>load<f64>(state, 16);
  let highestAt = load<f64>(state, 24);
  let sum = load<f64>(state, 32);
  let voids: u32 = 0;
  let below: u32 = 0;
  let above: u32 = 0;
  const lows = f32x4.splat(low);
  const highs = f32x4.splat(high);
  const offsets = f32x4.splat(fineLow);
  const scales = f32x4.splat(fineScale);
  const zero = f32x4.splat(0);
  const last = f32x4.splat(<f32>(classes - 1));
  const odd = fine + ((<usize>classes) << 2);
  for (let r = 0; r < rows; r++) {
    let least = f32x4.splat(Infinity);
    let most = f32x4.splat(-Infinity);
    let sumLow = f64x2.splat(0);
    let sumHigh = f64x2.splat(0);
    let under = i32x4.splat(0);
    let over = i32x4.splat(0);
    let holes: u32 = 0;
    let x = 0;
    let p = data;
    for (; x < width; x += 4) {
      let v = v128.load(p);
      p += 16;
      // lanes behind the end of the row count as voids and are not counted
      if (x + 4 > width) {
        holes -= 4 - (width - x);
        v = v128.bitselect(v, f32x4.splat(NaN), i32x4.lt_s(i32x4(0, 1, 2, 3), i32x4.splat(width - x)));
      }
      least = f32x4.pmin(least, v);
      most = f32x4.pmax(most, v);
      under = i32x4.sub(under, f32x4.lt(v, lows));
      over = i32x4.sub(over, f32x4.ge(v, highs));
      const place = f32x4.pmax(zero, f32x4.pmin(last, f32x4.mul(f32x4.sub(v, offsets), scales)));
      const c = i32x4.trunc_sat_f32x4_s(place);
      const real = f32x4.eq(v, v);
      if (i32x4.all_true(real)) {
        count(fine, i32x4.extract_lane(c, 0));
        count(odd, i32x4.extract_lane(c, 1));
        count(fine, i32x4.extract_lane(c, 2));
        count(odd, i32x4.extract_lane(c, 3));
      } else {
        const mask = i32x4.bitmask(real);
        if (mask & 1) count(fine, i32x4.extract_lane(c, 0));
        if (mask & 2) count(odd, i32x4.extract_lane(c, 1));
        if (mask & 4) count(fine, i32x4.extract_lane(c, 2));
        if (mask & 8) count(odd, i32x4.extract_lane(c, 3));
        holes += 4 - popcnt(mask);
        v = v128.and(v, real);
      }
      sumLow = f64x2.add(sumLow, f64x2.promote_low_f32x4(v));
      sumHigh = f64x2.add(sumHigh, f64x2.promote_low_f32x4(v128.shuffle<f32>(v, v, 2, 3, 2, 3)));
    }
    sum += f64x2.extract_lane(sumLow, 0) + f64x2.extract_lane(sumLow, 1) + (f64x2.extract_lane(sumHigh, 0) + f64x2.extract_lane(sumHigh, 1));
    voids += holes;
    below += lanes(under);
    above += lanes(over);
    const rowLeast = min(min(f32x4.extract_lane(least, 0), f32x4.extract_lane(least, 1)), min(f32x4.extract_lane(least, 2), f32x4.extract_lane(least, 3)));
    if (rowLeast < lowest) {
      lowest = rowLeast;
      lowestAt = at + <f64>r * <f64>width + <f64>indexOf(data, rowLeast);
    }
    const rowMost = max(max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)), max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)));
    if (rowMost > highest) {
      highest = rowMost;
      highestAt = at + <f64>r * <f64>width + <f64>indexOf(data, rowMost);
    }
    data += <usize>width << 2;
  }
  store<f64>(state, lowest);
  store<f64>(state, lowestAt, 8);
  store<f64>(state, highest, 16);
  store<f64>(state, highestAt, 24);
  store<f64>(state, sum, 32);
  store<f64>(state, load<f64>(state, 40) + <f64>voids, 40);
  store<f64>(state, load<f64>(state, 48) + <f64>below, 48);
  store<f64>(state, load<f64>(state, 56) + <f64>above, 56);
}

// @ts-ignore: decorator
@inline
function count(table: usize, at: i32): void {
  const slot = table + ((<usize>at) << 2);
  store<u32>(slot, load<u32>(slot) + 1);
}

// @ts-ignore: decorator
@inline
function lanes(v: v128): u32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3);
}

/** Place of the first sample of that value, which is there. */
function indexOf(data: usize, value: f32): i32 {
  let i = 0;
  while (load<f32>(data + ((<usize>i) << 2)) != value) i++;
  return i;
}
