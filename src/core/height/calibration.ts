import { LevelGridError } from '../base';
import { type RasterInfo } from '../raster';
import type { Recipe } from '../recipe';

/** Elevation = offset + unit · stored value, in world metres (after the world scale). */
export interface Calibration {
  readonly unit: number;
  readonly offset: number;
}

/** Highest value that a stored sample can take: the highest code, or 1 for floats. */
export function highestStored(info: Pick<RasterInfo, 'bitDepth' | 'sampleType'>): number {
  if (info.sampleType === 'float') return 1;
  return 2 ** (info.bitDepth - (info.sampleType === 'int' ? 1 : 0)) - 1;
}

/** Lowest value that a stored sample can take: 0, or the most negative code of a signed type. */
export function lowestStored(info: Pick<RasterInfo, 'bitDepth' | 'sampleType'>): number {
  return info.sampleType === 'int' ? -(2 ** (info.bitDepth - 1)) : 0;
}

/** What stored samples stand for. Whole numbers need low and high; floats without them are metres. */
export function calibrate(recipe: Recipe, info: RasterInfo): Calibration {
  const { low, high } = recipe.source;
  const k = recipe.fit.worldScale;
  if (low === undefined || high === undefined) {
    if (info.sampleType === 'float') return { unit: k, offset: 0 };
    throw new LevelGridError('calibration', {
      found: 'no elevations for the codes of the source',
      expected: 'the elevation of code 0 and of the highest code',
      remedy: 'Say what the lowest and highest code stand for.',
    });
  }
  return { unit: ((high - low) / highestStored(info)) * k, offset: low * k };
}

/** Elevations of height samples (stored values less `datum`) instead of stored values. */
export function aboveDatum({ unit, offset }: Calibration, datum: number): Calibration {
  return { unit, offset: offset + unit * datum };
}

/** Heights multiplied by `factor` about the elevation `pivot`. */
export function exaggerated({ unit, offset }: Calibration, pivot: number, factor: number): Calibration {
  return { unit: unit * factor, offset: exaggeratedElevation(offset, pivot, factor) };
}

/** One elevation of the true world as it stands when heights are multiplied by `factor` about `pivot`. */
export function exaggeratedElevation(elevation: number, pivot: number, factor: number): number {
  return factor === 1 ? elevation : pivot + factor * (elevation - pivot);
}
