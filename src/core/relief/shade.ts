import { RAMP, RAMP_SIZE } from './ramp';

export const VIEWS = ['relief', 'heights', 'slope', 'steps'] as const;
export type View = (typeof VIEWS)[number];

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
  /** Elevation below which ground is hatched as water; null where there is no sea. */
  readonly water: number | null;
  /** Ink, paper and rim colours as RGB. */
  readonly ink: readonly [number, number, number];
  readonly paper: readonly [number, number, number];
}

/** Light from the north-west, 45° high: the convention under which relief does not turn inside out. */
const LIGHT_X = -0.5;
const LIGHT_Y = -0.5;
const LIGHT_Z = Math.SQRT1_2;

/**
 * Draws a grid of elevations as RGBA. `heights` has one sample of margin on every side: (width + 2) × (height + 2),
 * so that slopes at the border are true. Slopes by central differences (B. Horn, 1981, uses eight neighbours; four
 * are enough at screen size). NaN becomes paper.
 */
export function shade(
  out: Uint8ClampedArray,
  heights: Float32Array,
  width: number,
  height: number,
  o: ShadeOptions,
): void {
  const stride = width + 2;
  const { view, low, high, water, ink, paper } = o;
  const tint = (RAMP_SIZE - 1) / (high - low || 1);
  const slopeX = o.relief / (2 * o.spacingX);
  const slopeY = o.relief / (2 * o.spacingY);
  const trueX = 1 / (2 * o.spacingX);
  const trueY = 1 / (2 * o.spacingY);
  const spacing = Math.min(o.spacingX, o.spacingY);
  for (let y = 0; y < height; y++) {
    let at = (y + 1) * stride + 1;
    let to = y * width * 4;
    for (let x = 0; x < width; x++, at++, to += 4) {
      const h = heights[at]!;
      out[to + 3] = 255;
      if (h !== h) {
        out[to] = paper[0];
        out[to + 1] = paper[1];
        out[to + 2] = paper[2];
        continue;
      }
      const dx = orZero(heights[at + 1]! - heights[at - 1]!);
      const dy = orZero(heights[at + stride]! - heights[at - stride]!);
      let index = ((h - low) * tint) | 0;
      if (index < 0) index = 0;
      else if (index >= RAMP_SIZE) index = RAMP_SIZE - 1;
      let r: number;
      let g: number;
      let b: number;
      if (view === 'slope' || view === 'steps') {
        const grade = Math.hypot(dx * trueX, dy * trueY);
        // slope: white at 0, ink at 60°; steps: ink where a terrace is a sample wide or more
        const dark =
          view === 'slope'
            ? Math.min(1, Math.atan(grade) / (Math.PI / 3))
            : Math.min(1, o.step / (Math.max(grade, 1e-6) * spacing));
        r = paper[0] + (ink[0] - paper[0]) * dark;
        g = paper[1] + (ink[1] - paper[1]) * dark;
        b = paper[2] + (ink[2] - paper[2]) * dark;
      } else {
        r = RAMP[index * 3]!;
        g = RAMP[index * 3 + 1]!;
        b = RAMP[index * 3 + 2]!;
        if (view === 'relief') {
          const sx = -dx * slopeX;
          const sy = -dy * slopeY;
          const lit = (sx * LIGHT_X + sy * LIGHT_Y + LIGHT_Z) / Math.sqrt(sx * sx + sy * sy + 1);
          // flat ground keeps its tint; shadows sink towards ink, lit slopes rise a little
          const f = lit / LIGHT_Z;
          const k = f < 1 ? 0.38 + 0.62 * Math.max(0, f) : 1 + 0.5 * (f - 1);
          r *= k;
          g *= k;
          b *= k;
        }
      }
      if (water !== null && h <= water) {
        // ink lines on pale ground: water is drawn, not coloured
        const line = (y & 3) === 0 ? 0.5 : 0.08;
        r = (r * 0.25 + paper[0] * 0.75) * (1 - line) + ink[0] * line;
        g = (g * 0.25 + paper[1] * 0.75) * (1 - line) + ink[1] * line;
        b = (b * 0.25 + paper[2] * 0.75) * (1 - line) + ink[2] * line;
      }
      out[to] = r;
      out[to + 1] = g;
      out[to + 2] = b;
    }
  }
}

const orZero = (value: number): number => (value === value ? value : 0);

/** Colours of the difference view: paper at 0 through ochre to madder at `limit` and above. */
export function shadeDifference(
  out: Uint8ClampedArray,
  errors: Float32Array,
  limit: number,
  paper: readonly [number, number, number],
): void {
  for (let i = 0; i < errors.length; i++) {
    const t = Math.min(1, errors[i]! / (limit || 1));
    const a = t < 0.5 ? paper : OCHRE;
    const b = t < 0.5 ? OCHRE : MADDER;
    const k = t < 0.5 ? t * 2 : t * 2 - 1;
    for (let c = 0; c < 3; c++) out[i * 4 + c] = a[c]! + (b[c]! - a[c]!) * k;
    out[i * 4 + 3] = 255;
  }
}

const OCHRE = [199, 146, 52] as const;
const MADDER = [142, 34, 28] as const;
