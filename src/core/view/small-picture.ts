import type { Level } from '../raster';

/** A small picture of heights. */
export interface SmallPicture {
  readonly width: number;
  readonly height: number;
  /** 0..1 from the lowest to the highest; NaN where there is none. */
  readonly values: Float32Array;
}

/** The whole of a raster on at most `side` samples a side, from the overview that comes nearest. */
export function smallPicture(levels: readonly Level[], side: number): SmallPicture {
  const level = levels.find((l) => Math.max(l.width, l.height) <= 2 * side) ?? levels.at(-1)!;
  const shrink = Math.max(1, Math.max(level.width, level.height) / side);
  const width = Math.max(1, Math.round(level.width / shrink));
  const height = Math.max(1, Math.round(level.height / shrink));
  const values = new Float32Array(width * height);
  let low = Infinity;
  let high = -Infinity;
  for (let y = 0; y < height; y++) {
    const row = Math.min(level.height - 1, Math.floor((y + 0.5) * shrink)) * level.width;
    for (let x = 0; x < width; x++) {
      const value = Number(level.samples[row + Math.min(level.width - 1, Math.floor((x + 0.5) * shrink))]);
      values[y * width + x] = Number.isFinite(value) ? value : NaN;
      if (value < low) low = value;
      if (value > high && value < Infinity) high = value;
    }
  }
  const span = high > low ? high - low : 1;
  return { width, height, values: values.map((v) => (v - low) / span) };
}
