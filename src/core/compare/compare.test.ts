/** Data sets of the same ground: which holds what, and which is made of which. */
import { random } from '../base';
import { memoryRaster, type OpenRaster, type RasterInfo } from '../raster';
import { compare, finestWave } from './index';

const SIDE = 361;

/** Rough ground: chance, smoothed over more and more samples, the smoother the higher. */
const ground = ((): Float32Array => {
  const next = random(8);
  const out = new Float32Array(SIDE * SIDE);
  for (let radius = 0, height = 0.5; radius < SIDE / 4; radius = 2 * radius + 1, height *= 2.1) {
    const level = Float64Array.from(out, () => next() - 0.5);
    for (const step of [1, SIDE, 1, SIDE]) blur(level, step, radius);
    level.forEach((v, i) => (out[i]! += height * (1 + radius) * v));
  }
  return out.map((v) => 1500 + 60 * v);
})();

function blur(field: Float64Array, step: number, radius: number): void {
  const across = step === 1 ? SIDE : 1;
  const line = new Float64Array(SIDE);
  for (let k = 0; k < SIDE; k++) {
    for (let i = 0; i < SIDE; i++) line[i] = field[k * across + i * step]!;
    for (let i = 0; i < SIDE; i++) {
      let sum = 0;
      for (let d = -radius; d <= radius; d++) sum += line[(i + d + 4 * SIDE) % SIDE]!;
      field[k * across + i * step] = sum / (2 * radius + 1);
    }
  }
}

const info = (width: number, metres: number): RasterInfo => ({
  format: 'tiff',
  width,
  height: width,
  channels: 1,
  bitDepth: 32,
  sampleType: 'float',
  byteOrder: 'little',
  unit: 'metre',
  mayHoldVoids: true,
  georeference: { x: 1000, y: 9000, dx: metres, dy: metres, metres: 1, degrees: false, crs: 'fells' },
  warnings: [],
});
const raster = (samples: Float32Array, metres = 10): OpenRaster =>
  memoryRaster(info(Math.sqrt(samples.length), metres), samples, []);

/** Every third sample, and those between them on straight lines. */
const third = Float32Array.from(
  { length: 121 * 121 },
  (_, i) => ground[Math.floor(i / 121) * 3 * SIDE + (i % 121) * 3]!,
);
const widened = Float32Array.from({ length: SIDE * SIDE }, (_, i) => {
  const [x, y] = [(i % SIDE) / 3, Math.floor(i / SIDE) / 3];
  const [c, r] = [Math.min(119, Math.floor(x)), Math.min(119, Math.floor(y))];
  const [u, v] = [x - c, y - r];
  const at = (dx: number, dy: number): number => third[(r + dy) * 121 + c + dx]!;
  return (at(0, 0) * (1 - u) + at(1, 0) * u) * (1 - v) + (at(0, 1) * (1 - u) + at(1, 1) * u) * v;
});
const hole = (x: number, y: number): boolean => x > 200 && x < 280 && y > 100 && y < 150;
const voided = ground.map((v, i) => (hole(i % SIDE, Math.floor(i / SIDE)) ? NaN : v));
const composite = ground.map((v, i) => (hole(i % SIDE, Math.floor(i / SIDE)) ? widened[i]! : v));

test('the finest waves: of every sample, of every third, of a flat raster', () => {
  const rows = (samples: Float32Array, width: number) =>
    Array.from({ length: 60 }, (_, i) => samples.subarray(i * 2 * width, (i * 2 + 1) * width));
  expect(finestWave(rows(ground, SIDE), 0)).toBeLessThan(2.8);
  const coarse = finestWave(rows(widened, SIDE), 0)!;
  expect(coarse).toBeGreaterThan(4);
  expect(coarse).toBeLessThan(9);
  expect(finestWave(rows(new Float32Array(SIDE * SIDE).fill(3), SIDE), 0)).toBeNull();
  // in steps of 40 m nothing fine is left
  const stepped = ground.map((v) => Math.round(v / 400) * 400);
  expect(finestWave(rows(stepped, SIDE), 400)!).toBeGreaterThan(finestWave(rows(ground, SIDE), 0)!);
});

