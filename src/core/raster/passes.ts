import type { AxisWeights } from './kernels';

/*
 * The plain twins of the resampling kernels. They round to single precision after every step and add in the kernel's
 * order (four lanes across, row after row down), so that both give the same bits.
 */

/** Row pass: `out[i] = Σ w·line`. */
export function rowPass(out: Float32Array, line: Float32Array, axis: AxisWeights, width: number): void {
  const { first, taps, stride, weights } = axis;
  const { fround } = Math;
  if (taps === 1) {
    for (let i = 0; i < width; i++) out[i] = line[first[i] as number] as number;
    return;
  }
  const lanes = new Float32Array(4);
  for (let i = 0; i < width; i++) {
    const x = first[i] as number;
    const w = i * stride;
    lanes.fill(0);
    for (let k = 0; k < taps; k++) {
      lanes[k & 3] = fround((lanes[k & 3] as number) + fround((weights[w + k] as number) * (line[x + k] as number)));
    }
    out[i] = fround(
      fround((lanes[0] as number) + (lanes[1] as number)) + fround((lanes[2] as number) + (lanes[3] as number)),
    );
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
  const { first, taps, stride, weights } = axis;
  const { fround } = Math;
  const start = first[row] as number;
  out.fill(0, 0, width);
  for (let k = 0; k < taps; k++) {
    const w = weights[row * stride + k] as number;
    const at = ((start + k) % ringRows) * width;
    for (let i = 0; i < width; i++) out[i] = fround((out[i] as number) + fround(w * (ring[at + i] as number)));
  }
}
