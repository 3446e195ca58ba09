import { RAMP_SIZE } from './ramp';
import { tintedRelief } from './tinted';

export const VIEWS = ['relief', 'heights', 'slope', 'steps'] as const;
export type View = (typeof VIEWS)[number];

/** Slope that is drawn in full ink, in degrees. */
export const STEEPEST = 60;

export interface ShadeOptions {
  readonly view: View;
  /** Metres between the samples of the grid that is drawn. */
  readonly spacingX: number;
  readonly spacingY: number;
  /** Elevations of the darkest and the lightest tint. */
  readonly low: number;
  readonly high: number;
  /** Vertical exaggeration of the shading (not of the heights): 1 is true. */
  readonly relief: number;
  /** Metres of one height step, for the view of steps. */
  readonly step: number;
  /** Samples of the ground for each one of the grid that is drawn; 1 where all are. */
  readonly shrink?: number;
  /** Elevation below which ground is hatched as water; null where there is no sea. */
  readonly water: number | null;
  /** Ink, paper and rim colours as RGB. */
  readonly ink: readonly [number, number, number];
  readonly paper: readonly [number, number, number];
}

/**
 * Draws a grid of elevations as RGBA. `heights` has one sample of margin on every side: (width + 2) × (height + 2),
 * so that slopes at the border are true. NaN becomes paper.
 */
export function shade(
  out: Uint8ClampedArray,
  heights: Float32Array,
  width: number,
  height: number,
  o: ShadeOptions,
): void {
  const { view, low, high, relief, spacingX, spacingY, paper } = o;
  if (view === 'slope' || view === 'steps') drawSlope(out, heights, width, height, o);
  else {
    tintedRelief(out, heights, width, height, {
      low,
      tint: (RAMP_SIZE - 1) / (high - low || 1),
      slopeX: relief / (2 * spacingX),
      slopeY: relief / (2 * spacingY),
      shaded: view === 'relief',
      paper,
    });
  }
  if (o.water !== null) hatchWater(out, heights, width, height, o.water, o);
}

/** Slope: paper at 0, ink at the steepest. Steps: ink where a terrace is a sample of the ground wide or more. */
function drawSlope(
  out: Uint8ClampedArray,
  heights: Float32Array,
  width: number,
  height: number,
  { view, spacingX, spacingY, step, shrink = 1, ink, paper }: ShadeOptions,
): void {
  const stride = width + 2;
  const trueX = 1 / (2 * spacingX);
  const trueY = 1 / (2 * spacingY);
  const spacing = Math.min(spacingX, spacingY) / shrink;
  const steepest = (STEEPEST * Math.PI) / 180;
  for (let y = 0; y < height; y++) {
    let at = (y + 1) * stride + 1;
    let to = y * width * 4;
    for (let x = 0; x < width; x++, at++, to += 4) {
      const h = heights[at]!;
      const dx = orZero(heights[at + 1]! - heights[at - 1]!);
      const dy = orZero(heights[at + stride]! - heights[at - stride]!);
      const grade = Math.hypot(dx * trueX, dy * trueY);
      const dark =
        h !== h
          ? 0
          : view === 'slope'
            ? Math.min(1, Math.atan(grade) / steepest)
            : Math.min(1, step / (Math.max(grade, 1e-6) * spacing));
      for (let c = 0; c < 3; c++) out[to + c] = paper[c]! + (ink[c]! - paper[c]!) * dark;
      out[to + 3] = 255;
    }
  }
}

/** Ink lines on pale ground: water is drawn, not coloured. */
function hatchWater(
  out: Uint8ClampedArray,
  heights: Float32Array,
  width: number,
  height: number,
  water: number,
  { ink, paper }: ShadeOptions,
): void {
  for (let y = 0; y < height; y++) {
    const line = (y & 3) === 0 ? 0.5 : 0.08;
    let at = (y + 1) * (width + 2) + 1;
    let to = y * width * 4;
    for (let x = 0; x < width; x++, at++, to += 4) {
      if (!(heights[at]! <= water)) continue;
      for (let c = 0; c < 3; c++) out[to + c] = (out[to + c]! * 0.25 + paper[c]! * 0.75) * (1 - line) + ink[c]! * line;
    }
  }
}

const orZero = (value: number): number => (value === value ? value : 0);

/** Colours of the difference view: paper at 0, one pair of colours up to +`limit` and above, another down to −`limit`. */
export function shadeDifference(out: Uint8ClampedArray, errors: Float32Array, limit: number, paper: Rgb): void {
  for (let i = 0; i < errors.length; i++) {
    const error = errors[i]!;
    const [half, full] = error < 0 ? BELOW : ABOVE;
    const t = Math.min(1, Math.abs(error) / (limit || 1));
    const a = t < 0.5 ? paper : half;
    const b = t < 0.5 ? half : full;
    const k = t < 0.5 ? t * 2 : t * 2 - 1;
    for (let c = 0; c < 3; c++) out[i * 4 + c] = a[c]! + (b[c]! - a[c]!) * k;
    out[i * 4 + 3] = 255;
  }
}

type Rgb = readonly [number, number, number];
/** Colours at half the limit and at all of it; told apart by red-green blind eyes too. */
const ABOVE: readonly [Rgb, Rgb] = [
  [199, 146, 52],
  [142, 34, 28],
];
const BELOW: readonly [Rgb, Rgb] = [
  [92, 158, 190],
  [20, 62, 122],
];
