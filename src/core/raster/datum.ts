import type { JobContext } from '../base';
import { floatsAboveKernel } from '../wasm';
import type { Band, CodeBand, HeightStream, OpenRaster, StoredSamples } from './types';

/**
 * The stored value that is taken off before samples become Float32, so that 15 m of range at 4000 m of elevation and
 * 32-bit codes keep their precision: Float32 is finest about zero, so the middle of what matters lies there. Whole for
 * sources of whole numbers, whose differences are then exact.
 */
export function datumAbout(low: number, high: number, whole: boolean): number {
  const middle = low / 2 + high / 2;
  if (!Number.isFinite(middle)) return 0;
  return whole ? Math.round(middle) : middle;
}

/** Stored samples as Float32 above `datum`. Infinite values count as voids. */
export function toHeights(data: StoredSamples, datum: number): Float32Array {
  if (data instanceof Float32Array) return floatsAboveKernel(data, datum) ?? floatsAbove(data, datum);
  const n = data.length;
  const whole = !(data instanceof Float64Array);
  if (datum === 0 && whole) return new Float32Array(data);
  const out = new Float32Array(n);
  if (whole) for (let i = 0; i < n; i++) out[i] = (data[i] as number) - datum;
  else
    for (let i = 0; i < n; i++) {
      const value = data[i] as number;
      out[i] = Number.isFinite(value) ? value - datum : NaN;
    }
  return out;
}

/** The same for floats of 32 bits, the plain twin of the kernel: a loop that has met one type of array only is several times as fast. */
export function floatsAbove(data: Float32Array, datum: number): Float32Array {
  const n = data.length;
  const out = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const height = (data[i] as number) - datum;
    out[i] = height - height === 0 ? height : NaN;
  }
  return out;
}

/** The heights of an opened raster as a stream. */
export function heightsOf(raster: OpenRaster, datum: number): HeightStream {
  const { width, height, sampleType, bitDepth, mayHoldVoids = false } = raster.info;
  const stream: HeightStream = {
    width,
    height,
    datum,
    async *bands(job?: JobContext): AsyncGenerator<Band> {
      for await (const { y, rows, data } of raster.bands(job)) yield { y, rows, data: toHeights(data, datum) };
    },
  };
  if (!Number.isInteger(datum) || sampleType !== 'uint' || bitDepth !== 16 || mayHoldVoids) return stream;
  return {
    ...stream,
    async *codes(job?: JobContext): AsyncGenerator<CodeBand> {
      for await (const { y, rows, data } of raster.bands(job)) yield { y, rows, data: data as Uint16Array };
    },
  };
}
