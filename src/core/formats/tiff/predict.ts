import { concatBytes } from '../../base';
import type { Codes, Encoding } from '../../raster';
import { bytesOfStored } from '../stored-bytes';

/** Whole rows as differences between neighbours, which pack better: bytes of a strip. */
export function predicted(
  bands: readonly Codes[],
  rows: number,
  width: number,
  encoding: Pick<Encoding, 'bits' | 'sampleType'>,
): Uint8Array {
  if (encoding.sampleType === 'float')
    return floatDifferences(concatBytes(bands.map((b) => bytesOfStored(b, encoding, 'big'))), rows, width);
  const stored = bands.map((codes) => {
    const out = codes.slice();
    for (let at = 0; at < out.length; at += width)
      for (let x = width - 1; x > 0; x--) out[at + x]! -= codes[at + x - 1]!;
    return bytesOfStored(out, encoding, 'little');
  });
  return concatBytes(stored);
}

/**
 * Predictor 3 (Adobe's technical note 3 of 2005): of each row first the highest byte of all samples, then the next ones;
 * each byte as its difference to the one before it. `bytes`: high byte first.
 */
function floatDifferences(bytes: Uint8Array, rows: number, width: number): Uint8Array {
  const rowBytes = 4 * width;
  const out = new Uint8Array(rows * rowBytes);
  for (let r = 0; r < rows; r++) {
    const start = r * rowBytes;
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
