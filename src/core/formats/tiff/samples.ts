import type { StoredSamples } from '../../raster';
import type { Block } from '../block-inflater';
import { HOST_IS_LITTLE, swapBytes } from '../bytes';
import { halfValues } from '../half';
import { sumBytes, sumSamples, weaveRow, words } from '../running-sums';
import type { Layout } from './layout';

/**
 * Undoes the predictor in place, and leaves samples in the machine's byte order. TIFF 6.0, section 14 (2: differences
 * of neighbours); technical note 3 (3: bytes of floats sorted by their weight, then differences of bytes).
 */
export function undoPredictor(block: Block, layout: Layout, rows: number): void {
  const { predictor, bits, together, blockWidth, little } = layout;
  const { bytes } = block;
  const row = blockWidth * together;
  const size = (bits / 8) as 1 | 2 | 4 | 8;
  if (predictor === 3) {
    for (let r = 0; r < rows; r++) {
      sumBytes(block, r * row * size, row * size, 0, together);
      weaveRow(block, r * row * size, row, size);
    }
    return;
  }
  if (little !== HOST_IS_LITTLE) swapBytes(bytes, size);
  if (predictor !== 2) return;
  for (let r = 0; r < rows; r++) sumSamples(block, r * row * size, row, bits, together);
}

/** The first sample of each place of a block into column `left` of rows `stride` long; voids become NaN. */
export function copySamples(
  bytes: Uint8Array,
  layout: Layout,
  rows: number,
  wide: number,
  into: StoredSamples,
  left: number,
  stride: number,
): void {
  const { bits, type, together, blockWidth, inverted, noData } = layout;
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
    const to = r * stride + left;
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
