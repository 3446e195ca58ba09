import type { StoredSamples } from './types';

/** One level of an overview: sample k stands for samples 2ˡ·k … 2ˡ·(k+1)−1 of the raster. */
export interface Level {
  readonly width: number;
  readonly height: number;
  readonly samples: StoredSamples;
}

/** Levels stop where the longer side is at most this. */
const COARSEST = 256;

/** Half the size by means of 2 × 2 (voids left out). Whole numbers up to 16 bits stay whole; the mean is rounded. */
export function halve(level: Level): Level {
  const width = Math.ceil(level.width / 2);
  const height = Math.ceil(level.height / 2);
  const { samples } = level;
  const whole = samples instanceof Uint8Array || samples instanceof Uint16Array;
  const out = whole ? new Uint16Array(width * height) : new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const top = 2 * y * level.width;
    const bottom = Math.min(level.height - 1, 2 * y + 1) * level.width;
    for (let x = 0; x < width; x++) {
      const l = 2 * x;
      const r = Math.min(level.width - 1, l + 1);
      const a = samples[top + l]!;
      const b = samples[top + r]!;
      const c = samples[bottom + l]!;
      const d = samples[bottom + r]!;
      const sum = a + b + c + d;
      out[y * width + x] = whole ? (sum + 2) >> 2 : sum === sum ? sum / 4 : meanOfValid(a, b, c, d);
    }
  }
  return { width, height, samples: out };
}

function meanOfValid(...values: number[]): number {
  const valid = values.filter((v) => v === v);
  return valid.length === 0 ? NaN : valid.reduce((s, v) => s + v, 0) / valid.length;
}

/** The raster and its overviews, finest first. */
export function pyramid(finest: Level): Level[] {
  const levels = [finest];
  for (let last = finest; Math.max(last.width, last.height) > COARSEST;) {
    last = halve(last);
    levels.push(last);
  }
  return levels;
}
