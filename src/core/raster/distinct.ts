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

/**
 * For 32 bits: one bit for each of the 2³² patterns, in pages of 8 KiB made when first met.
 * Terrain touches few of them; the worst case (every pattern) is 512 MiB.
 */
function pagedCounter(whole: boolean): DistinctCounter {
  const pages = new Map<number, Uint8Array>();
  let distinct = 0;
  let first: number | null = null;
  let step = 0;
  const steps = new WholeSteps();
  const add = (bits: number): boolean => {
    const key = bits >>> 16;
    let page = pages.get(key);
    if (!page) pages.set(key, (page = new Uint8Array(8192)));
    const at = (bits & 0xffff) >>> 3;
    const mask = 1 << (bits & 7);
    if ((page[at] as number) & mask) return false;
    page[at] = (page[at] as number) | mask;
    distinct++;
    return true;
  };
  return {
    add(data) {
      if (data instanceof Float32Array) {
        const bits = new Uint32Array(data.buffer, data.byteOffset, data.length);
        for (let i = 0; i < data.length; i++) {
          const value = data[i] as number;
          // −0 and 0 are one height
          if (Number.isFinite(value) && add(value === 0 ? 0 : (bits[i] as number))) steps.add(value);
        }
        return;
      }
      for (let i = 0; i < data.length; i++) {
        const value = data[i] as number;
        if (!add(value | 0)) continue;
        if (first === null) first = value;
        else step = gcd(Math.abs(value - first), step);
      }
    },
    count: () => distinct,
    step: () => (whole && step > 0 ? step : null),
    wholeStep: () => steps.result(),
  };
}

/** The common step of floats, as long as all of them are whole numbers. */
class WholeSteps {
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
  return pagedCounter(!(sample instanceof Float32Array));
}
