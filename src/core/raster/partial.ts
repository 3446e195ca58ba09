import { formatNumber, LevelGridError, type ErrorCode, type JobContext } from '../base';
import { bandRows, type OpenRaster, type RasterWarning, type StoredBand, type StoredSamples } from './types';

/** Faults of a file of which some rows may be whole all the same. */
export const DAMAGED: ReadonlySet<ErrorCode> = new Set(['truncated', 'corrupt', 'checksum']);

/**
 * The same raster, of which rows that can't be read are voids: all from the first fault on. Which they are stands in
 * `lateWarnings` afterwards. Where not even the first rows can be read the fault is thrown as ever.
 */
export function readablePart<T extends OpenRaster>(raster: T): T {
  const { info } = raster;
  const { width, height, bitDepth, sampleType } = info;
  // one list that grows: whoever has copied the raster sees it too
  const late: RasterWarning[] = [...raster.lateWarnings];
  const tell = (...missing: RasterWarning[]): void => {
    late.splice(0, late.length, ...raster.lateWarnings, ...missing);
  };
  const floats = (data: StoredSamples): StoredSamples =>
    sampleType === 'float' || data instanceof Float32Array || data instanceof Float64Array
      ? data
      : bitDepth > 16
        ? new Float64Array(data)
        : new Float32Array(data);
  return {
    ...raster,
    info: { ...info, mayHoldVoids: true, partial: true },
    lateWarnings: late,
    async *bands(job?: JobContext): AsyncGenerator<StoredBand> {
      let next = 0;
      let like: StoredSamples = new Float32Array(0);
      try {
        for await (const { y, rows, data } of raster.bands(job)) {
          like = floats(data);
          next = y + rows;
          yield { y, rows, data: like };
        }
        tell();
      } catch (reason) {
        if (!(reason instanceof LevelGridError) || !DAMAGED.has(reason.code) || next === 0) throw reason;
        tell({
          code: 'missing-rows',
          message: `Rows ${formatNumber(next, 0)} to ${formatNumber(height - 1, 0)} can’t be read (${reason.found}): they are voids.`,
        });
        const perBand = bandRows(width);
        for (let y = next; y < height; y += perBand) {
          const rows = Math.min(perBand, height - y);
          const data = like instanceof Float64Array ? new Float64Array(rows * width) : new Float32Array(rows * width);
          yield { y, rows, data: data.fill(NaN) };
        }
      }
    },
  };
}