test('ranked with reasons; the largest difference with its place; what the composite is made of', async () => {
  const spike = ground.slice();
  spike[300 * SIDE + 120]! += 90;
  const found = await compare([
    { name: 'coarse.tif', raster: raster(third, 30) },
    { name: 'fine.tif', raster: raster(voided) },
    { name: 'composite.tif', raster: raster(composite) },
    { name: 'spiked.tif', raster: raster(spike) },
  ]);
  expect(found.ranked.map((f) => f.name).at(-1)).toBe('coarse.tif');
  const fine = found.ranked.find((f) => f.name === 'fine.tif')!;
  expect(fine).toMatchObject({ voids: 79 * 49, spacing: 10 });
  expect(fine.reasons[0]).toBe('2.97 % voids (3 871 samples)');
  expect(found.ranked.find((f) => f.name === 'coarse.tif')!.detail!).toBeGreaterThan(55);
  expect(found.ranked[0]!.detail!).toBeLessThan(28);
  expect(found.made).toMatchObject({ name: 'composite.tif' });
  expect(found.differences).toHaveLength(3);
  for (const d of found.differences) expect(d.map).toHaveLength(found.side ** 2);
});

test('two that differ in one place', async () => {
  const lifted = ground.map((v, i) => {
    const [x, y] = [i % SIDE, Math.floor(i / SIDE)];
    return v + 50 * Math.exp(-((x - 90) ** 2 + (y - 270) ** 2) / 200);
  });
  const { differences } = await compare([
    { name: 'a.tif', raster: raster(ground) },
    { name: 'b.tif', raster: raster(lifted) },
  ]);
  const [d] = differences;
  expect(d!.largest).toBeGreaterThan(48);
  expect(d!.largest).toBeLessThanOrEqual(50.001);
  expect(d!.at[0]).toBeCloseTo(90 / (SIDE - 1), 1);
  expect(d!.at[1]).toBeCloseTo(270 / (SIDE - 1), 1);
  expect(d!.same).toBeGreaterThan(0.9);
});

test('codes whose metres are said beside the file are compared in metres', async () => {
  // 2 m higher than the floats, in codes of 5 cm above 0 m
  const codes = Uint16Array.from(ground, (v) => Math.round((v + 2) / 0.05));
  const said = { low: 0, high: 0.05 * 65535, stretch: 1, from: 'notes.txt' };
  const { unit: _, ...rest } = info(SIDE, 10);
  const { ranked, differences } = await compare([
    { name: 'a.tif', raster: raster(ground) },
    { name: 'b.png', raster: memoryRaster({ ...rest, sampleType: 'uint', bitDepth: 16, codes: said }, codes) },
  ]);
  expect(ranked.find((r) => r.name === 'b.png')).toMatchObject({ metres: true });
  expect(differences[0]!.fitted).toBe(false);
  expect(differences[0]!.mean).toBeCloseTo(2, 2);
});

test('only the ground that both hold is compared', async () => {
  // the same ground, 100 samples further east and 50 further south, of a smaller piece
  const piece = Float32Array.from(
    { length: 200 * 200 },
    (_, i) => ground[(50 + Math.floor(i / 200)) * SIDE + 100 + (i % 200)]!,
  );
  const moved = memoryRaster(
    { ...info(200, 10), georeference: { ...info(200, 10).georeference!, x: 2000, y: 8500 } },
    piece,
    [],
  );
  const { differences } = await compare([
    { name: 'all.tif', raster: raster(ground) },
    { name: 'piece.tif', raster: moved },
  ]);
  expect(differences[0]!.largest).toBeLessThan(1e-3);
});
