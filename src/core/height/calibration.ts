import { LevelGridError } from '../base';
import { datumFor, type RasterInfo, type SourceStatistics } from '../raster';
import type { Recipe } from '../recipe';

/** elevation = offset + unit · stored value, in world metres (after the world scale). */
export interface Calibration {
  readonly unit: number;
  readonly offset: number;
}

/** Highest value that a stored sample can take: the highest code, or 1 for floats. */
export function highestStored(info: Pick<RasterInfo, 'bitDepth' | 'sampleType'>): number {
  if (info.sampleType === 'float') return 1;
  return 2 ** (info.bitDepth - (info.sampleType === 'int' ? 1 : 0)) - 1;
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

/** Elevations of height samples (Float32 above the datum) instead of stored values. */
export function aboveDatum(calibration: Calibration, info: RasterInfo, stats: SourceStatistics): Calibration {
  const datum = datumFor(info.bitDepth, stats.min);
  return { unit: calibration.unit, offset: calibration.offset + calibration.unit * datum };
}
