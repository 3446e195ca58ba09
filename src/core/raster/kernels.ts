import { perSample, placeOf, VERTICES, type Registrations } from './registration';

/** Reconstruction kernels, as functions of the distance in samples. */
export const FILTERS = ['nearest', 'area', 'bilinear', 'catmull-rom', 'lanczos3'] as const;
export type Filter = (typeof FILTERS)[number];

function sinc(x: number): number {
  if (x === 0) return 1;
  const t = Math.PI * x;
  return Math.sin(t) / t;
}

/** Lanczos window of three lobes (C. Lanczos, Applied Analysis, 1956; as a filter: K. Turkowski, 1990). */
function lanczos3(x: number): number {
  const a = Math.abs(x);
  return a < 3 ? sinc(a) * sinc(a / 3) : 0;
}

/** Cubic with a = −1/2 (E. Catmull and R. Rom, 1974; R. Keys, 1981): third-order exact, passes through the samples. */
function catmullRom(x: number): number {
  const a = Math.abs(x);
  if (a < 1) return (1.5 * a - 2.5) * a * a + 1;
  if (a < 2) return ((-0.5 * a + 2.5) * a - 4) * a + 2;
  return 0;
}

function triangle(x: number): number {
  return Math.max(0, 1 - Math.abs(x));
}

/** A kernel as a function of the distance in samples of the coarser grid; the nearest sample needs none. */
export function kernelOf(filter: Filter): ((distance: number) => number) | null {
  return { nearest: null, bilinear: triangle, 'catmull-rom': catmullRom, lanczos3, area: triangle }[filter];
}

/** How far from its middle a kernel meets samples, widened by `widen`. */
export function reachOf(filter: Filter, widen: number): number {
  if (filter === 'area') return widen / 2 + 0.5;
  return widen * { nearest: 0.5, bilinear: 1, 'catmull-rom': 2, lanczos3: 3 }[filter];
}

/** How much of a sample's interval, half a sample to either side, lies within a stretch `wide` samples long. */
export const overlapOf = (sample: number, centre: number, wide: number): number =>
  Math.max(0, Math.min(sample + 0.5, centre + wide / 2) - Math.max(sample - 0.5, centre - wide / 2));

/**
 * Weights of one axis: output `i` is the sum over `k < taps` of `weights[i·taps + k] · source[first[i] + k]`.
 */
export interface AxisWeights {
  readonly first: Int32Array;
  /** Taps of the widest output; narrower ones are padded with zero weights inside the source. */
  readonly taps: number;
  readonly weights: Float32Array;
  /** The same before they were rounded to single precision. */
  readonly exact: Float64Array;
}

export interface AxisMapping {
  /** Samples of the source along this axis. */
  readonly sourceSamples: number;
  /** Vertices of the whole result along this axis. */
  readonly resultSamples: number;
  /** The part of the result that is wanted. */
  readonly from: number;
  readonly to: number;
  /** What samples are on both sides; left out: vertices. */
  readonly registrations?: Registrations | undefined;
}

/**
 * Weights for resampling: of vertices output i lies at i·(n_src − 1)/(n_dst − 1), so that the ends coincide; of cells see
 * `Registrations`. Beyond the outermost samples the edge goes on.
 * When shrinking, kernels widen by that ratio (nearest never does); taps outside the source are dropped and the rest
 * renormalised. `area` weighs each sample by the part of its interval (half a sample to either side) that lies within
 * the averaged stretch, which makes it the mean of the ground and not of whichever samples happen to be hit.
 */
export function axisWeights(mapping: AxisMapping, filter: Filter): AxisWeights {
  const { sourceSamples: n, resultSamples: m, from, to, registrations = VERTICES } = mapping;
  const widen = Math.max(1, perSample(n, m, registrations));
  const positionOf = (i: number): number => Math.max(0, Math.min(n - 1, placeOf(i, n, m, registrations)));
  const count = to - from;
  const first = new Int32Array(count);
  if (filter === 'nearest') {
    for (let i = 0; i < count; i++) first[i] = Math.min(n - 1, Math.floor(positionOf(i + from) + 0.5));
    return { first, taps: 1, weights: new Float32Array(count).fill(1), exact: new Float64Array(count).fill(1) };
  }
  const reach = reachOf(filter, widen);
  const kernel = kernelOf(filter) ?? triangle;
  // every kernel is 0 at its reach: what lies strictly within counts
  const taps = Math.min(n, Math.ceil(reach * 2));
  const weights = new Float32Array(count * taps);
  const exact = new Float64Array(count * taps);
  for (let i = 0; i < count; i++) {
    const centre = positionOf(i + from);
    const start = Math.max(0, Math.min(n - taps, Math.floor(centre - reach) + 1));
    first[i] = start;
    let sum = 0;
    for (let k = 0; k < taps; k++) {
      const x = start + k;
      const w = filter === 'area' ? overlapOf(x, centre, widen) : kernel((x - centre) / widen);
      exact[i * taps + k] = w;
      sum += w;
    }
    // rounded to single precision they must still add up to 1, or flat ground would tilt: the largest takes the rest
    let rest = 1;
    let largest = 0;
    for (let k = 0; k < taps; k++) {
      const share = (exact[i * taps + k] as number) / sum;
      exact[i * taps + k] = share;
      const w = Math.fround(share);
      weights[i * taps + k] = w;
      rest -= w;
      if (w > (weights[i * taps + largest] as number)) largest = k;
    }
    weights[i * taps + largest] = (weights[i * taps + largest] as number) + rest;
  }
  return { first, taps, weights, exact };
}
