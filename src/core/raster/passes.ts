import type { AxisWeights } from './kernels';

/*
 * The plain twins of the resampling kernels. They round to single precision after every step and add tap after tap,
 * as the kernels do, so that both give the same bits.
 */

/** Row pass: `out[i] = Σ w·line`. */
export function rowPass(out: Float32Array, line: ArrayLike<number>, axis: AxisWeights, width: number): void {
  const { first, taps, weights } = axis;
  const { fround } = Math;
  for (let i = 0, w = 0; i < width; i++) {
    let sum = 0;
    let x = first[i] as number;
    for (const end = w + taps; w < end; w++, x++)
      sum = fround(sum + fround((weights[w] as number) * (line[x] as number)));
    out[i] = sum;
  }
}

/** Column pass over the ring for output row `row`: `out[i] = Σ w·ring`. */
export function columnPass(
  out: Float32Array,
  ring: Float32Array,
  axis: AxisWeights,
  row: number,
  ringRows: number,
  width: number,
): void {
  const { first, taps, weights } = axis;
  const { fround } = Math;
  const start = first[row] as number;
  out.fill(0, 0, width);
  for (let k = 0; k < taps; k++) {
    const w = weights[row * taps + k] as number;
    const at = ((start + k) % ringRows) * width;
    for (let i = 0; i < width; i++) out[i] = fround((out[i] as number) + fround(w * (ring[at + i] as number)));
  }
}

/** Row pass in double precision, around voids: first plane the weighted sum, second plane the weight that was really there. */
export function rowPassAround(out: Float64Array, line: ArrayLike<number>, axis: AxisWeights, width: number): void {
  const { first, taps, exact } = axis;
  for (let i = 0; i < width; i++) {
    let x = first[i] as number;
    let w = i * taps;
    let sum = 0;
    let present = 0;
    for (const end = w + taps; w < end; w++, x++) {
      const value = line[x] as number;
      if (value !== value) continue;
      const weight = exact[w] as number;
      sum += weight * value;
      present += weight;
    }
    out[i] = sum;
    out[width + i] = present;
  }
}

/** A void stays a void where less than half of the kernel's weight met ground. */
export const LEAST_WEIGHT = 0.5;

/** Column pass of such rows. */
export function columnPassAround(
  out: Float32Array,
  ring: Float64Array,
  axis: AxisWeights,
  row: number,
  ringRows: number,
  width: number,
): void {
  const { first, taps, exact } = axis;
  const start = first[row] as number;
  const base = row * axis.taps;
  const stride = width * 2;
  for (let i = 0; i < width; i++) {
    let sum = 0;
    let present = 0;
    for (let k = 0; k < taps; k++) {
      const w = exact[base + k] as number;
      const at = ((start + k) % ringRows) * stride + i;
      sum += w * (ring[at] as number);
      present += w * (ring[at + width] as number);
    }
    out[i] = present >= LEAST_WEIGHT ? sum / present : NaN;
  }
}

/** Voids compare false and stay. */
export function clampInPlace(row: Float32Array, low: number, high: number): void {
  for (let i = 0; i < row.length; i++) {
    const value = row[i] as number;
    if (value < low) row[i] = low;
    else if (value > high) row[i] = high;
  }
}
