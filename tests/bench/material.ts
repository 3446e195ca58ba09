import { gradientNoise } from '../../src/core/base';

/** A ridged fractal of 16-bit codes over the full range, smoothed twice: terrain-like, made in seconds at any size. */
export function terrainCodes(side: number): Uint16Array {
  const ridges = gradientNoise(4711);
  const field = new Float32Array(side * side);
  // noise is evaluated on a lattice four times as coarse where an octave is that smooth
  for (let octave = 0, f = 3, gain = 1; octave < 7; octave++, f *= 2.07, gain *= 0.48) {
    const step = octave < 4 ? 8 : octave < 6 ? 4 : 2;
    const n = Math.ceil(side / step) + 2;
    const coarse = new Float32Array(n * n);
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++)
        coarse[j * n + i] = (1 - Math.abs(ridges((i * step * f) / side + octave * 7, (j * step * f) / side))) * gain;
    for (let y = 0; y < side; y++) {
      const cy = Math.floor(y / step);
      const v = y / step - cy;
      for (let x = 0; x < side; x++) {
        const cx = Math.floor(x / step);
        const u = x / step - cx;
        const at = cy * n + cx;
        const top = coarse[at]! + (coarse[at + 1]! - coarse[at]!) * u;
        const bottom = coarse[at + n]! + (coarse[at + n + 1]! - coarse[at + n]!) * u;
        field[y * side + x] = field[y * side + x]! + top + (bottom - top) * v;
      }
    }
  }
  let seed = 12345;
  const line = new Float32Array(side);
  for (let i = 0; i < field.length; i++) {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    field[i] = field[i]! + (seed / 4294967296) * (24 / side);
  }
  for (let y = 1; y < side - 1; y++) {
    for (let x = 0; x < side; x++)
      line[x] = (field[(y - 1) * side + x]! + 2 * field[y * side + x]! + field[(y + 1) * side + x]!) / 4;
    for (let x = 1; x < side - 1; x++) field[y * side + x] = (line[x - 1]! + 2 * line[x]! + line[x + 1]!) / 4;
  }
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < field.length; i++) {
    low = Math.min(low, field[i]!);
    high = Math.max(high, field[i]!);
  }
  const scale = 65535 / (high - low);
  return Uint16Array.from(field, (h) => Math.round((h - low) * scale));
}

/** A square of codes mirrored side by side up to `large` samples a side, so that the ground goes on without a step. */
export function mirroredCodes(codes: Uint16Array, side: number, large: number): (y: number) => Uint16Array {
  const mirror = (i: number): number => {
    const k = i % (2 * side - 2);
    return k < side ? k : 2 * side - 2 - k;
  };
  return (y) => {
    const from = mirror(y) * side;
    return Uint16Array.from({ length: large }, (_, x) => codes[from + mirror(x)]!);
  };
}
