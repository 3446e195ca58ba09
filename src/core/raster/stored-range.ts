import type { RasterInfo } from './types';

type StoredType = Pick<RasterInfo, 'bitDepth' | 'sampleType'>;

/** Highest value that a stored sample can take: the highest code, or 1 for floats. */
export function highestStored(info: StoredType): number {
  if (info.sampleType === 'float') return 1;
  return 2 ** (info.bitDepth - (info.sampleType === 'int' ? 1 : 0)) - 1;
}

/** Lowest value that a stored sample can take: 0, or the most negative code of a signed type. */
export function lowestStored(info: StoredType): number {
  return info.sampleType === 'int' ? -(2 ** (info.bitDepth - 1)) : 0;
}
