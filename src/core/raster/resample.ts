import { checkpoint, LevelGridError, type JobContext } from '../base';
import { ResampleKernel, type KernelAxis } from '../kernels';
import { axisWeights, type AxisWeights, type Filter } from './kernels';
import { columnPass, rowPass } from './passes';
import { bandRows, type Band, type HeightStream } from './types';

export interface ResampleOptions {
  /** Vertices of the result. */
  readonly width: number;
  readonly height: number;
  readonly filter: Filter;
  /** Keeps results within these bounds (the source's lowest and highest); null lets kernels overshoot. */
  readonly clamp: { readonly low: number; readonly high: number } | null;
  /** True where the source may hold voids: weights are then renormalised around them, at about twice the cost. */
  readonly voids: boolean;
}

/**
 * Resamples a stream of height bands, vertex to vertex, in two passes: rows as they come, columns from a ring of row
 * results as tall as the widest kernel. Memory: (taps + 1) rows of the result. Every output depends on its own
 * position in the whole raster alone, never on band borders, so shared edges stay equal.
 */
export function resample(source: HeightStream, options: ResampleOptions): HeightStream {
  const { width, height, filter, clamp, voids } = options;
  return {
    width,
    height,
    async *bands(job?: JobContext): AsyncGenerator<Band> {
      const across = axisWeights({ sourceSamples: source.width, resultSamples: width, from: 0, to: width }, filter);
      const down = axisWeights({ sourceSamples: source.height, resultSamples: height, from: 0, to: height }, filter);
      const planes = voids ? 2 : 1;
      const stride = width * planes;
      const ringRows = down.taps;
      const kernel = voids ? null : ResampleKernel.create(padded(across), padded(down), ringRows, source.width, width);
      const ring = new Float32Array(kernel ? 0 : ringRows * stride);
      const low = clamp?.low ?? -Infinity;
      const high = clamp?.high ?? Infinity;
      const rowsPerBand = bandRows(width);
      let out = new Float32Array(rowsPerBand * width);
      let bandStart = 0;
      let filled = 0;
      let next = 0;
      for await (const { y, rows, data } of source.bands(job)) {
        checkpoint(job);
        for (let r = 0; r < rows; r++) {
          const row = y + r;
          const into = ring.subarray((row % ringRows) * stride, (row % ringRows) * stride + stride);
          const line = data.subarray(r * source.width, (r + 1) * source.width);
          if (kernel) kernel.row(line, row);
          else if (voids) rowPassWithVoids(into, line, across, width);
          else rowPass(into, line, across, width);
          // every output row whose last tap is this row can be finished
          while (next < height && (down.first[next] as number) + down.taps - 1 <= row) {
            const target = out.subarray(filled * width, (filled + 1) * width);
            if (kernel) kernel.column(target, next, low, high);
            else {
              if (voids) columnPassWithVoids(target, ring, down, next, ringRows, width);
              else columnPass(target, ring, down, next, ringRows, width);
              if (clamp) clampInPlace(target, low, high);
            }
            next++;
            filled++;
            if (filled === rowsPerBand || next === height) {
              yield { y: bandStart, rows: filled, data: out.subarray(0, filled * width) };
              out = new Float32Array(rowsPerBand * width);
              bandStart = next;
              filled = 0;
            }
          }
        }
      }
      if (next < height) {
        throw new LevelGridError('truncated', {
          found: `${next} of ${height} rows`,
          expected: 'a source that delivers all its rows',
          remedy: 'Read the source file again.',
        });
      }
    },
  };
}

/** Row pass around voids: first plane the weighted sum, second plane the weight that was really there. */
function rowPassWithVoids(out: Float32Array, line: Float32Array, axis: AxisWeights, width: number): void {
  const { first, taps, stride, weights } = axis;
  for (let i = 0; i < width; i++) {
    let x = first[i] as number;
    let w = i * stride;
    let sum = 0;
    let present = 0;
    for (const end = w + taps; w < end; w++, x++) {
      const value = line[x] as number;
      if (value !== value) continue;
      const weight = weights[w] as number;
      sum += weight * value;
      present += weight;
    }
    out[i] = sum;
    out[width + i] = present;
  }
}

/** A void stays a void where less than half of the kernel's weight met ground. */
const LEAST_WEIGHT = 0.5;

function columnPassWithVoids(
  out: Float32Array,
  ring: Float32Array,
  axis: AxisWeights,
  row: number,
  ringRows: number,
  width: number,
): void {
  const { first, taps, weights } = axis;
  const start = first[row] as number;
  const base = row * axis.stride;
  const stride = width * 2;
  for (let i = 0; i < width; i++) {
    let sum = 0;
    let present = 0;
    for (let k = 0; k < taps; k++) {
      const w = weights[base + k] as number;
      const at = ((start + k) % ringRows) * stride + i;
      sum += w * (ring[at] as number);
      present += w * (ring[at + width] as number);
    }
    out[i] = present >= LEAST_WEIGHT ? sum / present : NaN;
  }
}

/** Voids compare false and stay. */
function clampInPlace(row: Float32Array, low: number, high: number): void {
  for (let i = 0; i < row.length; i++) {
    const value = row[i] as number;
    if (value < low) row[i] = low;
    else if (value > high) row[i] = high;
  }
}

/** The weights as the kernel wants them: its count of taps is the padded one. */
function padded({ first, stride, weights }: AxisWeights): KernelAxis {
  return { first, taps: stride, weights };
}
