import { checkpoint, type JobContext } from '../base';
import { CodeStatisticsKernel } from '../wasm';
import { distinctCounter, type DistinctCounter } from './distinct';
import type { OpenRaster, RasterInfo, RasterWarning, StoredBand } from './types';

/** Exact facts over all valid samples of a source, in its own units (codes, or metres for floats). */
export interface SourceStatistics {
  /** Samples in all, voids included. */
  readonly samples: number;
  readonly voids: number;
  readonly min: number | null;
  readonly max: number | null;
  readonly mean: number | null;
  readonly distinctCodes: number;
  /** There are more than that: so many different values are not told apart. */
  readonly distinctMore?: true;
  /** Common step of the occurring codes; null for floats and for a single code. */
  readonly codeStep: number | null;
  /** Common step of floats that are all whole numbers; left out for others. */
  readonly wholeStep?: number;
}

/** Below this the way into the kernel costs more than it saves. */
const LEAST_FOR_KERNEL = 4096;

/** Collects the statistics band by band. */
export class StatisticsCollector {
  private samples = 0;
  private voids = 0;
  private min = Infinity;
  private max = -Infinity;
  private sum = 0;
  private distinct: DistinctCounter | null = null;
  private kernel: CodeStatisticsKernel | null = null;

  add({ data, place }: Pick<StoredBand, 'data' | 'place'>): void {
    // the kernel's memory may grow and take the view away: what is needed of it is asked for before
    const { length } = data;
    if (data instanceof Uint16Array && length >= LEAST_FOR_KERNEL) {
      this.kernel ??= CodeStatisticsKernel.create(place?.kernels);
      if (this.kernel) {
        this.kernel.add(place ?? data);
        this.samples += length;
        return;
      }
    }
    this.addPlain(data);
  }

  private addPlain(data: StoredBand['data']): void {
    this.distinct ??= distinctCounter(data);
    this.distinct.add(data);
    const n = data.length;
    let { min, max, voids } = this;
    // one partial sum per band keeps the order of summation fixed and the rounding small
    let sum = 0;
    for (let i = 0; i < n; i++) {
      const value = data[i] as number;
      if (value - value !== 0) {
        voids++;
        continue;
      }
      if (value < min) min = value;
      if (value > max) max = value;
      sum += value;
    }
    this.min = min;
    this.max = max;
    this.voids = voids;
    this.sum += sum;
    this.samples += n;
  }

  result(): SourceStatistics {
    if (this.kernel) {
      const { sum, low, high, seen } = this.kernel.result();
      this.kernel = null;
      this.distinct ??= distinctCounter(new Uint16Array(0));
      this.distinct.merge?.(seen);
      this.min = Math.min(this.min, low);
      this.max = Math.max(this.max, high);
      this.sum += sum;
    }
    const valid = this.samples - this.voids;
    return {
      samples: this.samples,
      voids: this.voids,
      min: valid > 0 ? this.min : null,
      max: valid > 0 ? this.max : null,
      mean: valid > 0 ? this.sum / valid : null,
      distinctCodes: this.distinct?.count() ?? 0,
      codeStep: this.distinct?.step() ?? null,
      ...(this.distinct?.more?.() ? { distinctMore: true as const } : {}),
      ...wholeStepOf(this.distinct?.wholeStep?.() ?? null),
    };
  }
}

const wholeStepOf = (step: number | null): { wholeStep?: number } => (step === null ? {} : { wholeStep: step });

/** One pass over all samples. */
export async function sourceStatistics(raster: OpenRaster, job?: JobContext): Promise<SourceStatistics> {
  const collector = new StatisticsCollector();
  for await (const band of raster.bands(job)) {
    checkpoint(job);
    collector.add(band);
    job?.report?.(band.y + band.rows, raster.info.height);
  }
  return collector.result();
}

/**
 * Warnings that need the numbers: content of 8 bits in a file of 16 (all codes are multiples of 256 or 257, or at most
 * 256 codes lie far apart), a constant raster, voids.
 */
export function statisticsWarnings(info: RasterInfo, s: SourceStatistics): RasterWarning[] {
  const warnings: RasterWarning[] = [];
  const { min, max, distinctCodes, codeStep } = s;
  if (min !== null && max !== null) {
    if (min === max) {
      warnings.push({ code: 'constant', message: `Every sample holds the same value, ${min}: the ground is flat.` });
    } else if (info.sampleType !== 'float' && info.bitDepth === 16 && distinctCodes <= 256) {
      const widened = codeStep !== null && (codeStep % 256 === 0 || codeStep % 257 === 0);
      const sparse = s.samples >= 4096 && (max - min) / (distinctCodes - 1) >= 16;
      if (widened || sparse) {
        warnings.push({
          code: 'eight-bit-content',
          message:
            `The file has 16 bits, but only ${distinctCodes} different codes occur` +
            `${codeStep !== null && codeStep > 1 ? `, all ${codeStep} apart or a multiple of it` : ''}: ` +
            'it was made from 8 bits. No precision was gained by converting it.',
        });
      }
    }
  }
  if (s.voids > 0) {
    warnings.push({
      code: 'voids',
      message: `${s.voids} of ${s.samples} samples hold no height (not a number, or marked as transparent).`,
    });
  }
  return warnings;
}
