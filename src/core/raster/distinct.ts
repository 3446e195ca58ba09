import type { StoredSamples } from './types';

/** Counts how many different values occur, exactly, and their lowest, highest and common step. */
export interface DistinctCounter {
  add(data: StoredSamples): void;
  /** Different values so far. */
  count(): number;
  /** Greatest common divisor of the differences between occurring whole numbers; null for floats or a single value. */
  step(): number | null;
  /** True where there are more values than are told apart. */
  more?(): boolean;
  /** The same as `step` for floats that are all whole numbers; null otherwise. */
  wholeStep?(): number | null;
  /** Takes over what a kernel has marked: one byte per code. */
  merge?(seen: Uint8Array): void;
}

function gcd(a: number, b: number): number {
  while (b !== 0) [a, b] = [b, a % b];
  return a;
}

/** For 8 and 16 bits: a table of all codes. `bias` maps the lowest possible code to 0. */
function tableCounter(size: number, bias: number): DistinctCounter {
  const seen = new Uint8Array(size);
  return {
    merge(marked) {
      for (let i = 0; i < size; i++) seen[i] = (seen[i] as number) | (marked[i] as number);
    },
    add(data) {
      for (let i = 0; i < data.length; i++) seen[(data[i] as number) + bias] = 1;
    },
    count() {
      let n = 0;
      for (let i = 0; i < size; i++) n += seen[i] as number;
      return n;
    },
    step() {
      let first = -1;
      let step = 0;
      for (let i = 0; i < size; i++) {
        if (!seen[i]) continue;
        if (first < 0) first = i;
        else step = gcd(i - first, step);
      }
      return step === 0 ? null : step;
    },
  };
}

/** Bits of a float that has no value: infinite, or not a number. */
const NO_VALUE = 0x7f800000;
const MINUS_ZERO = 0x80000000 | 0;

/**
 * For 32 bits: one bit for each of the 2³² patterns, in pages of 8 KiB made when first met. Neighbours mostly share
 * their page, which is looked up only when it changes. Terrain touches few of them; the worst case (every pattern) is
 * 512 MiB.
 */
class PatternSet {
  private readonly pages: (Uint8Array | undefined)[] = new Array<Uint8Array | undefined>(65536).fill(undefined);
  private page: Uint8Array = new Uint8Array(0);
  private key = -1;
  count = 0;

  private turnTo(key: number): Uint8Array {
    this.key = key;
    return (this.page = this.pages[key] ??= new Uint8Array(8192));
  }

  /** True where the pattern is met for the first time. */
  add(bits: number): boolean {
    const key = bits >>> 16;
    const page = key === this.key ? this.page : this.turnTo(key);
    const at = (bits & 0xffff) >>> 3;
    const mask = 1 << (bits & 7);
    const before = page[at] as number;
    if (before & mask) return false;
    page[at] = before | mask;
    this.count++;
    return true;
  }
}

/** More different floats than this are measured values, not steps of a scale; nobody asks how many more there are. */
export const MOST_FLOATS = 2 ** 20;

/**
 * A set of 32-bit patterns by open addressing, a power of two of places at most half full: that of a file which was
 * made of 16-bit codes fits a processor's cache, where one bit for each pattern would not.
 */
class PatternTable {
  private places = new Int32Array(2 ** 17).fill(NO_VALUE);
  private shift = 32 - 17;
  count = 0;

  /** True where the pattern, which is not `NO_VALUE`, is met for the first time. */
  add(bits: number): boolean {
    const { places } = this;
    const mask = places.length - 1;
    // the golden ratio spreads patterns that differ in few bits (D. Knuth, 6.4)
    let at = Math.imul(bits, 0x9e3779b1) >>> this.shift;
    for (;;) {
      const there = places[at] as number;
      if (there === bits) return false;
      if (there === NO_VALUE) break;
      at = (at + 1) & mask;
    }
    places[at] = bits;
    if (++this.count * 2 > places.length) this.grow();
    return true;
  }

  private grow(): void {
    const before = this.places;
    this.places = new Int32Array(before.length * 2).fill(NO_VALUE);
    this.shift--;
    this.count = 0;
    for (const bits of before) if (bits !== NO_VALUE) this.add(bits);
  }
}

/** Floats of 32 bits; those without a value are left out, and −0 and 0 are one height. */
function floatCounter(): DistinctCounter {
  const seen = new PatternTable();
  const steps = new WholeSteps();
  let more = false;
  return {
    add(data) {
      if (more) return;
      const bits = new Int32Array(data.buffer, data.byteOffset, data.length);
      const values = data as Float32Array;
      const n = bits.length;
      for (let i = 0; i < n; i++) {
        const b = bits[i] as number;
        if ((b & NO_VALUE) === NO_VALUE) continue;
        if (seen.add(b === MINUS_ZERO ? 0 : b)) steps.add(values[i] as number);
        if (seen.count > MOST_FLOATS) break;
      }
      more = seen.count > MOST_FLOATS;
    },
    count: () => Math.min(seen.count, MOST_FLOATS),
    more: () => more,
    step: () => null,
    wholeStep: () => (more ? null : steps.result()),
  };
}

/** Whole numbers of 32 bits. */
function wideCounter(): DistinctCounter {
  const seen = new PatternSet();
  let first: number | null = null;
  let step = 0;
  return {
    add(data) {
      for (let i = 0; i < data.length; i++) {
        const value = data[i] as number;
        if (!seen.add(value | 0)) continue;
        if (first === null) first = value;
        else step = gcd(Math.abs(value - first), step);
      }
    },
    count: () => seen.count,
    step: () => (step > 0 ? step : null),
  };
}

/** The common step of floats, as long as all of them are whole numbers. */
export class WholeSteps {
  private first: number | null = null;
  private common = 0;
  private whole = true;

  add(value: number): void {
    if (!this.whole) return;
    this.whole = Number.isSafeInteger(value);
    if (this.first === null) this.first = value;
    else this.common = gcd(Math.abs(value - this.first), this.common);
  }

  result(): number | null {
    return this.whole && this.common > 0 ? this.common : null;
  }
}

/** A set of more values than this takes too much memory, and nobody asks how many more there are. */
const MOST_DISTINCT = 4_000_000;

/** For 64-bit floats: a set of the values themselves, up to a limit. */
function setCounter(): DistinctCounter {
  const seen = new Set<number>();
  const steps = new WholeSteps();
  let more = false;
  return {
    add(data) {
      for (let i = 0; i < data.length && !more; i++) {
        const value = data[i] as number;
        if (!Number.isFinite(value)) continue;
        const before = seen.size;
        seen.add(value);
        if (seen.size > before) steps.add(value);
        more = seen.size > MOST_DISTINCT;
      }
    },
    count: () => Math.min(seen.size, MOST_DISTINCT),
    more: () => more,
    step: () => null,
    wholeStep: () => (more ? null : steps.result()),
  };
}

export function distinctCounter(sample: StoredSamples): DistinctCounter {
  if (sample instanceof Uint8Array) return tableCounter(256, 0);
  if (sample instanceof Int8Array) return tableCounter(256, 128);
  if (sample instanceof Uint16Array) return tableCounter(65536, 0);
  if (sample instanceof Int16Array) return tableCounter(65536, 32768);
  if (sample instanceof Float64Array) return setCounter();
  return sample instanceof Float32Array ? floatCounter() : wideCounter();
}
