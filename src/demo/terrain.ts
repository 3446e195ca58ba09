import { gradientNoise, random } from '../core/base';

/**
 * Erodes a square height field in place by letting drops of water run down it (hydraulic erosion by droplets, after
 * H. Beyer, 2015): they carry ground off steep slopes and leave it where they slow down, which carves drainage.
 */
export function erode(field: Float32Array, side: number, drops: number, seed: number): void {
  const next = random(seed);
  for (let d = 0; d < drops; d++) {
    let x = next() * (side - 3) + 1;
    let y = next() * (side - 3) + 1;
    let dx = 0;
    let dy = 0;
    let speed = 1;
    let water = 1;
    let load = 0;
    for (let step = 0; step < 48; step++) {
      const xi = Math.floor(x);
      const yi = Math.floor(y);
      const u = x - xi;
      const v = y - yi;
      const at = yi * side + xi;
      const nw = field[at]!;
      const ne = field[at + 1]!;
      const sw = field[at + side]!;
      const se = field[at + side + 1]!;
      const gx = (ne - nw) * (1 - v) + (se - sw) * v;
      const gy = (sw - nw) * (1 - u) + (se - ne) * u;
      const here = nw * (1 - u) * (1 - v) + ne * u * (1 - v) + sw * (1 - u) * v + se * u * v;
      dx = dx * 0.25 - gx * 0.75;
      dy = dy * 0.25 - gy * 0.75;
      const length = Math.hypot(dx, dy);
      if (length < 1e-9) break;
      dx /= length;
      dy /= length;
      x += dx;
      y += dy;
      if (x < 1 || y < 1 || x >= side - 2 || y >= side - 2) break;
      const xj = Math.floor(x);
      const yj = Math.floor(y);
      const p = x - xj;
      const q = y - yj;
      const bt = yj * side + xj;
      const there =
        field[bt]! * (1 - p) * (1 - q) +
        field[bt + 1]! * p * (1 - q) +
        field[bt + side]! * (1 - p) * q +
        field[bt + side + 1]! * p * q;
      const fall = here - there;
      const capacity = Math.max(fall, 0.01) * speed * water * 6;
      const change =
        fall < 0
          ? Math.min(load, -fall)
          : load > capacity
            ? (load - capacity) * 0.2
            : -Math.min((capacity - load) * 0.25, fall);
      field[at] = field[at]! + change * (1 - u) * (1 - v);
      field[at + 1] = field[at + 1]! + change * u * (1 - v);
      field[at + side] = field[at + side]! + change * (1 - u) * v;
      field[at + side + 1] = field[at + side + 1]! + change * u * v;
      load -= change;
      speed = Math.sqrt(Math.max(0.01, speed * speed + fall * 0.5));
      water *= 0.985;
    }
  }
}

/** Slopes steeper than the angle of rest slump a little (thermal weathering, F. Musgrave et al., 1989). */
export function weather(field: Float32Array, side: number, rest: number, rounds: number): void {
  for (let round = 0; round < rounds; round++) {
    for (let y = 1; y < side - 1; y++) {
      for (let x = 1; x < side - 1; x++) {
        const at = y * side + x;
        for (const to of [at + 1, at + side]) {
          const excess = Math.abs(field[at]! - field[to]!) - rest;
          if (excess <= 0) continue;
          const move = Math.sign(field[at]! - field[to]!) * excess * 0.2;
          field[at] = field[at]! - move;
          field[to] = field[to]! + move;
        }
      }
    }
  }
}

/** Twice the samples each way, by cubic interpolation (a = −1/2), so that no facets of the coarse field remain. */
export function enlarge(field: Float32Array, side: number, to: number): Float32Array {
  const weights = (t: number): [number, number, number, number] => [
    ((-0.5 * t + 1) * t - 0.5) * t,
    (1.5 * t - 2.5) * t * t + 1,
    ((-1.5 * t + 2) * t + 0.5) * t,
    (0.5 * t - 0.5) * t * t,
  ];
  const rows = new Float32Array(to * side);
  const scale = (side - 1) / (to - 1);
  const hold = (i: number): number => Math.max(0, Math.min(side - 1, i));
  for (let x = 0; x < to; x++) {
    const i = Math.floor(x * scale);
    const w = weights(x * scale - i);
    for (let y = 0; y < side; y++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += w[k]! * field[y * side + hold(i + k - 1)]!;
      rows[y * to + x] = sum;
    }
  }
  const out = new Float32Array(to * to);
  for (let y = 0; y < to; y++) {
    const i = Math.floor(y * scale);
    const w = weights(y * scale - i);
    for (let x = 0; x < to; x++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += w[k]! * rows[hold(i + k - 1) * to + x]!;
      out[y * to + x] = sum;
    }
  }
  return out;
}

