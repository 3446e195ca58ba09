import type { Whole } from '../heights';
import { flood } from '../flood';

/** What belongs to the water by its height and slope alone, in samples of the stage. */
export interface Water {
  readonly level: number;
  /** Null: at or below the level. */
  readonly tolerance: number | null;
  /** Sample units from one sample to the next. */
  readonly maxSlope: number | null;
}

/** 1 for samples that are water by themselves. */
export function wet(ground: Whole, { level, tolerance, maxSlope }: Water): Uint8Array {
  const { data, width, height } = ground;
  const marks = new Uint8Array(data.length);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const value = data[i]!;
      if (!(tolerance === null ? value <= level : Math.abs(value - level) <= tolerance)) continue;
      if (maxSlope !== null && steepness(ground, x, y) > maxSlope) continue;
      marks[i] = 1;
    }
  return marks;
}

/** Rise from one sample to the next, over both neighbours where they are there. */
function steepness({ data, width, height }: Whole, x: number, y: number): number {
  const along = (i: number, before: boolean, after: boolean, step: number): number => {
    const own = data[i]!;
    const a = before && data[i - step]! === data[i - step]! ? data[i - step]! : own;
    const b = after && data[i + step]! === data[i + step]! ? data[i + step]! : own;
    const steps =
      (a === own && !(before && data[i - step] === own) ? 0 : 1) +
      (b === own && !(after && data[i + step] === own) ? 0 : 1);
    return steps === 0 ? 0 : (b - a) / steps;
  };
  const i = y * width + x;
  return Math.hypot(along(i, x > 0, x < width - 1, 1), along(i, y > 0, y < height - 1, width));
}

/** Only what hangs together with these samples, side by side. */
export function reachable(
  marks: Uint8Array,
  ground: Pick<Whole, 'width' | 'height'>,
  seeds: Iterable<number>,
): Uint8Array {
  const out = marks.slice();
  flood(out, ground, seeds);
  for (let i = 0; i < out.length; i++) out[i] = out[i] === 2 ? 1 : 0;
  return out;
}

/** All samples along the border of a raster. */
export function* borderSamples({ width, height }: Pick<Whole, 'width' | 'height'>): Generator<number> {
  for (let x = 0; x < width; x++) {
    yield x;
    yield (height - 1) * width + x;
  }
  for (let y = 0; y < height; y++) {
    yield y * width;
    yield y * width + width - 1;
  }
}
