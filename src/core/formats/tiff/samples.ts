import type { StoredSamples } from '../../raster';
import { HOST_IS_LITTLE, swapBytes } from '../bytes';
import { halfValues } from '../half';
import type { Layout } from './layout';

/** Bytes of a block as arrays of one width; `bytes` lie on their own memory. */
const words = {
  8: (b: Uint8Array) => b,
  16: (b: Uint8Array) => new Uint16Array(b.buffer, b.byteOffset, b.length >> 1),
  32: (b: Uint8Array) => new Uint32Array(b.buffer, b.byteOffset, b.length >> 2),
  64: (b: Uint8Array) => new BigUint64Array(b.buffer, b.byteOffset, b.length >> 3),
} as const;

/**
 * Undoes the predictor in place, and leaves samples in the machine's byte order. TIFF 6.0, section 14 (2: differences
 * of neighbours); technical note 3 (3: bytes of floats sorted by their weight, then differences of bytes).
 */
export function undoPredictor(bytes: Uint8Array, layout: Layout, rows: number): void {
  const { predictor, bits, together, blockWidth, little } = layout;
  const rowBytes = (blockWidth * together * bits) / 8;
  if (predictor === 3) {
    for (let r = 0; r < rows; r++) undoFloatRow(bytes.subarray(r * rowBytes, (r + 1) * rowBytes), together, bits / 8);
    return;
  }
  if (little !== HOST_IS_LITTLE) swapBytes(bytes, (bits / 8) as 1 | 2 | 4 | 8);
  if (predictor !== 2) return;
  const row = blockWidth * together;
  if (bits === 64) {
    const all = words[64](bytes);
    for (let r = 0; r < rows; r++)
      for (let i = r * row + together; i < (r + 1) * row; i++) all[i] = (all[i] ?? 0n) + (all[i - together] ?? 0n);
    return;
  }
  if (bits === 16 && together === 1) {
    undoDifferences(words[16](bytes), row, rows);
    return;
  }
  const all = words[bits](bytes);
  for (let r = 0; r < rows; r++) {
    const end = (r + 1) * row;
    for (let i = r * row + together; i < end; i++) all[i] = (all[i] as number) + (all[i - together] as number);
  }
}

/** Rows of single samples of 16 bits, by far the most common: kept apart for speed. */
function undoDifferences(all: Uint16Array, row: number, rows: number): void {
  for (let r = 0; r < rows; r++) {
    let value = 0;
    for (let i = r * row; i < (r + 1) * row; i++) {
      value = (value + all[i]!) & 0xffff;
      all[i] = value;
    }
  }
}

/** One row: the differences of bytes, then all first bytes of the samples, all second ones, … the highest first. */
function undoFloatRow(row: Uint8Array, together: number, size: number): void {
  for (let i = together; i < row.length; i++) row[i] = (row[i] as number) + (row[i - together] as number);
  const sorted = row.slice();
  const count = row.length / size;
  for (let b = 0; b < size; b++) {
    const to = HOST_IS_LITTLE ? size - 1 - b : b;
    for (let i = 0; i < count; i++) row[i * size + to] = sorted[b * count + i] as number;
  }
}

/** The first sample of each place of a block into column `left` of rows `width` long; voids become NaN. */
export function copySamples(
  bytes: Uint8Array,
  layout: Layout,
  rows: number,
  wide: number,
  into: StoredSamples,
  left: number,
): void {
  const { bits, type, together, blockWidth, width, inverted, noData } = layout;
  const from = readAs(bytes, layout);
  const half = type === 'float' && bits === 16 ? halfValues() : null;
  const top = inverted ? 2 ** bits - 1 : 0;
  const plain =
    together === 1 &&
    half === null &&
    !inverted &&
    noData === null &&
    !(from instanceof BigInt64Array || from instanceof BigUint64Array);
  for (let r = 0; r < rows; r++) {
    const start = r * blockWidth * together;
    const to = r * width + left;
    if (plain) {
      (into as Float64Array).set((from as Float64Array).subarray(start, start + wide), to);
      continue;
    }
    for (let i = 0; i < wide; i++) {
      let value = Number(from[start + i * together]);
      if (half) value = half[value] as number;
      if (noData !== null && (value === noData || value !== value)) value = NaN;
      else if (inverted) value = top - value;
      into[to + i] = value;
    }
  }
}

function readAs(bytes: Uint8Array, { type, bits }: Layout): StoredSamples | BigInt64Array | BigUint64Array {
  const { buffer, byteOffset, length } = bytes;
  const n = (length * 8) / bits;
  if (type === 'float' && bits === 64) return new Float64Array(buffer, byteOffset, n);
  if (type === 'float' && bits === 32) return new Float32Array(buffer, byteOffset, n);
  if (type !== 'int') return bits === 64 ? new BigUint64Array(buffer, byteOffset, n) : words[bits](bytes);
  if (bits === 8) return new Int8Array(buffer, byteOffset, n);
  if (bits === 16) return new Int16Array(buffer, byteOffset, n);
  return bits === 32 ? new Int32Array(buffer, byteOffset, n) : new BigInt64Array(buffer, byteOffset, n);
}