/**
 * Kettle Tarn: a glacial valley that bends through fells, with side valleys, a tarn on its floor and drainage down its
 * sides. Heights in metres above the lake, unscaled.
 */
export function kettleTarn(side: number): Float32Array {
  const coarse = side >> 1;
  const warp = gradientNoise(20261);
  const ridges = gradientNoise(30517);
  const rough = gradientNoise(41233);
  const field = new Float32Array(coarse * coarse);
  for (let j = 0; j < coarse; j++) {
    for (let i = 0; i < coarse; i++) {
      const x = i / (coarse - 1);
      const y = j / (coarse - 1);
      const wx = x + 0.09 * warp(x * 2.1 + 3, y * 2.1) + 0.02 * warp(x * 8, y * 8 + 5);
      const wy = y + 0.09 * warp(x * 2.1, y * 2.1 + 11) + 0.02 * warp(x * 8 + 9, y * 8);
      let fells = 0;
      let weight = 1;
      let scale = 0.5;
      for (let octave = 0, f = 2.6; octave < 6; octave++, f *= 2.03) {
        const crest = 1 - Math.abs(ridges(wx * f + octave * 17, wy * f + octave * 5));
        const sharp = crest * crest * weight;
        weight = Math.min(1, Math.max(0, sharp * 1.7));
        fells += sharp * scale;
        scale *= 0.5;
      }
      // the trough: a U across the line of the glacier, broad in the south-east
      const line = 0.5 + 0.2 * Math.sin(wx * 3.6 + 0.7) - 0.13 * (wx - 0.5);
      const across = Math.abs(wy - line) / (0.075 + 0.06 * wx);
      const wall = Math.min(1, Math.max(0, (across - 0.55) / 1.9));
      const trough = wall * wall * (3 - 2 * wall);
      // the valley falls from both ends towards the tarn, over a sill on its western side
      const along = wx - 0.66;
      const floor =
        0.02 +
        0.3 * along * along +
        0.1 * Math.max(0, -along) +
        0.16 * Math.max(0, along) +
        0.014 * rough(wx * 9, wy * 9) +
        0.05 * Math.min(1, across * across);
      // the fells sink a little towards the border, so that the summit stands inside
      const inward = Math.min(1, Math.min(x, y, 1 - x, 1 - y) / 0.22);
      const height = floor + trough * (0.1 + fells * (0.68 + 0.22 * inward));
      field[j * coarse + i] = height * 800;
    }
  }
  weather(field, coarse, 7.5, 10);
  erode(field, coarse, 180000, 77003);
  weather(field, coarse, 6.5, 6);
  const fine = enlarge(field, coarse, side);
  const grain = gradientNoise(51017);
  for (let y = 0; y < side; y++) {
    for (let x = 0; x < side; x++) {
      const at = y * side + x;
      const lift = Math.min(1, Math.max(0, fine[at]! / 420));
      fine[at] = fine[at]! + lift * (1.1 * grain(x * 0.11, y * 0.11) + 0.5 * grain(x * 0.31 + 40, y * 0.31));
    }
  }
  erode(fine, side, 160000, 99017);
  return soften(fine, side);
}

/** One binomial pass (1 2 1 each way): ground has no steps from one sample to the next. */
function soften(field: Float32Array, side: number): Float32Array {
  const rows = field.slice();
  for (let y = 0; y < side; y++)
    for (let x = 1, at = y * side + 1; x < side - 1; x++, at++)
      rows[at] = (field[at - 1]! + 2 * field[at]! + field[at + 1]!) / 4;
  const out = rows.slice();
  for (let y = 1; y < side - 1; y++)
    for (let x = 0, at = y * side; x < side; x++, at++)
      out[at] = (rows[at - side]! + 2 * rows[at]! + rows[at + side]!) / 4;
  return out;
}
