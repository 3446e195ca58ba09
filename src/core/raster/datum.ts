import type { JobContext } from '../base';
import type { Band, CodeBand, HeightStream, OpenRaster, StoredSamples } from './types';

/**
 * The value that is taken off before heights become Float32, so that 15 m of range at 4000 m of elevation and
 * 32-bit codes keep their precision. Whole numbers up to 16 bits are exact in Float32 and need none.
 */
export function datumFor(bitDepth: number, lowest: number | null): number {
  return bitDepth <= 16 || lowest === null ? 0 : lowest;
}

/** Stored samples as Float32 above `datum`. Infinite values count as voids. */
export function toHeights(data: StoredSamples, datum: number): Float32Array {
  const n = data.length;
  if (datum === 0 && !(data instanceof Float32Array) && !(data instanceof Float64Array)) return new Float32Array(data);
  const out = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const value = data[i] as number;
    out[i] = Number.isFinite(value) ? value - datum : NaN;
  }
  return out;
}

/** The heights of an opened raster as a stream. */
export function heightsOf(raster: OpenRaster, datum: number): HeightStream {
  const { width, height, sampleType, bitDepth } = raster.info;
  const stream: HeightStream = {
    width,
    height,
    async *bands(job?: JobContext): AsyncGenerator<Band> {
      for await (const { y, rows, data } of raster.bands(job)) yield { y, rows, data: toHeights(data, datum) };
    },
  };
  if (datum !== 0 || sampleType !== 'uint' || bitDepth !== 16) return stream;
  return {
    ...stream,
    async *codes(job?: JobContext): AsyncGenerator<CodeBand> {
      for await (const { y, rows, data } of raster.bands(job)) yield { y, rows, data: data as Uint16Array };
    },
  };
}
