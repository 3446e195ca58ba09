import type { ByteSource } from '../../base';
import { HOST_IS_LITTLE, swapBytes } from '../bytes';
import { viewSamples, rawSampleBytes, type RawLayout } from './layout';

/** A small picture of a headerless file as one layout reads it. */
export interface RawPreview {
  readonly width: number;
  readonly height: number;
  /** 0..1 from the lowest to the highest of the samples taken; NaN where there is none. */
  readonly values: Float32Array;
}

/** Samples at even distances, at most `side` of them along the longer side. Reads only the rows that it shows. */
export async function rawPreview(source: ByteSource, layout: RawLayout, side: number): Promise<RawPreview> {
  const shrink = Math.max(1, Math.max(layout.width, layout.height) / side);
  const width = Math.max(1, Math.round(layout.width / shrink));
  const height = Math.max(1, Math.round(layout.height / shrink));
  const bytes = rawSampleBytes(layout.type);
  const rowBytes = layout.width * bytes;
  const values = new Float32Array(width * height).fill(NaN);
  let low = Infinity;
  let high = -Infinity;
  for (let y = 0; y < height; y++) {
    const row = Math.min(layout.height - 1, Math.floor(((y + 0.5) * layout.height) / height));
    const read = (await source.read(layout.skip + row * rowBytes, rowBytes)).slice();
    if (read.length < rowBytes) continue;
    if ((layout.byteOrder === 'little') !== HOST_IS_LITTLE) swapBytes(read, bytes);
    const samples = viewSamples(layout.type, read);
    for (let x = 0; x < width; x++) {
      const value = samples[Math.min(layout.width - 1, Math.floor(((x + 0.5) * layout.width) / width))] as number;
      if (!Number.isFinite(value)) continue;
      values[y * width + x] = value;
      if (value < low) low = value;
      if (value > high) high = value;
    }
  }
  const span = high > low ? high - low : 1;
  for (let i = 0; i < values.length; i++) values[i] = ((values[i] as number) - low) / span;
  return { width, height, values };
}
