import type { Block } from './block-inflater';
import { HOST_IS_LITTLE } from './bytes';

/** Bytes as arrays of one width; they begin at a multiple of it. */
export const words = {
  8: (b: Uint8Array) => b,
  16: (b: Uint8Array) => new Uint16Array(b.buffer, b.byteOffset, b.length >> 1),
  32: (b: Uint8Array) => new Uint32Array(b.buffer, b.byteOffset, b.length >> 2),
  64: (b: Uint8Array) => new BigUint64Array(b.buffer, b.byteOffset, b.length >> 3),
} as const;

/**
 * Running sums of bytes in place, `count` of them from `from` on: each is added to the one `apart` before it, with
 * `bias`.
 */
export function sumBytes({ bytes, kernels }: Block, from: number, count: number, bias: number, apart = 1): void {
  if (kernels && apart === 1) {
    kernels.of.run.sumBytes(bytes.byteOffset + from, count, bias);
    return;
  }
  for (let i = from + apart; i < from + count; i++) bytes[i] = bytes[i - apart]! + bytes[i]! + bias;
}

/** Running sums of samples of `bits` bits, as `sumBytes` of bytes. They are in the machine's byte order. */
export function sumSamples(block: Block, from: number, count: number, bits: 8 | 16 | 32 | 64, apart: number): void {
  const { bytes, kernels } = block;
  if (bits === 8) sumBytes(block, from, count, 0, apart);
  else if (kernels && apart === 1 && bits === 16) kernels.of.run.sum16(bytes.byteOffset + from, count);
  else if (bits === 64) {
    const all = words[64](bytes.subarray(from, from + count * 8));
    for (let i = apart; i < count; i++) all[i] = all[i - apart]! + all[i]!;
  } else {
    const all = words[bits](bytes.subarray(from, from + (count * bits) / 8));
    for (let i = apart; i < count; i++) all[i] = all[i - apart]! + all[i]!;
  }
}

/** The bytes of the first half of a block (one longer where that is odd) and of the second by turns. */
export function weaveHalves({ bytes, kernels }: Block): Uint8Array {
  const n = bytes.length;
  if (kernels) {
    kernels.of.run.weave2(bytes.byteOffset, kernels.room, n);
    return kernels.of.u8.subarray(kernels.room, kernels.room + n);
  }
  const out = new Uint8Array(n);
  const half = (n + 1) >> 1;
  for (let i = 0, k = 0; k < n; i++) {
    out[k++] = bytes[i]!;
    if (k < n) out[k++] = bytes[half + i]!;
  }
  return out;
}

/**
 * Samples of `size` bytes out of as many rows of bytes, the highest first: `count` samples in place from `from` on, in
 * the machine's byte order.
 */
export function weaveRow({ bytes, kernels }: Block, from: number, count: number, size: number): void {
  const row = bytes.subarray(from, from + count * size);
  if (kernels && size === 4 && HOST_IS_LITTLE) {
    const { of, room } = kernels;
    of.run.weave4(row.byteOffset, room, count);
    row.set(of.u8.subarray(room, room + row.length));
    return;
  }
  const sorted = row.slice();
  for (let b = 0; b < size; b++) {
    const to = HOST_IS_LITTLE ? size - 1 - b : b;
    for (let i = 0; i < count; i++) row[i * size + to] = sorted[b * count + i]!;
  }
}
