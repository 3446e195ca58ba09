import { checkpoint, formatNumber, type JobContext } from '../base';
import { CodeStatisticsKernel, FloatStatisticsKernel, FLOATS_AT_ONCE, type FloatFold } from '../wasm';
import { lookWarnings, RowSampler, type SampleLook } from './detail';
import { distinctCounter, MOST_FLOATS, WholeSteps, type DistinctCounter } from './distinct';
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
  /** How some rows look; left out where there is too little to see. */
  readonly look?: SampleLook;
}

/** Below this the way into the kernel costs more than it saves. */
const LEAST_FOR_KERNEL = 4096;

/** The plain twin of the kernel: two samples go together there, hence two sums. */
function foldFloats(data: Float32Array): FloatFold {
  let [min, max, voids] = [Infinity, -Infinity, 0];
  const sums: [number, number] = [0, 0];
  const n = data.length;
  for (let i = 0; i < n; i++) {
    const value = data[i] as number;
    if (value - value !== 0) {
      voids++;
      continue;
    }
    if (value < min) min = value;
    if (value > max) max = value;
    sums[i & 1]! += value;
  }
  return { min, max, voids, sum: sums[0] + sums[1] };
}

/** One partial sum per stretch of samples keeps the order of summation fixed and the rounding small. */
function foldsOf(data: StoredBand['data']): FloatFold[] {
  if (!(data instanceof Float32Array)) return [foldAny(data)];
  // a loop of its own for floats: one that has met one type of array only is several times as fast
  const parts: FloatFold[] = [];
  for (let from = 0; from < data.length; from += FLOATS_AT_ONCE)
    parts.push(foldFloats(data.subarray(from, from + FLOATS_AT_ONCE)));
  return parts;
}

function foldAny(data: StoredBand['data']): FloatFold {
  let [min, max, voids, sum] = [Infinity, -Infinity, 0, 0];
  const n = data.length;
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
  return { min, max, voids, sum };
}

/** Collects the statistics band by band. */
export class StatisticsCollector {
  private samples = 0;
  private voids = 0;
  private min = Infinity;
  private max = -Infinity;
  private sum = 0;
  private distinct: DistinctCounter | null = null;
  private kernel: CodeStatisticsKernel | null = null;
  private floats: FloatStatisticsKernel | null = null;
  private readonly plain: boolean;
  /** Once so many different floats are held and some of them are no whole numbers, no more are told apart. */
  private enough: number;

  /** `plain`: without kernels. `enough`: see there; all by default. */
  constructor({ plain = false, enough = Infinity }: { readonly plain?: boolean; readonly enough?: number } = {}) {
    this.plain = plain;
    this.enough = enough;
  }

  add({ data, place }: Pick<StoredBand, 'data' | 'place'>): void {
    // the kernel's memory may grow and take the view away: what is needed of it is asked for before
    const { length } = data;
    if (data instanceof Uint16Array && length >= LEAST_FOR_KERNEL && !this.plain) {
      this.kernel ??= CodeStatisticsKernel.create(place?.kernels);
      if (this.kernel) {
        this.kernel.add(place ?? data);
        this.samples += length;
        return;
      }
    }
    if (data instanceof Float32Array && !this.distinct && (this.floats ?? length >= LEAST_FOR_KERNEL)) {
      this.floats ??= this.plain ? null : FloatStatisticsKernel.create(MOST_FLOATS);
      if (this.floats) {
        this.take(this.floats.add(data), length);
        this.stopWhereEnough(this.floats);
        return;
      }
    }
    this.addPlain(data);
  }

  private stopWhereEnough(floats: FloatStatisticsKernel): void {
    if (floats.held <= this.enough) return;
    this.enough = Infinity;
    if (!floats.values().every((value) => Number.isSafeInteger(value))) floats.stop();
  }

  private addPlain(data: StoredBand['data']): void {
    this.distinct ??= distinctCounter(data);
    this.distinct.add(data);
    this.take(foldsOf(data), data.length);
  }

  private take(folds: readonly FloatFold[], samples: number): void {
    for (const { min, max, voids, sum } of folds) {
      this.min = Math.min(this.min, min);
      this.max = Math.max(this.max, max);
      this.voids += voids;
      this.sum += sum;
    }
    this.samples += samples;
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
    this.distinct ??= this.floats && kernelCounter(this.floats);
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

/** What the kernel has found of different floats. */
function kernelCounter(kernel: FloatStatisticsKernel): DistinctCounter {
  const { more } = kernel;
  const steps = new WholeSteps();
  if (!more) kernel.values().forEach((value) => steps.add(value));
  return {
    add: () => undefined,
    count: () => Math.min(kernel.held, MOST_FLOATS),
    more: () => more,
    step: () => null,
    wholeStep: () => (more ? null : steps.result()),
  };
}

const wholeStepOf = (step: number | null): { wholeStep?: number } => (step === null ? {} : { wholeStep: step });

/** One pass over all samples. */
export async function sourceStatistics(raster: OpenRaster, job?: JobContext): Promise<SourceStatistics> {
  const counter = new SourceCounter(raster.info);
  for await (const band of raster.bands(job)) {
    checkpoint(job);
    counter.add(band);
    job?.report?.(band.y + band.rows, raster.info.height);
  }
  return counter.result();
}

/** The same, of bands that somebody else reads. */
export class SourceCounter {
  private readonly collector = new StatisticsCollector();
  private readonly rows: RowSampler;

  constructor(private readonly info: RasterInfo) {
    this.rows = new RowSampler(info);
  }

  add(band: StoredBand): void {
    this.rows.add(band);
    this.collector.add(band);
  }

  result = (): SourceStatistics => withLook(this.collector.result(), this.rows, this.info);
}

/** Statistics with what some rows have shown. */
export function withLook(statistics: SourceStatistics, rows: RowSampler, info: RasterInfo): SourceStatistics {
  const look = rows.result(info);
  return look ? { ...statistics, look } : statistics;
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
  if (s.look) warnings.push(...lookWarnings(info, s.look));
  if (s.voids > 0) {
    warnings.push({
      code: 'voids',
      message: `${formatNumber(s.voids, 0)} of ${formatNumber(s.samples, 0)} samples hold no height (not a number, or marked as voids by the file).`,
    });
  }
  return warnings;
}
