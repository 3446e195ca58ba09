/** Numbers by chance that are the same for the same seed: mulberry32, a public-domain generator by T. Ettinger. */
export class Chance {
  private state: number;

  constructor(seed: number) {
    this.state = seed >>> 0;
  }

  /** 0 up to, but not, 1. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) >>> 0;
    let t = this.state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }

  /** A whole number from `low` to `high`, both possible. */
  whole(low: number, high: number): number {
    return low + Math.floor(this.next() * (high - low + 1));
  }

  one<T>(of: readonly T[]): T {
    return of[this.whole(0, of.length - 1)]!;
  }

  /** True once in `n` times. */
  in(n: number): boolean {
    return this.next() * n < 1;
  }

  bytes(count: number): Uint8Array {
    return Uint8Array.from({ length: count }, () => this.whole(0, 255));
  }
}

/** Of case `index` of a target: cases can be made again one by one. */
export const chanceOf = (seed: number, target: string, index: number): Chance => {
  let hash = Math.imul(seed ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(index + 1, 0xc2b2ae35);
  for (const c of target) hash = Math.imul(hash ^ c.charCodeAt(0), 0x01000193);
  return new Chance(hash);
};
