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

/** Rise from one sample to the next: between both neighbours where they have a height, else to the one that has. */
function steepness({ data, width, height }: Whole, x: number, y: number): number {
  const i = y * width + x;
  const own = data[i]!;
  const along = (before: number, after: number): number => {
    if (before === before && after === after) return (after - before) / 2;
    if (after === after) return after - own;
    return before === before ? own - before : 0;
  };
  const at = (there: boolean, j: number): number => (there ? data[j]! : NaN);
  return Math.hypot(
    along(at(x > 0, i - 1), at(x < width - 1, i + 1)),
    along(at(y > 0, i - width), at(y < height - 1, i + width)),
  );
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
