import { highestStored, type RasterInfo, type SourceStatistics } from '../raster';

/** Codes may end this near to the ends of what they can hold, as a share, and still reach them. */
const NEAR_END = 0.005;

/** Elevations that a note gives for the lowest and the highest. */
export function notedRange({
  noted,
}: Pick<RasterInfo, 'noted'>): { readonly low: number; readonly high: number } | null {
  const { low, high } = noted ?? {};
  return low !== undefined && high !== undefined ? { low, high } : null;
}

/**
 * Whether what a note calls lowest and highest may be samples and not what a file can hold at the ends: it does not say
 * which, and the samples don't reach both ends. False as long as the samples have not been counted.
 */
export function maybeOfSamples(info: RasterInfo, stats: Pick<SourceStatistics, 'min' | 'max'> | null): boolean {
  const { min = null, max = null } = stats ?? {};
  if (!notedRange(info) || info.noted?.ends || min === null || max === null || max <= min) return false;
  const top = highestCode(info);
  return min > NEAR_END * top || max < (1 - NEAR_END) * top;
}

/** The highest stored value of whole numbers; of floats from 0 to 1 that is 1. */
export const highestCode = (info: RasterInfo): number => (info.sampleType === 'float' ? 1 : highestStored(info));
