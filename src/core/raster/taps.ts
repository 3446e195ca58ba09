import { kernelOf, overlapOf, reachOf, type Filter } from './kernels';

/** Samples along one axis that a place is made of, and their weights, which add up to 1: for places that lie anywhere. */
export class Taps {
  /** Of the place that was asked for last. */
  first = 0;
  count = 0;
  weights = new Float64Array(16);
  private readonly kernel: ((distance: number) => number) | null;

  /** `samples`: of the raster along this axis. */
  constructor(
    private readonly filter: Filter,
    private readonly samples: number,
  ) {
    this.kernel = kernelOf(filter);
  }

  /** How far the kernel reaches, widened so. */
  reach = (widen: number): number => reachOf(this.filter, widen);

  /** Looks up a place; samples beyond the raster are left out and the rest share the whole. */
  at(place: number, widen: number): void {
    const { samples, filter, kernel } = this;
    if (!kernel) {
      this.first = Math.max(0, Math.min(samples - 1, Math.floor(place + 0.5)));
      this.count = 1;
      this.weights[0] = 1;
      return;
    }
    const reach = reachOf(filter, widen);
    const first = Math.max(0, Math.floor(place - reach) + 1);
    const last = Math.min(samples - 1, Math.ceil(place + reach) - 1);
    const count = last - first + 1;
    if (count > this.weights.length) this.weights = new Float64Array(2 * count);
    const { weights } = this;
    let sum = 0;
    for (let k = 0; k < count; k++) {
      const x = first + k;
      const w = filter === 'area' ? overlapOf(x, place, widen) : kernel((x - place) / widen);
      weights[k] = w;
      sum += w;
    }
    for (let k = 0; k < count; k++) weights[k] = weights[k]! / sum;
    this.first = first;
    this.count = count;
  }
}
