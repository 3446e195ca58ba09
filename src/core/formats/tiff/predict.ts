import type { Codes, Encoding } from '../../raster';
import { bytesOfStored } from '../stored-bytes';

/** Whole rows as differences between neighbours, which pack better: the bytes of a strip. `rows` is used up. */
export function predicted(rows: Codes, width: number, encoding: Pick<Encoding, 'bits' | 'sampleType'>): Uint8Array {
  if (rows instanceof Float32Array) return floatDifferences(bytesOfStored(rows, encoding, 'big'), width);
  for (let at = 0; at < rows.length; at += width)
    for (let x = width - 1; x > 0; x--) rows[at + x]! -= rows[at + x - 1]!;
  return bytesOfStored(rows, encoding, 'little');
}

/**
 * Predictor 3 (Adobe's technical note 3 of 2005): of each row first the highest byte of all samples, then the next ones;
 * each byte as its difference to the one before it. `bytes`: high byte first.
 */
function floatDifferences(bytes: Uint8Array, width: number): Uint8Array {
  const rowBytes = 4 * width;
  const out = new Uint8Array(bytes.length);
  for (let start = 0; start < bytes.length; start += rowBytes) {
    let before = 0;
    for (let plane = 0; plane < 4; plane++)
      for (let x = 0; x < width; x++) {
        const byte = bytes[start + 4 * x + plane]!;
        out[start + plane * width + x] = byte - before;
        before = byte;
      }
  }
  return out;
}
