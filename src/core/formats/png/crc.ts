import { crc32Kernel } from '../../wasm';

/** CRC-32 as PNG and zip use it (ISO 3309), eight bytes a turn (M. Kounavis and F. Berry, "slicing-by-8", 2005). */
const TABLES: Uint32Array[] = (() => {
  const first = new Uint32Array(256);
  for (let n = 0; n < 256; n++) {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    first[n] = c >>> 0;
  }
  const all = [first];
  for (let t = 1; t < 8; t++) {
    const last = all[t - 1] as Uint32Array;
    all.push(last.map((c) => (first[c & 255] as number) ^ (c >>> 8)));
  }
  return all;
})();
const [T0, T1, T2, T3, T4, T5, T6, T7] = TABLES as [
  Uint32Array,
  Uint32Array,
  Uint32Array,
  Uint32Array,
  Uint32Array,
  Uint32Array,
  Uint32Array,
  Uint32Array,
];

/** Below this the way into the kernel costs more than it saves. */
const LEAST_FOR_KERNEL = 256;

/** CRC of `bytes` after bytes whose CRC was `before` (0 at the start). */
export function crc32(bytes: Uint8Array, before = 0): number {
  return (bytes.length < LEAST_FOR_KERNEL ? null : crc32Kernel(bytes, before)) ?? crc32Plain(bytes, before);
}

/** The plain twin. */
export function crc32Plain(bytes: Uint8Array, before = 0): number {
  let c = ~before;
  let i = 0;
  for (const end = bytes.length - 7; i < end; i += 8) {
    c ^= (bytes[i]! | (bytes[i + 1]! << 8) | (bytes[i + 2]! << 16) | (bytes[i + 3]! << 24)) >>> 0;
    c =
      T7[c & 255]! ^
      T6[(c >>> 8) & 255]! ^
      T5[(c >>> 16) & 255]! ^
      T4[c >>> 24]! ^
      T3[bytes[i + 4]!]! ^
      T2[bytes[i + 5]!]! ^
      T1[bytes[i + 6]!]! ^
      T0[bytes[i + 7]!]!;
  }
  for (; i < bytes.length; i++) c = T0[(c ^ bytes[i]!) & 255]! ^ (c >>> 8);
  return ~c >>> 0;
}
