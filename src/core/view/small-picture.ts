import type { Level, OpenRaster } from '../raster';

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
  for (let y = 0; y < height; y++) {
    const row = Math.min(level.height - 1, Math.floor((y + 0.5) * shrink)) * level.width;
    for (let x = 0; x < width; x++) {
      const value = Number(level.samples[row + Math.min(level.width - 1, Math.floor((x + 0.5) * shrink))]);
      values[y * width + x] = Number.isFinite(value) ? value : NaN;
    }
  }
  return shares(width, height, values);
}

/** From the lowest (0) to the highest (1). */
function shares(width: number, height: number, values: Float32Array): SmallPicture {
  let [low, high] = [Infinity, -Infinity];
  for (const v of values) {
    if (v < low) low = v;
    if (v > high) high = v;
  }
  const span = high > low ? high - low : 1;
  return { width, height, values: values.map((v) => (v - low) / span) };
}

/** The same of a raster that is read for it: samples at the middles of its squares. */
export async function pictureOf(
  { info, bands }: Pick<OpenRaster, 'info' | 'bands'>,
  side: number,
): Promise<SmallPicture> {
  const shrink = Math.max(1, Math.max(info.width, info.height) / side);
  const width = Math.max(1, Math.round(info.width / shrink));
  const height = Math.max(1, Math.round(info.height / shrink));
  const values = new Float32Array(width * height).fill(NaN);
  const rowOf = (y: number): number => Math.min(info.height - 1, Math.floor((y + 0.5) * shrink));
  let next = 0;
  for await (const { y, rows, data } of bands())
    for (; next < height && rowOf(next) < y + rows; next++)
      for (let x = 0; x < width; x++) {
        const column = Math.min(info.width - 1, Math.floor((x + 0.5) * shrink));
        const value = Number(data[(rowOf(next) - y) * info.width + column]);
        values[next * width + x] = Number.isFinite(value) ? value : NaN;
      }
  return shares(width, height, values);
}
