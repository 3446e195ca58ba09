/** What one height step means on the ground. */
export interface Precision {
  /** Metres from one code to the next. */
  readonly step: number;
  /** Samples that a terrace is wide on a slope of 2 %. */
  readonly terraceAt2Percent: number;
  /** Slope, in percent, by which even ground may seem to tilt from sample to sample. */
  readonly jitterPercent: number;
}

/** terrace = step/(slope · spacing); jitter = step/spacing. All in world metres. */
export function precision(step: number, spacing: number): Precision {
  return { step, terraceAt2Percent: step / (0.02 * spacing), jitterPercent: (100 * step) / spacing };
}
