import { transform } from '../base';

/** Samples of a stretch that is taken apart into waves. */
const STRETCH = 256;
const LEAST_STRETCH = 64;
/** Waves are gathered by thirds of an octave. */
const PER_OCTAVE = 3;
/** Waves this many times weaker than the longer ones promise are thought to hold nothing. */
const LOST = 3;

/**
 * The finest waves of a raster that still stand out, in samples: 2 is all that samples can hold. Power of waves along
 * rows (windowed periodograms, averaged; P. D. Welch, 1967), against the straight line that longer waves draw on
 * logarithmic scales: ground goes on along it, a raster that was enlarged or smoothed falls off. Null where there is too
 * little to see, or nothing but one height.
 */
export function finestWave(rows: readonly ArrayLike<number>[], step: number): number | null {
  const width = rows[0]?.length ?? 0;
  const n = width >= STRETCH ? STRETCH : width >= LEAST_STRETCH ? LEAST_STRETCH : 0;
  if (n === 0) return null;
  const power = new Float64Array(n / 2 + 1);
  let stretches = 0;
  for (const row of rows)
    for (let from = 0; from + n <= row.length; from += n) if (addPower(row, from, n, power)) stretches++;
  if (stretches === 0) return null;
  for (let k = 0; k < power.length; k++) power[k]! /= stretches;
  // rounding to steps is noise of a twelfth of their square, the same at all lengths
  const noise = (step * step) / 12;
  const bands = octaveThirds(power, n);
  const line = lineOf(bands.filter((b) => b.length >= 12 && b.length <= n / 3));
  if (!line) return null;
  let finest: number | null = null;
  for (const { length, level } of bands) {
    const promised = Math.exp(line.at + line.slope * Math.log(length));
    if (level < promised / LOST || level < 2 * noise) break;
    finest = length;
  }
  return finest === null ? null : Math.max(2, finest);
}

function addPower(row: ArrayLike<number>, from: number, n: number, power: Float64Array): boolean {
  const re = new Float64Array(n);
  const [first, last] = [row[from]!, row[from + n - 1]!];
  for (let i = 0; i < n; i++) {
    const value = row[from + i]!;
    if (value - value !== 0) return false;
    const slope = first + ((last - first) * i) / (n - 1);
    re[i] = (value - slope) * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n));
  }
  const im = new Float64Array(n);
  transform(re, im);
  // of white noise of variance v this is v at every length: the window keeps three eighths
  for (let k = 0; k <= n / 2; k++) power[k]! += (re[k]! ** 2 + im[k]! ** 2) / (n * 0.375);
  return true;
}

interface Waves {
  /** Their length in samples. */
  readonly length: number;
  readonly level: number;
}

/** Mean power by thirds of an octave, from long to short. */
function octaveThirds(power: Float64Array, n: number): Waves[] {
  const out: Waves[] = [];
  const ratio = 2 ** (1 / PER_OCTAVE);
  for (let from = 3; from < n / 2; from *= ratio) {
    const [a, b] = [Math.ceil(from), Math.min(n / 2 - 1, Math.ceil(from * ratio) - 1)];
    if (a > b) continue;
    let sum = 0;
    for (let k = a; k <= b; k++) sum += power[k]!;
    out.push({ length: n / ((a + b) / 2), level: sum / (b - a + 1) });
  }
  return out;
}

function lineOf(bands: readonly Waves[]): { at: number; slope: number } | null {
  const points = bands.filter((b) => b.level > 0).map((b) => [Math.log(b.length), Math.log(b.level)] as const);
  if (points.length < 3) return null;
  const mean = (k: 0 | 1): number => points.reduce((s, p) => s + p[k], 0) / points.length;
  const [mx, my] = [mean(0), mean(1)];
  const xx = points.reduce((s, [x]) => s + (x - mx) ** 2, 0);
  const slope = points.reduce((s, [x, y]) => s + (x - mx) * (y - my), 0) / xx;
  return { at: my - slope * mx, slope };
}
