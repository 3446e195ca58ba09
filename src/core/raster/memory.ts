import { checkpoint } from '../base';
import {
  bandRows,
  type Band,
  type HeightStream,
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
  type StoredSamples,
} from './types';

/** A raster whose stored samples lie in memory, all of them: what the map needs to answer at once at any zoom. */
export function memoryRaster(
  info: RasterInfo,
  samples: StoredSamples,
  lateWarnings: readonly RasterWarning[] = [],
): OpenRaster {
  return {
    info,
    lateWarnings,
    async *bands(job) {
      const { width, height } = info;
      const perBand = bandRows(width);
      for (let y = 0; y < height; y += perBand) {
        checkpoint(job);
        const rows = Math.min(perBand, height - y);
        yield { y, rows, data: samples.subarray(y * width, (y + rows) * width) };
      }
    },
  };
}

type Stored = Pick<RasterInfo, 'bitDepth' | 'sampleType' | 'mayHoldVoids'>;

/**
 * Bytes of one sample, decoded. Fewer than 8 bits take a byte; floats of 16 bits are held in 32; where there may be
 * voids, whole numbers are held as the shortest floats that keep them exact; whole numbers of 64 bits are held as floats.
 */
export function sampleBytes({ bitDepth, sampleType, mayHoldVoids = false }: Stored): 1 | 2 | 4 | 8 {
  if (sampleType === 'float') return bitDepth > 32 ? 8 : 4;
  if (mayHoldVoids) return bitDepth > 16 ? 8 : 4;
  return bitDepth > 32 ? 8 : bitDepth > 16 ? 4 : bitDepth > 8 ? 2 : 1;
}

/** Bytes that all samples of a raster take, decoded. */
export function storedBytes(info: Stored & Pick<RasterInfo, 'width' | 'height'>): number {
  return info.width * info.height * sampleBytes(info);
}

/** An array of the type in which a raster's samples are held, over all of a buffer. */
export function samplesOver(info: Stored, buffer: ArrayBuffer): StoredSamples {
  const bytes = sampleBytes(info);
  if (bytes === 8) return new Float64Array(buffer);
  if (info.sampleType === 'float' || info.mayHoldVoids) return new Float32Array(buffer);
  if (info.sampleType === 'int')
    return bytes === 1 ? new Int8Array(buffer) : bytes === 2 ? new Int16Array(buffer) : new Int32Array(buffer);
  return bytes === 1 ? new Uint8Array(buffer) : bytes === 2 ? new Uint16Array(buffer) : new Uint32Array(buffer);
}

/** An empty array of the type in which a raster's samples are held, on shared memory where `shared` says so. */
export function allocateSamples(info: Stored & Pick<RasterInfo, 'width' | 'height'>, shared: boolean): StoredSamples {
  const all = storedBytes(info);
  return samplesOver(info, (shared ? new SharedArrayBuffer(all) : new ArrayBuffer(all)) as ArrayBuffer);
}

/** An array of the same type as another, for so many samples. */
export const samplesLike = (like: StoredSamples, length: number): StoredSamples =>
  new (like.constructor as new (length: number) => StoredSamples)(length);

/** All bands of a stream in one array; for tests and small rasters. */
export async function collect(stream: HeightStream): Promise<Float32Array> {
  const out = new Float32Array(stream.width * stream.height);
  for await (const { y, data } of stream.bands()) out.set(data, y * stream.width);
  return out;
}

/** A stream over heights in memory, in bands of `rowsPerBand` rows. */
export function heightStream(data: Float32Array, width: number, rowsPerBand = bandRows(width)): HeightStream {
  const height = data.length / width;
  return {
    width,
    height,
    datum: 0,
    async *bands(): AsyncGenerator<Band> {
      for (let y = 0; y < height; y += rowsPerBand) {
        const rows = Math.min(rowsPerBand, height - y);
        yield { y, rows, data: data.subarray(y * width, (y + rows) * width) };
      }
    },
  };
}
