// Square metres of a raster in degrees. Twin: src/core/squares/sample.ts, operation by operation.

const ON_SAMPLE: f64 = 1e-6;

/** Squares between two places of a line at the most. */
const MOST: usize = 16;
/** Bytes of scratch memory: for each of so many squares a row, a column, four weights, a fraction, and four sums. */
const LEFTS: usize = 4 * MOST;
const WEIGHTS: usize = 8 * MOST;
const FRACTIONS: usize = 24 * MOST;
const SUMS: usize = 28 * MOST;
const SCRATCH: usize = 44 * MOST;

/** Bytes that `squaresRow` needs to work in. */
export function squaresScratch(): usize {
  return SCRATCH;
}

/**
 * One row of squares, `down` of the way from one line of places to the next. `above` and `below` hold the places in the
 * raster (column and row, doubles) of every `side`-th square of these lines, one more than is needed to the last; between
 * them places lie evenly. `side` is 4, 8, 12 or 16: four squares are done at once, and what is written may reach three
 * beyond `count`. `ring` holds the raster's rows as floats, row y at y & (capacity − 1), `capacity` a power of two. The
 * raster is four samples wide and high at least.
 *
 * Three small loops that hand on through memory: one that does it all needs more registers than there are, and takes
 * twice as long.
 */
export function squaresRow(above: usize, below: usize, down: f64, side: i32, count: i32, ring: usize, capacity: i32, width: i32, height: i32, scratch: usize, out: usize): void {
  const mask = capacity - 1;
  const last = <f32>(side - 1);
  for (let start = 0; start < count; start += side, above += 16, below += 16) {
    const end = min(count, start + side);
    const x0 = between(above, below, 0, down);
    const y0 = between(above, below, 8, down);
    const dx = (between(above, below, 16, down) - x0) / <f64>side;
    const dy = (between(above, below, 24, down) - y0) / <f64>side;
    // the sample before the first place, and how far behind it places lie: floats are fine enough for that
    const fromX = Math.floor(x0);
    const fromY = Math.floor(y0);
    const restX = <f32>(x0 - fromX);
    const restY = <f32>(y0 - fromY);
    const stepX = <f32>dx;
    const stepY = <f32>dy;
    const beyondX = fromX + <f64>floor<f32>(restX + stepX * last);
    const beyondY = fromY + <f64>floor<f32>(restY + stepY * last);
    // have all of them 4 × 4 samples around?
    if (min(fromX, beyondX) >= 1 && min(fromY, beyondY) >= 1 && max(fromX, beyondX) <= <f64>(width - 3) && max(fromY, beyondY) <= <f64>(height - 3)) {
      places(restX, stepX, restY, stepY, <i32>fromX, <i32>fromY, end - start, scratch);
      // differences from a height nearby: in floats, their rounding is that of metres and not of the whole elevation
      const base = v128.load32_splat(rowAt(ring, mask, width, <i32>fromY) + (<usize>(<i32>fromX) << 2));
      columnsDown(end - start, ring, mask, width, base, scratch);
      if (rowsAcross(end - start, base, scratch, out + (<usize>start << 2))) continue;
      for (let x = start; x < end; x++) {
        const to = out + (<usize>x << 2);
        const value = load<f32>(to);
        const k = <f64>(x - start);
        if (value != value) store<f32>(to, <f32>squareAt(x0 + dx * k, y0 + dy * k, ring, mask, width, height));
      }
    } else {
      for (let x = start; x < end; x++) {
        const k = <f64>(x - start);
        store<f32>(out + (<usize>x << 2), <f32>squareAt(x0 + dx * k, y0 + dy * k, ring, mask, width, height));
      }
    }
  }
}

