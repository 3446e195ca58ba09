// Twins: src/core/formats/png/crc.ts, src/core/formats/deflate/adler.ts

/** Fills eight tables of 256 u32 at `tables` (slicing-by-8). */
export function crcTables(tables: usize): void {
  for (let n: u32 = 0; n < 256; n++) {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    store<u32>(tables + ((<usize>n) << 2), c);
  }
  for (let t: usize = 1; t < 8; t++)
    for (let n: usize = 0; n < 256; n++) {
      const c = load<u32>(tables + (t - 1) * 1024 + (n << 2));
      store<u32>(tables + t * 1024 + (n << 2), load<u32>(tables + ((c & 255) << 2)) ^ (c >>> 8));
    }
}

export function crc32(bytes: usize, count: i32, before: u32, tables: usize): u32 {
  let c = ~before;
  const end = bytes + <usize>count;
  while (bytes + 8 <= end) {
    const a = load<u32>(bytes) ^ c;
    const b = load<u32>(bytes, 4);
    c =
      load<u32>(tables + ((a & 255) << 2), 7168) ^ load<u32>(tables + (((a >>> 8) & 255) << 2), 6144) ^
      load<u32>(tables + (((a >>> 16) & 255) << 2), 5120) ^ load<u32>(tables + ((a >>> 24) << 2), 4096) ^
      load<u32>(tables + ((b & 255) << 2), 3072) ^ load<u32>(tables + (((b >>> 8) & 255) << 2), 2048) ^
      load<u32>(tables + (((b >>> 16) & 255) << 2), 1024) ^ load<u32>(tables + ((b >>> 24) << 2));
    bytes += 8;
  }
  for (; bytes < end; bytes++) c = load<u32>(tables + (((c ^ load<u8>(bytes)) & 255) << 2)) ^ (c >>> 8);
  return ~c;
}

export function adler32(bytes: usize, count: i32, before: u32): u32 {
  let a: u32 = before & 0xffff;
  let b: u32 = before >>> 16;
  // weights of 16 bytes: 16·a + Σ (16 − i)·byte
  const high = i8x16(16, 15, 14, 13, 12, 11, 10, 9, 8, 7, 6, 5, 4, 3, 2, 1);
  const wLow = i16x8.extend_low_i8x16_u(high);
  const wHigh = i16x8.extend_high_i8x16_u(high);
  let left = count;
  while (left > 0) {
    let n = min(left, 5552);
    left -= n;
    while (n >= 16) {
      const v = v128.load(bytes);
      const weighted = i32x4.add(i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(v), wLow), i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(v), wHigh));
      const plain = i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(v));
      b += 16 * a + (i32x4.extract_lane(weighted, 0) + i32x4.extract_lane(weighted, 1) + i32x4.extract_lane(weighted, 2) + i32x4.extract_lane(weighted, 3));
      a += i32x4.extract_lane(plain, 0) + i32x4.extract_lane(plain, 1) + i32x4.extract_lane(plain, 2) + i32x4.extract_lane(plain, 3);
      bytes += 16;
      n -= 16;
    }
    for (; n > 0; n--) {
      a += load<u8>(bytes++);
      b += a;
    }
    a %= 65521;
    b %= 65521;
  }
  return (b << 16) | a;
}
