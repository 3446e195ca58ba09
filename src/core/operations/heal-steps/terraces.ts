import type { Samples, Whole } from '../heights';

/** A source with more different heights than a picture of 16 bits is not coarse. */
const MOST_LEVELS = 65_536;

const gcd = (a: number, b: number): number => {
  while (b > 0) [a, b] = [b, a % b];
  return a;
};

/** The different heights of some ground in order; null where they are too many for stairs. */
function levelsOf(data: Samples): Float64Array | null {
  const found = new Set<number>();
  let last = NaN;
  for (let i = 0; i < data.length; i++) {
    const value = data[i]!;
    if (value === last || value !== value) continue;
    last = value;
    found.add(value);
    if (found.size > MOST_LEVELS) return null;
  }
  return Float64Array.from(found).sort();
}

/**
 * The step between the heights of coarse ground, in the unit of its samples: the common step of whole numbers, else the
 * smallest gap. 0 where all are equal, or too many differ.
 */
export function stepOf(data: Samples): number {
  const levels = levelsOf(data);
  if (!levels || levels.length < 2) return 0;
  const first = levels[0]!;
  if (levels.every((v) => Number.isSafeInteger(v))) return levels.reduce((step, v) => gcd(v - first, step), 0);
  let least = Infinity;
  for (let i = 1; i < levels.length; i++) least = Math.min(least, levels[i]! - levels[i - 1]!);
  const span = levels[levels.length - 1]! - first;
  return span / Math.round(span / least);
}

/** Farther away than a step, rounding of floats put aside. */
const MORE = 1.001;

/**
 * Samples of flat runs: one of their four neighbours is as high, and no more than one is farther away than a step. Where the
 * ground is steeper there are no stairs. Only within `wanted`.
 */
export function flatRuns(
  { data, width, height }: Whole,
  step: number,
  wanted: ((x: number, y: number) => boolean) | null,
): Uint8Array {
  const flat = new Uint8Array(data.length);
  const most = MORE * step;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const own = data[i]!;
      // a void compares with nothing, and what lies beyond the border is one
      const west = x > 0 ? Math.abs(data[i - 1]! - own) : NaN;
      const east = x + 1 < width ? Math.abs(data[i + 1]! - own) : NaN;
      const north = y > 0 ? Math.abs(data[i - width]! - own) : NaN;
      const south = y + 1 < height ? Math.abs(data[i + width]! - own) : NaN;
      const even = west === 0 || east === 0 || north === 0 || south === 0;
      const steep = Number(west > most) + Number(east > most) + Number(north > most) + Number(south > most);
      if (even && steep <= 1 && (!wanted || wanted(x, y))) flat[i] = 1;
    }
  return flat;
}
