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
