import { adler32Kernel } from '../../wasm';

/** Adler-32 (RFC 1950, 8.2) of `bytes` after bytes whose sum was `before` (1 at the start). */
export function adler32(bytes: Uint8Array, before = 1): number {
  return adler32Kernel(bytes, before) ?? adler32Plain(bytes, before);
}

/** The plain twin. */
export function adler32Plain(bytes: Uint8Array, before = 1): number {
  let a = before & 0xffff;
  let b = before >>> 16;
  // 5552 additions stay below 2³² without a reduction
  for (let i = 0; i < bytes.length;) {
    const end = Math.min(bytes.length, i + 5552);
    for (; i < end; i++) {
      a += bytes[i]!;
      b += a;
    }
    a %= 65521;
    b %= 65521;
  }
  return ((b << 16) | a) >>> 0;
}

/** The Adler-32 of two stretches joined, from the sums of both and the length of the second (as in zlib's adler32_combine). */
export function adler32Joined(first: number, second: number, secondLength: number): number {
  const BASE = 65521;
  const rest = secondLength % BASE;
  const a1 = first & 0xffff;
  const b1 = first >>> 16;
  const a2 = second & 0xffff;
  const b2 = second >>> 16;
  const a = (a1 + a2 + BASE - 1) % BASE;
  const b = (b1 + b2 + ((rest * a1) % BASE) + BASE - rest) % BASE;
  return ((b << 16) | a) >>> 0;
}
