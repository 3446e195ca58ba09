import type { OpenRaster, RasterInfo } from '../raster';
import { RECORD_ENDING, type SurveyRecord } from './record';

/** Names of the coordinate system of surveyed ground: degrees on the usual ellipsoid. */
const DEGREES = 'EPSG:4326';

/** A raster with what the record beside it says: where it lies, what its codes stand for, which of them is a void. */
export function recorded<T extends OpenRaster>(raster: T, record: SurveyRecord, file: string): T {
  const { info } = raster;
  if (info.width !== record.width || info.height !== record.height) return raster;
  const { codes, stretch, extent, seconds } = record;
  const step = seconds / 3600;
  const empty = codes?.empty;
  const next: RasterInfo = {
    ...info,
    registration: 'vertex',
    georeference: info.georeference ?? {
      x: extent.west,
      y: extent.north,
      dx: step,
      dy: step,
      metres: null,
      degrees: true,
      crs: DEGREES,
    },
    ...(codes
      ? {
          codes: {
            low: codes.low,
            high: codes.high,
            stretch,
            from: `${file.replace(/\.[^.]*$/, '')}.${RECORD_ENDING}`,
          },
        }
      : stretch === 1
        ? {}
        : { stretched: stretch }),
    ...(empty === undefined ? {} : { noData: empty, mayHoldVoids: true as const }),
  };
  if (empty === undefined) return { ...raster, info: next };
  return {
    ...raster,
    info: next,
    async *bands(job) {
      for await (const band of raster.bands(job)) {
        const data = Float32Array.from(band.data as Float32Array, (v) => (v === empty ? NaN : v));
        yield { y: band.y, rows: band.rows, data };
      }
    },
  };
}
