import { checkpoint, type JobContext } from '../../base';
import type { Whole } from '../heights';
import { beside, type Void } from './voids';

/** The largest residual that is left, as a share of the range of the heights around the void. */
const RESIDUAL = 1e-10;

/**
 * Heights of a void as a membrane that is held by its border: each is the mean of the samples beside it (Laplace's
 * equation; a plane fills exactly). Where the void reaches the border of the raster nothing holds it there. Solved by
 * conjugate gradients (M. Hestenes and E. Stiefel, 1952), divided by the number of neighbours. `place`: room for a number
 * for each sample of the ground.
 */
export function membrane(ground: Whole, { samples, border }: Void, place: Int32Array, job?: JobContext): Float64Array {
  const { data } = ground;
  const n = samples.length;
  samples.forEach((i, k) => (place[i] = k));
  /** Up to four neighbours within the void; −1 where there is none. */
  const next = new Int32Array(4 * n).fill(-1);
  const degree = new Float64Array(n);
  const known = new Float64Array(n);
  let [low, high, sum] = [Infinity, -Infinity, 0];
  for (const i of border) {
    const value = data[i]!;
    low = Math.min(low, value);
    high = Math.max(high, value);
    sum += value;
  }
  // heights are counted from the middle of the border, about which doubles are finest
  const middle = sum / border.length;
  for (let k = 0; k < n; k++) {
    let within = 0;
    beside(samples[k]!, ground, (j) => {
      degree[k]!++;
      const value = data[j]!;
      if (value === value) known[k] = known[k]! + (value - middle);
      else next[4 * k + within++] = place[j]!;
    });
  }
  const apply = (u: Float64Array, out: Float64Array): void => {
    for (let k = 0; k < n; k++) {
      let value = degree[k]! * u[k]!;
      for (let m = 4 * k; m < 4 * k + 4; m++) {
        const j = next[m]!;
        if (j < 0) break;
        value -= u[j]!;
      }
      out[k] = value;
    }
  };
  const u = new Float64Array(n);
  const r = known.slice();
  const z = new Float64Array(n);
  const p = new Float64Array(n);
  const q = new Float64Array(n);
  const enough = RESIDUAL * Math.max(high - low, 1e-12);
  let rho = 0;
  for (let step = 0; ; step++) {
    if (step % 16 === 0) checkpoint(job);
    let largest = 0;
    let next_ = 0;
    for (let k = 0; k < n; k++) {
      const value = r[k]!;
      z[k] = value / degree[k]!;
      next_ += value * z[k]!;
      largest = Math.max(largest, Math.abs(value));
    }
    if (largest <= enough || step > 20 * n + 100) break;
    const beta = step === 0 ? 0 : next_ / rho;
    rho = next_;
    for (let k = 0; k < n; k++) p[k] = z[k]! + beta * p[k]!;
    apply(p, q);
    let pq = 0;
    for (let k = 0; k < n; k++) pq += p[k]! * q[k]!;
    const alpha = rho / pq;
    for (let k = 0; k < n; k++) {
      u[k] = u[k]! + alpha * p[k]!;
      r[k] = r[k]! - alpha * q[k]!;
    }
  }
  for (let k = 0; k < n; k++) u[k] = u[k]! + middle;
  return u;
}
