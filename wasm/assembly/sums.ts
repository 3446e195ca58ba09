// Running sums and woven bytes: what TIFF and EXR do to blocks before they are packed, undone. Twins:
// src/core/formats/running-sums.ts

/** Running sums of `count` bytes in place, `bias` added before each but the first. */
export function sumBytes(at: usize, count: i32, bias: i32): void {
  if (count < 2) return;
  const zero = i8x16.splat(0);
  const each = i8x16.splat(<i8>bias);
  let before = zero;
  // with the bias taken off, the first byte is like all others
  store<u8>(at, <u8>(<i32>load<u8>(at) - bias));
  let i = 0;
  for (; i + 16 <= count; i += 16) {
    let v = i8x16.add(v128.load(at + i), each);
    v = i8x16.add(v, i8x16.shuffle(zero, v, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30));
    v = i8x16.add(v, i8x16.shuffle(zero, v, 0, 1, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29));
    v = i8x16.add(v, i8x16.shuffle(zero, v, 0, 1, 2, 3, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27));
    v = i8x16.add(v, i8x16.shuffle(zero, v, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23));
    v = i8x16.add(v, before);
    v128.store(at + i, v);
    before = i8x16.splat(i8x16.extract_lane_s(v, 15));
  }
  let sum = <u32>i8x16.extract_lane_u(before, 0);
  for (; i < count; i++) {
    sum += load<u8>(at + i) + bias;
    store<u8>(at + i, <u8>sum);
  }
}

/** Running sums of `count` samples of 16 bits in place. */
export function sum16(at: usize, count: i32): void {
  const zero = i16x8.splat(0);
  let before = zero;
  let i = 0;
  for (; i + 8 <= count; i += 8) {
    const to = at + (<usize>i << 1);
    let v = v128.load(to);
    v = i16x8.add(v, i16x8.shuffle(zero, v, 0, 8, 9, 10, 11, 12, 13, 14));
    v = i16x8.add(v, i16x8.shuffle(zero, v, 0, 1, 8, 9, 10, 11, 12, 13));
    v = i16x8.add(v, i16x8.shuffle(zero, v, 0, 1, 2, 3, 8, 9, 10, 11));
    v = i16x8.add(v, before);
    v128.store(to, v);
    before = i16x8.splat(i16x8.extract_lane_s(v, 7));
  }
  let sum = <u32>i16x8.extract_lane_u(before, 0);
  for (; i < count; i++) {
    const to = at + (<usize>i << 1);
    sum += load<u16>(to);
    store<u16>(to, <u16>sum);
  }
}

/** Byte i of two halves side by side: `count` bytes to `to`, the first half one longer where that is odd. */
export function weave2(from: usize, to: usize, count: i32): void {
  const half = from + <usize>((count + 1) >> 1);
  let i = 0;
  for (; i + 32 <= count; i += 32) {
    const a = v128.load(from + (i >> 1));
    const b = v128.load(half + (i >> 1));
    v128.store(to + i, i8x16.shuffle(a, b, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23));
    v128.store(to + i, i8x16.shuffle(a, b, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16);
  }
  for (; i < count; i++) store<u8>(to + i, load<u8>((i & 1 ? half : from) + (i >> 1)));
}

/** Samples of four bytes out of four rows of bytes, the highest first: `count` samples to `to`, low byte first. */
export function weave4(from: usize, to: usize, count: i32): void {
  const n = <usize>count;
  let i = 0;
  for (; i + 16 <= count; i += 16) {
    const at = from + i;
    const d = v128.load(at);
    const c = v128.load(at + n);
    const b = v128.load(at + 2 * n);
    const a = v128.load(at + 3 * n);
    const lowA = i8x16.shuffle(a, b, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
    const highA = i8x16.shuffle(a, b, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
    const lowC = i8x16.shuffle(c, d, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
    const highC = i8x16.shuffle(c, d, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
    const out = to + (<usize>i << 2);
    v128.store(out, i16x8.shuffle(lowA, lowC, 0, 8, 1, 9, 2, 10, 3, 11));
    v128.store(out, i16x8.shuffle(lowA, lowC, 4, 12, 5, 13, 6, 14, 7, 15), 16);
    v128.store(out, i16x8.shuffle(highA, highC, 0, 8, 1, 9, 2, 10, 3, 11), 32);
    v128.store(out, i16x8.shuffle(highA, highC, 4, 12, 5, 13, 6, 14, 7, 15), 48);
  }
  for (; i < count; i++) {
    const out = to + (<usize>i << 2);
    store<u8>(out, load<u8>(from + 3 * n + i));
    store<u8>(out, load<u8>(from + 2 * n + i), 1);
    store<u8>(out, load<u8>(from + n + i), 2);
    store<u8>(out, load<u8>(from + i), 3);
  }
}