/** Where squares lie: the samples north-west of each, the weights of the rows around, how far it lies behind a column. */
function places(restX: f32, stepX: f32, restY: f32, stepY: f32, fromX: i32, fromY: i32, count: i32, scratch: usize): void {
  let k = f32x4(0, 1, 2, 3);
  for (let x = 0; x < count; x += 4, scratch += 16) {
    const column = f32x4.add(f32x4.splat(restX), f32x4.mul(f32x4.splat(stepX), k));
    const columns = f32x4.floor(column);
    v128.store(scratch + LEFTS, i32x4.add(i32x4.splat(fromX), i32x4.trunc_sat_f32x4_s(columns)));
    v128.store(scratch + FRACTIONS, f32x4.sub(column, columns));
    const row = f32x4.add(f32x4.splat(restY), f32x4.mul(f32x4.splat(stepY), k));
    const rows = f32x4.floor(row);
    v128.store(scratch, i32x4.add(i32x4.splat(fromY), i32x4.trunc_sat_f32x4_s(rows)));
    const v = f32x4.sub(row, rows);
    const rest = f32x4.sub(f32x4.splat(1), v);
    const q = f32x4.mul(f32x4.mul(f32x4.splat(-0.5), v), rest);
    const first = f32x4.mul(q, rest);
    const last = f32x4.mul(q, v);
    v128.store(scratch + WEIGHTS, first);
    v128.store(scratch + WEIGHTS + 4 * MOST, f32x4.add(rest, f32x4.sub(last, f32x4.add(first, first))));
    v128.store(scratch + WEIGHTS + 8 * MOST, f32x4.add(v, f32x4.sub(first, f32x4.add(last, last))));
    v128.store(scratch + WEIGHTS + 12 * MOST, last);
    k = f32x4.add(k, f32x4.splat(4));
  }
}

/** The four columns around each square, summed down. */
function columnsDown(count: i32, ring: usize, mask: i32, width: i32, base: v128, scratch: usize): void {
  let held = -1;
  let a: usize = 0;
  let b: usize = 0;
  let c: usize = 0;
  let d: usize = 0;
  let sums = scratch + SUMS;
  // whole fours: what is written beyond the last is not looked at
  const end = scratch + (<usize>((count + 3) & ~3) << 2);
  for (; scratch < end; scratch += 4, sums += 16) {
    const top = load<i32>(scratch);
    if (top != held) {
      held = top;
      // one sample to the west
      a = rowAt(ring, mask, width, top - 1) - 4;
      b = rowAt(ring, mask, width, top) - 4;
      c = rowAt(ring, mask, width, top + 1) - 4;
      d = rowAt(ring, mask, width, top + 2) - 4;
    }
    const left = <usize>load<i32>(scratch, LEFTS) << 2;
    let sum = f32x4.mul(v128.load32_splat(scratch, WEIGHTS), f32x4.sub(v128.load(a + left), base));
    sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(scratch, WEIGHTS + 4 * MOST), f32x4.sub(v128.load(b + left), base)));
    sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(scratch, WEIGHTS + 8 * MOST), f32x4.sub(v128.load(c + left), base)));
    sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(scratch, WEIGHTS + 12 * MOST), f32x4.sub(v128.load(d + left), base)));
    v128.store(sums, sum);
  }
}

/** The sums of four columns across: the heights of squares. False where one of them is none. */
function rowsAcross(count: i32, base: v128, scratch: usize, out: usize): bool {
  let whole = i32x4.splat(-1);
  let sums = scratch + SUMS;
  for (let x = 0; x < count; x += 4, scratch += 16, sums += 64, out += 16) {
    const s0 = v128.load(sums);
    const s1 = v128.load(sums, 16);
    const s2 = v128.load(sums, 32);
    const s3 = v128.load(sums, 48);
    // four columns of each square become four squares of each column
    const low01 = v128.shuffle<i32>(s0, s1, 0, 4, 1, 5);
    const high01 = v128.shuffle<i32>(s0, s1, 2, 6, 3, 7);
    const low23 = v128.shuffle<i32>(s2, s3, 0, 4, 1, 5);
    const high23 = v128.shuffle<i32>(s2, s3, 2, 6, 3, 7);
    const u = v128.load(scratch, FRACTIONS);
    const rest = f32x4.sub(f32x4.splat(1), u);
    const q = f32x4.mul(f32x4.mul(f32x4.splat(-0.5), u), rest);
    const first = f32x4.mul(q, rest);
    const last = f32x4.mul(q, u);
    const second = f32x4.add(rest, f32x4.sub(last, f32x4.add(first, first)));
    const third = f32x4.add(u, f32x4.sub(first, f32x4.add(last, last)));
    const near = f32x4.add(f32x4.mul(first, v128.shuffle<i64>(low01, low23, 0, 2)), f32x4.mul(second, v128.shuffle<i64>(low01, low23, 1, 3)));
    const far = f32x4.add(f32x4.mul(third, v128.shuffle<i64>(high01, high23, 0, 2)), f32x4.mul(last, v128.shuffle<i64>(high01, high23, 1, 3)));
    const values = f32x4.add(f32x4.add(near, far), base);
    v128.store(out, values);
    whole = v128.and(whole, f32x4.eq(values, values));
  }
  return i32x4.all_true(whole);
}

