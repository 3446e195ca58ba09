import { checkpoint, type JobContext } from '../../base';
import type { Whole } from '../heights';
import type { Void } from './voids';

/** The largest residual that is left, as a share of the range of the heights around the void. */
const RESIDUAL = 1e-10;

/** A void on a grid of its own, with a line of nothing around it. */
interface Patch {
  readonly wide: number;
  /** Where each sample of the void stands. */
  readonly place: Int32Array;
  /** Samples beside each place of the void that lie within the raster; 0 elsewhere. */
  readonly degree: Float64Array;
  /** Sums of the heights beside each place. */
  readonly known: Float64Array;
}

function patchOf({ data, width, height }: Whole, { samples }: Void, middle: number): Patch {
  let [left, right] = [Infinity, -Infinity];
  for (const i of samples) {
    left = Math.min(left, i % width);
    right = Math.max(right, i % width);
  }
  const top = Math.floor(samples[0]! / width);
  const bottom = Math.floor(samples.at(-1)! / width);
  const wide = right - left + 3;
  const size = wide * (bottom - top + 3);
  const degree = new Float64Array(size);
  const known = new Float64Array(size);
  const place = samples.map((i) => (Math.floor(i / width) - top + 1) * wide + (i % width) - left + 1);
  samples.forEach((i, k) => {
    const at = place[k]!;
    const x = i % width;
    const beside = (there: boolean, j: number): void => {
      if (!there) return;
      degree[at]!++;
      const value = data[j]!;
      if (value === value) known[at] = known[at]! + (value - middle);
    };
    beside(x > 0, i - 1);
    beside(x < width - 1, i + 1);
    beside(i >= width, i - width);
    beside(i < width * (height - 1), i + width);
  });
  return { wide, place, degree, known };
}

/**
 * Heights of a void as a membrane that is held by its border: each is the mean of the samples beside it (Laplace's
 * equation; a plane fills exactly). Where the void reaches the border of the raster nothing holds it there. Solved by
 * conjugate gradients (M. Hestenes and E. Stiefel, 1952), divided by the number of neighbours.
 */
export function membrane(ground: Whole, hole: Void, job?: JobContext): Float64Array {
  const { data } = ground;
  let [low, high, total] = [Infinity, -Infinity, 0];
  for (const i of hole.border) {
    const value = data[i]!;
    low = Math.min(low, value);
    high = Math.max(high, value);
    total += value;
  }
  // heights are counted from the middle of the border, about which doubles are finest
  const middle = total / hole.border.length;
  const { wide, place, degree, known } = patchOf(ground, hole, middle);
  const size = degree.length;
  const share = degree.map((d) => (d > 0 ? 1 / d : 0));
  const u = new Float64Array(size);
  const r = known;
  const p = new Float64Array(size);
  const q = new Float64Array(size);
  const [from, to] = [wide, size - wide];
  const enough = RESIDUAL * Math.max(high - low, 1e-12);
  let rho = 0;
  for (let step = 0; step < 20 * place.length + 100; step++) {
    if (step % 16 === 0) checkpoint(job);
    let largest = 0;
    let next = 0;
    for (let i = from; i < to; i++) {
      const value = r[i]!;
      next += value * value * share[i]!;
      const much = value < 0 ? -value : value;
      if (much > largest) largest = much;
    }
    if (largest <= enough) break;
    const beta = step === 0 ? 0 : next / rho;
    rho = next;
    for (let i = from; i < to; i++) p[i] = share[i]! * r[i]! + beta * p[i]!;
    let pq = 0;
    for (let i = from; i < to; i++) {
      const d = degree[i]!;
      if (d === 0) continue;
      const value = d * p[i]! - (p[i - 1]! + p[i + 1]! + p[i - wide]! + p[i + wide]!);
      q[i] = value;
      pq += value * p[i]!;
    }
    const alpha = rho / pq;
    for (let i = from; i < to; i++) {
      u[i] = u[i]! + alpha * p[i]!;
      r[i] = r[i]! - alpha * q[i]!;
    }
  }
  return Float64Array.from(place, (at) => u[at]! + middle);
}
