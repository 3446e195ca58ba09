import { highestStored, type OpenRaster, type RasterInfo } from '../raster';
import type { Note } from './beside';

/** A raster with what a note beside it says, where the file itself does not say it. */
export function noted<T extends OpenRaster>(raster: T, note: Note): T {
  const { info } = raster;
  const { low, high, ends, step, spacing, stretch, from, lines } = note;
  const top = high ?? (low !== undefined && step !== undefined ? low + step * highestStored(info) : undefined);
  const range = low !== undefined && top !== undefined ? { low, high: top } : null;
  // whole numbers that have a unit, or a sign, are elevations by themselves
  const codes = range && info.sampleType === 'uint' && info.unit === undefined && !info.codes;
  const next: RasterInfo = {
    ...info,
    noted: {
      from,
      lines,
      ...(range ?? {}),
      ...(ends || (high === undefined && range) ? { ends: true as const } : {}),
      ...(spacing === undefined ? {} : { spacing }),
      // heights whose true ends are said are true, however they were stretched
      ...(stretch === undefined || range ? {} : { stretch }),
    },
    ...(codes ? { codes: { ...range, stretch: 1, from } } : {}),
  };
  return { ...raster, info: next };
}
