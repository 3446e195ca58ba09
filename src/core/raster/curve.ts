import type { JobContext } from '../base';
import { highestStored } from './stored-range';
import type { Curve, OpenRaster, RasterInfo, StoredBand, StoredSamples } from './types';

/** The share of the height range, 0 to 1, that a stored share stands for (sRGB: IEC 61966-2-1). Odd below 0. */
export function straightShare(stored: number, curve: Curve): number {
  const share = Math.abs(stored);
  const straight =
    curve === 'srgb' ? (share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4) : share ** curve;
  return stored < 0 ? -straight : straight;
}

/** Codes of up to so many bits are looked up in a table. */
const TABLE_BITS = 16;

/** The same raster with the curve undone: floats whose 0 and 1 are code 0 and the highest code. */
export function straightened<T extends OpenRaster>(raster: T, curve: Curve): T {
  const { info } = raster;
  const straight = straightener(info, curve);
  return {
    ...raster,
    info: {
      ...info,
      sampleType: 'float',
      bitDepth: 32,
      curved: { curve, bitDepth: info.bitDepth, sampleType: info.sampleType },
    },
    async *bands(job?: JobContext): AsyncGenerator<StoredBand> {
      for await (const { y, rows, data } of raster.bands(job)) yield { y, rows, data: straight(data) };
    },
  };
}

function straightener(info: RasterInfo, curve: Curve): (data: StoredSamples) => Float32Array {
  const top = highestStored(info);
  // samples that may be voids come as floats, whatever is stored
  const tabled = info.sampleType === 'uint' && info.bitDepth <= TABLE_BITS && !info.mayHoldVoids;
  if (!tabled) return (data) => Float32Array.from(data, (value) => straightShare(value / top, curve));
  const table = Float32Array.from({ length: top + 1 }, (_, code) => straightShare(code / top, curve));
  return (data) => {
    const out = new Float32Array(data.length);
    for (let i = 0; i < out.length; i++) out[i] = table[data[i] as number]!;
    return out;
  };
}
