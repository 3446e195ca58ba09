import { LevelGridError } from '../base';
import { highestStored, METRES_PER_UNIT, type RasterInfo } from '../raster';
import type { Recipe, SourceHeights } from '../recipe';

/** Elevation = offset + unit · stored value, in world metres (after the world scale). */
export interface Calibration {
  readonly unit: number;
  readonly offset: number;
}

/**
 * What stored samples stand for; `ends`: the type of codes that the heights of the recipe speak of. Throws `calibration` for whole numbers of which the recipe says neither elevations nor
 * a unit.
 */
export function calibrate(recipe: Recipe, ends: Pick<RasterInfo, 'bitDepth' | 'sampleType'>): Calibration {
  const { unit, offset } = trueCalibration(recipe.source.heights, ends);
  const k = recipe.fit.worldScale;
  return { unit: unit * k, offset: offset * k };
}

/** The same in true metres, before the world scale. */
export function trueCalibration(
  heights: SourceHeights,
  info: Pick<RasterInfo, 'bitDepth' | 'sampleType'>,
): Calibration {
  const whole = info.sampleType !== 'float';
  const { stretch = 1 } = heights;
  if (heights.as === 'elevations') {
    if (whole && heights.unit === undefined) {
      throw new LevelGridError('calibration', {
        found: 'codes that are said to be elevations, without a unit',
        expected: 'their unit, or the elevation of code 0 and of the highest code',
        remedy:
          'Say in which unit they are (source.heights.unit in the recipe), or what the lowest and highest code stand for.',
      });
    }
    return { unit: METRES_PER_UNIT[heights.unit ?? 'metre'] / stretch, offset: 0 };
  }
  const { base, step } =
    heights.as === 'ends'
      ? { base: heights.low, step: (heights.high - heights.low) / highestStored(info) }
      : { base: heights.base, step: heights.step };
  // what was cut off lies between nothing and a whole step: half a step on the average
  const shift = heights.truncated && whole ? step / stretch / 2 : 0;
  return { unit: step / stretch, offset: base + shift };
}

/** True where whole numbers are codes, whose lowest and highest have an elevation of their own. */
export const holdsCodes = (heights: SourceHeights, info: Pick<RasterInfo, 'sampleType'>): boolean =>
  heights.as === 'ends' || info.sampleType !== 'float';

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

/** The sample that stands for an elevation as a recipe names it: true metres, which shrink with the world. */
export const sampleOfElevation = (elevation: number, { unit, offset }: Calibration, worldScale: number): number =>
  (elevation * worldScale - offset) / unit;
