// Square metres of a raster in degrees. Twin: src/core/squares/sample.ts, operation by operation.

const ON_SAMPLE: f64 = 1e-6;

/**
 * One row of squares: `columns` and `rows` are places in the raster (doubles), `ring` holds its rows as doubles, row y at
 * y & (capacity − 1), `capacity` a power of two. The raster is four samples wide and high at least.
 */
export function squaresRow(columns: usize, rows: usize, count: i32, ring: usize, capacity: i32, width: i32, height: i32, out: usize): void {
  const mask = capacity - 1;
  const east = <f64>(width - 1) + ON_SAMPLE;
  const south = <f64>(height - 1) + ON_SAMPLE;
  for (let x = 0; x < count; x++, columns += 8, rows += 8, out += 4) {
    const column = load<f64>(columns);
    const row = load<f64>(rows);
    if (column < -ON_SAMPLE || row < -ON_SAMPLE || column > east || row > south) {
      store<f32>(out, f32.NaN);
      continue;
    }
    // a place a hair before the first sample is that sample: cut off, not rounded down
    let left = <i32>column;
    let top = <i32>row;
    if (left > width - 2) left = width - 2;
    if (top > height - 2) top = height - 2;
    let u = column - <f64>left;
    let v = row - <f64>top;
    // by branches: the instructions for least and most are slow
    if (u < 0) u = 0;
    if (u > 1) u = 1;
    if (v < 0) v = 0;
    if (v > 1) v = 1;
    let value = f64.NaN;
    if (left > 0 && top > 0 && left < width - 2 && top < height - 2) value = cubic(ring, mask, width, left, top, u, v);
    if (value != value) value = linear(ring, mask, width, left, top, u, v);
    store<f32>(out, <f32>value);
  }
}

// @ts-ignore: decorator
@inline
function rowAt(ring: usize, mask: i32, width: i32, y: i32): usize {
  return ring + ((<usize>(y & mask) * <usize>width) << 3);
}

// @ts-ignore: decorator
@inline
function cubic(ring: usize, mask: i32, width: i32, left: i32, top: i32, u: f64, v: f64): f64 {
  const at = (<usize>(left - 1)) << 3;
  const a = rowAt(ring, mask, width, top - 1) + at;
  const b = rowAt(ring, mask, width, top) + at;
  const c = rowAt(ring, mask, width, top + 1) + at;
  const d = rowAt(ring, mask, width, top + 2) + at;
  const v0 = f64x2.splat(v * (-0.5 + v * (1 - 0.5 * v)));
  const v1 = f64x2.splat(1 + v * v * (1.5 * v - 2.5));
  const v2 = f64x2.splat(v * (0.5 + v * (2 - 1.5 * v)));
  const v3 = f64x2.splat(v * v * (0.5 * v - 0.5));
  // down the columns first, two at once
  let low = f64x2.add(f64x2.mul(v0, v128.load(a)), f64x2.mul(v1, v128.load(b)));
  low = f64x2.add(low, f64x2.mul(v2, v128.load(c)));
  low = f64x2.add(low, f64x2.mul(v3, v128.load(d)));
  let high = f64x2.add(f64x2.mul(v0, v128.load(a, 16)), f64x2.mul(v1, v128.load(b, 16)));
  high = f64x2.add(high, f64x2.mul(v2, v128.load(c, 16)));
  high = f64x2.add(high, f64x2.mul(v3, v128.load(d, 16)));
  const u01 = f64x2.replace_lane(f64x2.splat(u * (-0.5 + u * (1 - 0.5 * u))), 1, 1 + u * u * (1.5 * u - 2.5));
  const u23 = f64x2.replace_lane(f64x2.splat(u * (0.5 + u * (2 - 1.5 * u))), 1, u * u * (0.5 * u - 0.5));
  const both = f64x2.add(f64x2.mul(u01, low), f64x2.mul(u23, high));
  return f64x2.extract_lane(both, 0) + f64x2.extract_lane(both, 1);
}

function linear(ring: usize, mask: i32, width: i32, left: i32, top: i32, u: f64, v: f64): f64 {
  let sum: f64 = 0;
  let weight: f64 = 0;
  for (let k = 0; k < 2; k++) {
    const row = rowAt(ring, mask, width, top + k) + (<usize>left << 3);
    for (let i = 0; i < 2; i++) {
      const share = (i == 0 ? 1 - u : u) * (k == 0 ? 1 - v : v);
      const value = load<f64>(row + (<usize>i << 3));
      if (share == 0 || value != value) continue;
      sum += share * value;
      weight += share;
    }
  }
  return weight >= 0.5 ? sum / weight : f64.NaN;
}
