import type { SourceStatistics } from '../raster';

/** What one height step means on the ground. */
export interface Precision {
  /** Metres from one written code to the next. */
  readonly step: number;
  /** Metres from one height of the source to the next; null where it is finer than can be told. */
  readonly sourceStep: number | null;
  /** The larger of both: what the eye sees. */
  readonly effectiveStep: number;
  /** Samples that a terrace is wide on a slope of 2 %. */
  readonly terraceAt2Percent: number;
  /** Slope, in percent, by which even ground may seem to tilt from sample to sample. */
  readonly jitterPercent: number;
}

/** terrace = step/(slope · spacing); jitter = step/spacing, with the effective step. All in world metres. */
export function precision(step: number, sourceStep: number | null, spacing: number): Precision {
  const effectiveStep = Math.max(step, sourceStep ?? 0);
  return {
    step,
    sourceStep,
    effectiveStep,
    terraceAt2Percent: effectiveStep / (0.02 * spacing),
    jitterPercent: (100 * effectiveStep) / spacing,
  };
}

/** Rasters of at least so many samples would show more values if they had them. */
const ENOUGH_SAMPLES = 4096;
const FEW_VALUES = 256;
const FEWEST = 16;

/**
 * Stored units from one value of a source to the next, whatever its bit depth says: the common step of its codes, or,
 * where a raster of many samples holds no more than 256 values, their mean distance (8-bit heights that went through
 * a curve have no common step). Null for a single value, and for floats of many values with fractions.
 */
export function storedStep(
  stats: Pick<SourceStatistics, 'samples' | 'voids' | 'min' | 'max' | 'distinctCodes' | 'codeStep' | 'wholeStep'>,
): number | null {
  const { min, max, distinctCodes } = stats;
  const codeStep = stats.codeStep ?? stats.wholeStep ?? null;
  if (min === null || max === null || distinctCodes < 2) return null;
  // so few values share a step by chance
  if (distinctCodes < FEWEST && stats.samples < ENOUGH_SAMPLES) return codeStep === null ? null : 1;
  const few = stats.samples - stats.voids >= ENOUGH_SAMPLES && distinctCodes <= FEW_VALUES;
  const mean = few ? (max - min) / (distinctCodes - 1) : null;
  if (codeStep === null || mean === null) return codeStep ?? mean;
  // values that are missing here and there widen the mean, but not the step
  return codeStep > mean / 2 ? codeStep : mean;
}
