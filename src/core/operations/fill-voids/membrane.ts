import { checkpoint, type JobContext } from '../../base';
import type { Whole } from '../heights';
import { aboutSolved, applied, coarserOf, levelOf } from './coarser';
import type { Void } from './voids';

/** The largest residual that is left, as a share of the range of the heights around the void. */
const RESIDUAL = 1e-10;

/** A void on a grid of its own, with a line of nothing around it. */
interface Patch {
  readonly wide: number;
  readonly tall: number;
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
  const tall = bottom - top + 3;
  const size = wide * tall;
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
  return { wide, tall, place, degree, known };
}

/**
 * Heights of a void as a membrane that is held by its border: each is the mean of the samples beside it (Laplace's
 * equation; a plane fills exactly). Where the void reaches the border of the raster nothing holds it there. Solved by
 * conjugate gradients (M. Hestenes and E. Stiefel, 1952), led by ever coarser grids.
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
  const { wide, tall, place, degree, known } = patchOf(ground, hole, middle);
  const finest = levelOf(wide, tall, {
    diag: degree,
    east: degree.map((d, i) => (d > 0 && degree[i + 1]! > 0 ? 1 : 0)),
    south: degree.map((d, i) => (d > 0 && (degree[i + wide] ?? 0) > 0 ? 1 : 0)),
  });
  const levels = coarserOf(finest);
  const size = degree.length;
  const u = new Float64Array(size);
  const r = known;
  const p = new Float64Array(size);
  const q = new Float64Array(size);
  const enough = RESIDUAL * Math.max(high - low, 1e-12);
  let rho = 0;
  for (let step = 0; step < 20 * place.length + 100; step++) {
    checkpoint(job);
    if (largestOf(r) <= enough) break;
    finest.f.set(r);
    aboutSolved(levels);
    const z = finest.u;
    const next = dot(r, z);
    const beta = step === 0 ? 0 : next / rho;
    rho = next;
    for (let i = 0; i < size; i++) p[i] = z[i]! + beta * p[i]!;
    applied(finest, p, q);
    const alpha = rho / dot(p, q);
    for (let i = 0; i < size; i++) {
      u[i] = u[i]! + alpha * p[i]!;
      r[i] = r[i]! - alpha * q[i]!;
    }
  }
  return Float64Array.from(place, (at) => u[at]! + middle);
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!;
  return sum;
}

function largestOf(values: Float64Array): number {
  let largest = 0;
  for (let i = 0; i < values.length; i++) {
    const size = Math.abs(values[i]!);
    if (size > largest) largest = size;
  }
  return largest;
}
