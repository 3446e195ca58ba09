import type { SourceFacts } from '@/core/plan';
import type { RasterInfo } from '@/core/raster';

/** Facts of a source of 16 bits whose occurring codes run from `min` to `max`. */
export function wideFacts(
  width = 1536,
  height = width,
  min = 0,
  max = 65535,
  over: Partial<RasterInfo> = {},
): SourceFacts {
  return {
    file: 'kettle-tarn.png',
    info: {
      format: 'png',
      width,
      height,
      channels: 1,
      bitDepth: 16,
      sampleType: 'uint',
      byteOrder: null,
      warnings: [],
      ...over,
    },
    warnings: [],
    stats: {
      samples: width * height,
      voids: 0,
      min,
      max,
      mean: (min + max) / 2,
      distinctCodes: max - min + 1,
      codeStep: 1,
    },
  };
}
