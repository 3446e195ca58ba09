import type { SourceFacts } from '@/core/plan';
import type { GroundStatistics, RasterInfo } from '@/core/raster';

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

/** Ground statistics with the given lowest and highest sample. */
export function groundOf(min: number, max: number, over: Partial<GroundStatistics> = {}): GroundStatistics {
  return {
    // what a plan of the same source counts from
    datum: 32768,
    min: min - 32768,
    max: max - 32768,
    mean: (min + max) / 2 - 32768,
    voids: 0,
    outside: null,
    histogram: new Array<number>(256).fill(1),
    spots: [
      { id: 'highest', x: 3, y: 4, value: max - 32768 },
      { id: 'lowest', x: 0, y: 0, value: min - 32768 },
    ],
    ...over,
  };
}
