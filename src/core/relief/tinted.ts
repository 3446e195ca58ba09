import { tintedReliefKernel, type Tinting } from '../wasm';
import { RAMP, RAMP_SIZE } from './ramp';

/** Cosine of the angle between light and the vertical: the light stands in the north-west, 45° high. */
const LIGHT_Z = Math.fround(Math.SQRT1_2);

/**
 * Heights as tints, shaded or not: RGBA of `width` × `height` elevations with one sample of margin on every side.
 * Slopes by central differences (B. Horn, 1981, uses eight neighbours; four are enough at screen size). NaN becomes
 * paper.
 */
export function tintedRelief(
  out: Uint8ClampedArray,
  heights: Float32Array,
  width: number,
  height: number,
  t: Tinting,
): void {
  const rounded = {
    ...t,
    low: Math.fround(t.low),
    tint: Math.fround(t.tint),
    slopeX: Math.fround(t.slopeX),
    slopeY: Math.fround(t.slopeY),
  };
  if (!tintedReliefKernel(out, heights, width, height, RAMP, rounded))
    tintedPlain(out, heights, width, height, rounded);
}

/** The plain twin: single precision at every step, as the kernel computes. Its numbers must be in single precision. */
export function tintedPlain(
  out: Uint8ClampedArray,
  heights: Float32Array,
  width: number,
  height: number,
  t: Tinting,
): void {
  const { low, tint, slopeX, slopeY, shaded, paper } = t;
  const { fround } = Math;
  const stride = width + 2;
  const flat = fround(1 / LIGHT_Z);
  const dark = fround(0.38);
  const span = fround(0.62);
  for (let y = 0; y < height; y++) {
    let at = (y + 1) * stride + 1;
    let to = y * width * 4;
    for (let x = 0; x < width; x++, at++, to += 4) {
      const h = heights[at]!;
      out[to + 3] = 255;
      if (h !== h) {
        out.set(paper, to);
        continue;
      }
      const place = fround(fround(h - low) * tint);
      const index = Math.trunc(Math.max(0, Math.min(RAMP_SIZE - 1, place))) * 3;
      let k = 1;
      if (shaded) {
        const dx = orZero(fround(heights[at + 1]! - heights[at - 1]!));
        const dy = orZero(fround(heights[at + stride]! - heights[at - stride]!));
        const sx = fround(dx * -slopeX);
        const sy = fround(dy * -slopeY);
        const towards = fround(fround(fround(sx * -0.5) + fround(sy * -0.5)) + LIGHT_Z);
        const length = fround(Math.sqrt(fround(fround(fround(sx * sx) + fround(sy * sy)) + 1)));
        const f = fround(fround(towards / length) * flat);
        // flat ground keeps its tint; shadows sink towards ink, lit slopes rise a little
        k = f < 1 ? fround(dark + fround(span * Math.max(0, f))) : fround(1 + fround(0.5 * fround(f - 1)));
      }
      for (let c = 0; c < 3; c++) out[to + c] = fround(RAMP[index + c]! * k);
    }
  }
}

const orZero = (value: number): number => (value === value ? value : 0);
