import { checkpoint, type JobContext } from '../base';
import { GroundKernel } from '../wasm';
import type { Band, HeightStream } from './types';

export const SPOT_IDS = [
  'highest',
  'lowest',
  'north-west',
  'north-east',
  'south-west',
  'south-east',
  'centre',
] as const;
export type SpotId = (typeof SPOT_IDS)[number];

/** A vertex of the fitted ground and its height in the raster's unit above its datum; null on a void. */
export interface GroundSpot {
  readonly id: SpotId;
  readonly x: number;
  readonly y: number;
  readonly value: number | null;
}

/** Exact facts over the fitted ground, in the raster's unit above `datum`. */
export interface GroundStatistics {
  /** The stored value that all heights here are counted from. */
  readonly datum: number;
  readonly min: number;
  readonly max: number;
  readonly mean: number;
  readonly voids: number;
  /** Samples beyond the bounds that were asked about; null where none were. */
  readonly outside: {
    readonly low: number;
    readonly high: number;
    readonly below: number;
    readonly above: number;
  } | null;
  /** 256 equal classes from lowest to highest, counted over every sample. */
  readonly histogram: readonly number[];
  readonly spots: readonly GroundSpot[];
}

/** A bound that lies open: samples below `low` and above `high` would be clipped. */
export interface Bounds {
  readonly low: number;
  readonly high: number;
}

const FINE = 8192;

/**
 * Collects the facts of the fitted ground band by band. The histogram is collected over the expected span in fine
 * classes and folded to 256 over what occurred; the outermost classes hold what lies outside.
 */
export class GroundCollector {
  private min = Infinity;
  private max = -Infinity;
  private minAt = 0;
  private maxAt = 0;
  private voids = 0;
  private sum = 0;
  private below = 0;
  private above = 0;
  private readonly fine = new Float64Array(FINE);
  private readonly fineLow: number;
  private readonly fineScale: number;
  private readonly low: number;
  private readonly high: number;
  private readonly corners = new Map<SpotId, number>();
  private kernel: GroundKernel | null = null;

  constructor(
    private readonly width: number,
    private readonly height: number,
    span: Bounds,
    private readonly bounds: Bounds | null,
    private readonly datum = 0,
    /** Uses the plain twin even where there is a kernel. */
    private readonly plain = false,
  ) {
    const margin = (span.high - span.low) * 0.1 || 1;
    this.fineLow = Math.fround(span.low - margin);
    this.fineScale = Math.fround(FINE / (span.high - span.low + 2 * margin));
    this.low = bounds ? singleFrom(bounds.low) : -Infinity;
    this.high = bounds ? singleFrom(bounds.high) : Infinity;
  }

  add({ y, rows, data, place }: Band): void {
    const { width } = this;
    for (const [id, px, py] of this.places()) {
      if (py >= y && py < y + rows) this.corners.set(id, data[(py - y) * width + px] as number);
    }
    if (!this.plain) this.kernel ??= GroundKernel.create(FINE, place?.kernels);
    if (this.kernel) {
      this.kernel.add(place ?? data, width, rows, y * width, this.low, this.high, this.fineLow, this.fineScale);
    } else this.addPlain({ y, rows, data });
  }

  private addPlain({ y, rows, data }: Band): void {
    const { width, fine, fineLow, fineScale, low, high } = this;
    const { fround } = Math;
    let { min, max, minAt, maxAt, voids, below, above } = this;
    const n = rows * width;
    const parts = new Float64Array(4);
    // partial sums per row, of every fourth sample, keep the order of summation independent of the height of the bands
    for (let i = 0; i < n;) {
      parts.fill(0);
      for (let x = 0; x < width; x++, i++) {
        const value = data[i] as number;
        if (value !== value) {
          voids++;
          continue;
        }
        parts[x & 3] = (parts[x & 3] as number) + value;
        if (value < min) {
          min = value;
          minAt = y * width + i;
        }
        if (value > max) {
          max = value;
          maxAt = y * width + i;
        }
        if (value < low) below++;
        else if (value >= high) above++;
        const at = Math.trunc(Math.max(0, Math.min(FINE - 1, fround(fround(value - fineLow) * fineScale))));
        fine[at] = (fine[at] as number) + 1;
      }
      const [a = 0, b = 0, c = 0, d = 0] = parts;
      this.sum += a + b + (c + d);
    }
    Object.assign(this, { min, max, minAt, maxAt, voids, below, above });
  }

  private places(): [SpotId, number, number][] {
    const right = this.width - 1;
    const bottom = this.height - 1;
    return [
      ['north-west', 0, 0],
      ['north-east', right, 0],
      ['south-west', 0, bottom],
      ['south-east', right, bottom],
      ['centre', right >> 1, bottom >> 1],
    ];
  }

  result(): GroundStatistics {
    if (this.kernel) {
      const { counters, fine } = this.kernel.result();
      const [min, minAt, max, maxAt, sum, voids, below, above] = counters;
      Object.assign(this, { min, minAt, max, maxAt, sum, voids, below, above });
      this.fine.set(fine);
    }
    const { width, height, voids, bounds } = this;
    const valid = width * height - voids;
    const min = valid > 0 ? this.min : 0;
    const max = valid > 0 ? this.max : 0;
    const spot = (id: SpotId, x: number, y: number, value: number): GroundSpot => ({
      id,
      x,
      y,
      value: value === value ? value : null,
    });
    return {
      datum: this.datum,
      min,
      max,
      mean: valid > 0 ? this.sum / valid : 0,
      voids,
      outside: bounds ? { low: bounds.low, high: bounds.high, below: this.below, above: this.above } : null,
      histogram: fold(this.fine, this.fineLow, this.fineScale, min, max),
      spots: [
        spot('highest', this.maxAt % width, Math.floor(this.maxAt / width), valid > 0 ? max : NaN),
        spot('lowest', this.minAt % width, Math.floor(this.minAt / width), valid > 0 ? min : NaN),
        ...this.places().map(([id, x, y]) => spot(id, x, y, this.corners.get(id) ?? NaN)),
      ],
    };
  }
}

/** The least single-precision number that is not below `bound`: heights compare with both alike. */
function singleFrom(bound: number): number {
  const near = Math.fround(bound);
  if (near >= bound) return near;
  const bits = new Int32Array(Float32Array.of(near).buffer);
  // the next one up: magnitudes grow with the bits above zero and shrink below
  if (near === 0) return 2 ** -149;
  bits[0] = (bits[0] as number) + (near > 0 ? 1 : -1);
  return new Float32Array(bits.buffer)[0] as number;
}

/** One pass over the fitted ground. */
export async function groundStatistics(
  ground: HeightStream,
  span: Bounds,
  bounds: Bounds | null,
  job?: JobContext,
): Promise<GroundStatistics> {
  const collector = new GroundCollector(ground.width, ground.height, span, bounds, ground.datum);
  for await (const band of ground.bands(job)) {
    checkpoint(job);
    collector.add(band);
    job?.report?.(band.y + band.rows, ground.height);
  }
  return collector.result();
}

/** Fine classes gathered into 256 between the lowest and highest value that occurred. */
function fold(fine: Float64Array, low: number, scale: number, min: number, max: number): number[] {
  const out = new Array<number>(256).fill(0);
  const width = (max - min) / 256 || 1;
  for (let i = 0; i < fine.length; i++) {
    const count = fine[i] as number;
    if (count === 0) continue;
    const centre = low + (i + 0.5) / scale;
    const at = Math.max(0, Math.min(255, Math.floor((centre - min) / width)));
    out[at] = (out[at] as number) + count;
  }
  return out;
}
