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

/** Bytes that all samples of a raster take, decoded: fewer than 8 bits take a byte, samples with voids four. */
export function storedBytes(info: Pick<RasterInfo, 'width' | 'height' | 'bitDepth' | 'mayHoldVoids'>): number {
  return info.width * info.height * (info.mayHoldVoids ? 4 : Math.max(8, info.bitDepth) / 8);
}

/** An empty array of the type in which a raster's samples are stored, on shared memory where `shared` says so. */
export function allocateSamples(
  info: Pick<RasterInfo, 'width' | 'height' | 'bitDepth' | 'sampleType' | 'mayHoldVoids'>,
  shared: boolean,
): StoredSamples {
  const all = storedBytes(info);
  const bytes = all / (info.width * info.height);
  const buffer = (shared ? new SharedArrayBuffer(all) : new ArrayBuffer(all)) as ArrayBuffer;
  if (info.mayHoldVoids) return new Float32Array(buffer);
  if (info.sampleType === 'float') return info.bitDepth === 64 ? new Float64Array(buffer) : new Float32Array(buffer);
  if (info.sampleType === 'int')
    return bytes === 1 ? new Int8Array(buffer) : bytes === 2 ? new Int16Array(buffer) : new Int32Array(buffer);
  return bytes === 1 ? new Uint8Array(buffer) : bytes === 2 ? new Uint16Array(buffer) : new Uint32Array(buffer);
}

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