// @ts-ignore: decorator
@inline
function between(above: usize, below: usize, at: usize, down: f64): f64 {
  const from = load<f64>(above + at);
  return from + (load<f64>(below + at) - from) * down;
}

// @ts-ignore: decorator
@inline
function rowAt(ring: usize, mask: i32, width: i32, y: i32): usize {
  return ring + ((<usize>(y & mask) * <usize>width) << 2);
}

/** One square by itself, in doubles: near the rim, near voids, outside. */
function squareAt(column: f64, row: f64, ring: usize, mask: i32, width: i32, height: i32): f64 {
  if (!(column >= -ON_SAMPLE && row >= -ON_SAMPLE)) return f64.NaN;
  if (!(column <= <f64>(width - 1) + ON_SAMPLE && row <= <f64>(height - 1) + ON_SAMPLE)) return f64.NaN;
  // a place a hair before the first sample is that sample: cut off, not rounded down
  const left = min(<i32>column, width - 2);
  const top = min(<i32>row, height - 2);
  const u = max<f64>(0, min<f64>(1, column - <f64>left));
  const v = max<f64>(0, min<f64>(1, row - <f64>top));
  let value = f64.NaN;
  if (left > 0 && top > 0 && left < width - 2 && top < height - 2) value = cubic(ring, mask, width, left, top, u, v);
  return value == value ? value : linear(ring, mask, width, left, top, u, v);
}

function cubic(ring: usize, mask: i32, width: i32, left: i32, top: i32, u: f64, v: f64): f64 {
  const at = <usize>(left - 1) << 2;
  const a = rowAt(ring, mask, width, top - 1) + at;
  const b = rowAt(ring, mask, width, top) + at;
  const c = rowAt(ring, mask, width, top + 1) + at;
  const d = rowAt(ring, mask, width, top + 2) + at;
  const v0 = v * (-0.5 + v * (1 - 0.5 * v));
  const v1 = 1 + v * v * (1.5 * v - 2.5);
  const v2 = v * (0.5 + v * (2 - 1.5 * v));
  const v3 = v * v * (0.5 * v - 0.5);
  const u0 = u * (-0.5 + u * (1 - 0.5 * u));
  const u1 = 1 + u * u * (1.5 * u - 2.5);
  const u2 = u * (0.5 + u * (2 - 1.5 * u));
  const u3 = u * u * (0.5 * u - 0.5);
  const first = v0 * <f64>load<f32>(a) + v1 * <f64>load<f32>(b) + v2 * <f64>load<f32>(c) + v3 * <f64>load<f32>(d);
  const second = v0 * <f64>load<f32>(a, 4) + v1 * <f64>load<f32>(b, 4) + v2 * <f64>load<f32>(c, 4) + v3 * <f64>load<f32>(d, 4);
  const third = v0 * <f64>load<f32>(a, 8) + v1 * <f64>load<f32>(b, 8) + v2 * <f64>load<f32>(c, 8) + v3 * <f64>load<f32>(d, 8);
  const fourth = v0 * <f64>load<f32>(a, 12) + v1 * <f64>load<f32>(b, 12) + v2 * <f64>load<f32>(c, 12) + v3 * <f64>load<f32>(d, 12);
  return u0 * first + u1 * second + u2 * third + u3 * fourth;
}

function linear(ring: usize, mask: i32, width: i32, left: i32, top: i32, u: f64, v: f64): f64 {
  let sum: f64 = 0;
  let weight: f64 = 0;
  for (let k = 0; k < 2; k++) {
    const row = rowAt(ring, mask, width, top + k) + (<usize>left << 2);
    for (let i = 0; i < 2; i++) {
      const share = (i == 0 ? 1 - u : u) * (k == 0 ? 1 - v : v);
      const value = <f64>load<f32>(row + (<usize>i << 2));
      if (share == 0 || value != value) continue;
      sum += share * value;
      weight += share;
    }
  }
  return weight >= 0.5 ? sum / weight : f64.NaN;
}
