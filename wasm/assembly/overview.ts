// Overviews of 16-bit codes. Twin: src/core/raster/pyramid.ts.

/** Half the size by means of 2 × 2, rounded, of `pairs` pairs of rows; where the width is odd the last column counts twice. */
export function halve16(from: usize, to: usize, width: i32, pairs: i32): void {
  const n: usize = <usize>width * 2;
  const two = i32x4.splat(2);
  for (let p = 0; p < pairs; p++) {
    const below = from + n;
    let i: usize = 0;
    for (; i + 32 <= n; i += 32) {
      const a = i32x4.add(i32x4.extadd_pairwise_i16x8_u(v128.load(from + i)), i32x4.extadd_pairwise_i16x8_u(v128.load(below + i)));
      const b = i32x4.add(i32x4.extadd_pairwise_i16x8_u(v128.load(from + i, 16)), i32x4.extadd_pairwise_i16x8_u(v128.load(below + i, 16)));
      v128.store(to, i16x8.narrow_i32x4_u(i32x4.shr_u(i32x4.add(a, two), 2), i32x4.shr_u(i32x4.add(b, two), 2)));
      to += 16;
    }
    for (; i < n; i += 4) {
      const next = i + 2 < n ? i + 2 : i;
      store<u16>(to, (<u32>load<u16>(from + i) + load<u16>(from + next) + load<u16>(below + i) + load<u16>(below + next) + 2) >> 2);
      to += 2;
    }
    from = below + n;
  }
}
