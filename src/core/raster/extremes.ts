import type { SourceStatistics } from './statistics';
import type { StoredSamples } from './types';

/** Where the lowest and the highest sample of a raster lie: of several alike, the first from the north-west. */
export interface SourceExtremes {
  readonly lowest: { readonly column: number; readonly row: number };
  readonly highest: { readonly column: number; readonly row: number };
}

/** Finds them by their values, which are known already; null where no sample holds a height. */
export function extremesOf(
  samples: StoredSamples,
  width: number,
  { min, max }: Pick<SourceStatistics, 'min' | 'max'>,
): SourceExtremes | null {
  if (min === null || max === null) return null;
  const at = (index: number) => ({ column: index % width, row: Math.floor(index / width) });
  return { lowest: at(samples.indexOf(min)), highest: at(samples.indexOf(max)) };
}
