/** What the look of some rows tells: enlarged rasters, lines burnt in, exchanged bytes, a wrong width. */
import { random } from '../base';
import { lookWarnings, nameWarnings, RowSampler, type SampleLook } from './detail';

const SIDE = 300;

/** Ground as rough as fells are: chance, smoothed more and more, the smoother the higher. */
function ground(side: number, seed: number): Float64Array {
  const next = random(seed);
  const out = new Float64Array(side * side);
  for (let radius = 0, height = 60; radius < side / 4; radius = 2 * radius + 1, height *= 4) {
    const level = Float64Array.from(out, () => next() - 0.5);
    for (let pass = 0; pass < 2; pass++) {
      blur(level, side, 1, radius);
      blur(level, side, side, radius);
    }
    level.forEach((v, i) => (out[i]! += height * (1 + radius) * v));
  }
  const [low, high] = [out.reduce((a, b) => Math.min(a, b)), out.reduce((a, b) => Math.max(a, b))];
  return out.map((v) => 300 + (64000 * (v - low)) / (high - low));
}

/** Means of `2 · radius + 1` samples along one axis; beyond the border it begins anew on the other side. */
function blur(field: Float64Array, side: number, step: number, radius: number): void {
  const across = step === 1 ? side : 1;
  const line = new Float64Array(side);
  for (let k = 0; k < side; k++) {
    for (let i = 0; i < side; i++) line[i] = field[k * across + i * step]!;
    let sum = 0;
    for (let i = -radius; i <= radius; i++) sum += line[(i + side) % side]!;
    for (let i = 0; i < side; i++) {
      field[k * across + i * step] = sum / (2 * radius + 1);
      sum += line[(i + radius + 1) % side]! - line[(i - radius + side) % side]!;
    }
  }
}

/** Samples at fractions of a raster: the nearest, on a straight line, or by cubic convolution. */
function enlarged(from: Float64Array, side: number, factor: number, kind: 'nearest' | 'linear' | 'cubic') {
  const to = Math.floor((side - 1) * factor) + 1;
  const at = (x: number, y: number) =>
    from[Math.max(0, Math.min(side - 1, y)) * side + Math.max(0, Math.min(side - 1, x))]!;
  const kernel = (t: number): number => {
    const d = Math.abs(t);
    if (kind === 'linear') return Math.max(0, 1 - d);
    if (kind === 'nearest') return t > -0.5 && t <= 0.5 ? 1 : 0;
    if (d < 1) return 1.5 * d ** 3 - 2.5 * d * d + 1;
    return d < 2 ? -0.5 * d ** 3 + 2.5 * d * d - 4 * d + 2 : 0;
  };
  const out = new Float64Array(to * to);
  for (let y = 0; y < to; y++)
    for (let x = 0; x < to; x++) {
      const [px, py] = [x / factor, y / factor];
      let sum = 0;
      for (let j = -1; j <= 2; j++)
        for (let i = -1; i <= 2; i++) {
          const [cx, cy] = [Math.floor(px) + i, Math.floor(py) + j];
          const weight = kernel(px - cx) * kernel(py - cy);
          if (weight !== 0) sum += weight * at(cx, cy);
        }
      out[y * to + x] = sum;
    }
  return { samples: out, side: to };
}

function look(samples: ArrayLike<number>, width: number, height = samples.length / width): SampleLook {
  const rows = new RowSampler({ width, height });
  const data = Uint16Array.from(samples, (v) => Math.round(v));
  // in bands that cut pairs in two
  for (let y = 0; y < height; y += 7)
    rows.add({ y, rows: Math.min(7, height - y), data: data.subarray(y * width, Math.min(height, y + 7) * width) });
  const seen = rows.result({ bitDepth: 16, sampleType: 'uint', format: 'raw' });
  if (!seen) throw new Error('nothing to look at');
  return seen;
}

const RAW = { format: 'raw', byteOrder: 'little' } as const;
const told = (seen: SampleLook): string[] => lookWarnings(RAW, seen).map((w) => w.code);

test.each([1, 2, 3, 4, 5])('ground as it was measured shows nothing (%i)', (seed) => {
  expect(told(look(ground(SIDE, seed), SIDE))).toEqual([]);
});

test.each([
  ['nearest', 2, 2],
  ['nearest', 3, 3],
  ['nearest', 1.5, 3],
  ['linear', 1.5, 3],
  ['linear', 2, 2],
  ['linear', 4, 4],
  ['cubic', 1.5, 3],
  ['cubic', 2, 2],
  ['cubic', 3, 3],
] as const)('enlarged by %s, %f times', (kind, factor, period) => {
  const { samples, side } = enlarged(ground(SIDE, 9), SIDE, factor, kind);
  const seen = look(samples, side);
  expect(told(seen)).toEqual([kind === 'cubic' || (kind === 'linear' && factor < 2) ? 'pattern' : 'enlarged']);
  // whole fractions of the period leave the same pattern
  expect(period / seen.period!).toBeCloseTo(Math.round(period / seen.period!), 1);
  expect(lookWarnings(RAW, seen)[0]!.message).toMatch(/^A (faint )?pattern repeats every \d(\.\d)? samples/);
});

test('lines of a grid that are drawn over the ground', () => {
  const samples = ground(SIDE, 3);
  for (let i = 0; i < samples.length; i++) if (i % SIDE === 40 || i % SIDE === 200) samples[i] = 65535;
  expect(told(look(samples, SIDE))).toEqual(['needles']);
});

test('bytes of each sample exchanged', () => {
  const samples = ground(SIDE, 4).map((v) => ((Math.round(v) & 255) << 8) | (Math.round(v) >> 8));
  const seen = look(samples, SIDE);
  expect(told(seen)).toEqual(['byte-order']);
  expect(lookWarnings(RAW, seen)[0]!.message).toContain('probably big');
});

test.each([296, 306, 340, 411])('a width of 300 read as %i', (width) => {
  const samples = ground(SIDE, 5);
  const height = Math.floor(samples.length / width);
  const seen = look(samples.subarray(0, width * height), width, height);
  expect(told(seen)).toEqual(['row-width']);
  // a picture that says its own size is not doubted
  expect(lookWarnings({ format: 'png', byteOrder: null }, seen).map((w) => w.code)).not.toContain('row-width');
});

test('a raster of one value, and one too narrow to see a pattern', () => {
  expect(told(look(new Float64Array(SIDE * SIDE).fill(7), SIDE))).toEqual([]);
  const rows = new RowSampler({ width: 40, height: 40 });
  rows.add({ y: 0, rows: 40, data: new Uint16Array(1600) });
  expect(rows.result({ bitDepth: 16, sampleType: 'uint', format: 'raw' })).toBeNull();
});

test('names of pictures that are not the heights', () => {
  const codes = (name: string, bitDepth = 8) => nameWarnings(name, { bitDepth }).map((w) => w.code);
  expect(codes('kettle-tarn-preview.png')).toEqual(['preview']);
  expect(codes('Thumb_02.png')).toEqual(['preview']);
  expect(codes('kettle-tarn-preview.png', 16)).toEqual([]);
  expect(codes('thumbelow.png')).toEqual([]);
});
