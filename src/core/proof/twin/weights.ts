import type { Recipe } from '../../recipe';
import { placeAmong, type Lies } from './layout';

/** Source samples that one vertex is made of along one axis, and their shares, which add up to 1. */
export interface Tap {
  readonly at: number;
  readonly share: number;
}

const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

/** How far each kernel reaches, and its height at a distance, both in samples of the coarser grid. */
const KERNELS: Record<'bilinear' | 'catmull-rom' | 'lanczos3', readonly [number, (x: number) => number]> = {
  bilinear: [1, (x) => 1 - x],
  // Keys 1981, a = −1/2
  'catmull-rom': [2, (x) => (x < 1 ? 1 - 2.5 * x ** 2 + 1.5 * x ** 3 : 2 - 4 * x + 2.5 * x ** 2 - 0.5 * x ** 3)],
  // sinc under the middle lobe of a sinc three times as wide
  lanczos3: [3, (x) => sinc(x) * sinc(x / 3)],
};

const VERTICES: Lies = { source: false, result: false, centres: false };

/** This near to the middle between two samples either is right; the later one is taken. */
const TIE = 1e-9;

/**
 * Sample `i` of `m` along an axis of `n`. Where both are vertices it lies at i·(n − 1)/(m − 1), so the ends coincide. Shrunk,
 * the kernel widens by that ratio; samples beyond the source are left out and the rest share the whole.
 */
export function tapsOf(filter: Recipe['fit']['filter'], i: number, n: number, m: number, lies: Lies = VERTICES): Tap[] {
  if (!lies.source && !lies.result) {
    // in whole numbers: half way between two samples the later one is as near
    if (filter === 'nearest') return [{ at: Math.floor((2 * i * (n - 1) + (m - 1)) / (2 * (m - 1))), share: 1 }];
    const ratio = (n - 1) / (m - 1);
    return tapsAround(filter, i * ratio, ratio, n);
  }
  // beyond the outermost samples the edge goes on
  const centre = Math.min(n - 1, Math.max(0, placeAmong(i, n, m, lies)));
  if (filter === 'nearest') return [{ at: Math.min(n - 1, Math.floor(centre + 0.5 + TIE)), share: 1 }];
  return tapsAround(filter, centre, placeAmong(1, n, m, lies) - placeAmong(0, n, m, lies), n);
}

/** The same around any place; `ratio`: samples from vertex to vertex there. */
export function tapsAround(filter: Recipe['fit']['filter'], centre: number, ratio: number, n: number): Tap[] {
  if (filter === 'nearest') return [{ at: Math.min(n - 1, Math.round(centre)), share: 1 }];
  const wide = ratio > 1 ? ratio : 1;
  const taps: { at: number; share: number }[] = [];
  if (filter === 'area') {
    // the part of each sample's own interval (half a sample to either side) that lies under the averaged stretch
    for (let x = Math.floor(centre - wide / 2); x <= Math.ceil(centre + wide / 2); x++) {
      const left = Math.max(x - 0.5, centre - wide / 2);
      const right = Math.min(x + 0.5, centre + wide / 2);
      if (x >= 0 && x < n && right > left) taps.push({ at: x, share: right - left });
    }
  } else {
    const [reach, kernel] = KERNELS[filter];
    for (let x = Math.ceil(centre - reach * wide); x <= Math.floor(centre + reach * wide); x++) {
      const distance = Math.abs(x - centre) / wide;
      if (x >= 0 && x < n && distance < reach) taps.push({ at: x, share: kernel(distance) });
    }
  }
  const sum = taps.reduce((total, t) => total + t.share, 0);
  return taps.map((t) => ({ at: t.at, share: t.share / sum }));
}
