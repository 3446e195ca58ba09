import { parseRecipe } from '../recipe';
import { plan } from '../plan';
import { Pyramid, type RasterInfo } from '../raster';
import { fittedWindow } from '../chain';
import { elevationAt, profile, resultAt, resultWindow, sourceWindow, type MapSource } from '.';

const SIDE = 505;
const info: RasterInfo = {
  format: 'png',
  width: SIDE,
  height: SIDE,
  channels: 1,
  bitDepth: 16,
  sampleType: 'uint',
  byteOrder: null,
  warnings: [],
};
/** A plane that rises 10 codes to the east and 20 to the south with every sample. */
const codes = Uint16Array.from({ length: SIDE * SIDE }, (_, i) => 10 * (i % SIDE) + 20 * Math.floor(i / SIDE));
const stats = {
  samples: codes.length,
  voids: 0,
  min: 0,
  max: 30 * (SIDE - 1),
  mean: 15 * (SIDE - 1),
  distinctCodes: 1513,
  codeStep: 10,
};

/** 65535 codes over 655.35 m: a code is a centimetre. */
function mapped(size: number) {
  const recipe = parseRecipe({
    version: 1,
    name: 'Low Reach',
    source: { low: 100, high: 755.35, spacing: 2 },
    target: 'odd-grid',
    fit: { size, filter: 'bilinear' },
  });
  const { work } = plan(recipe, { file: 'low-reach.png', info, warnings: [], stats }, null);
  const pyramid = new Pyramid({ width: SIDE, height: SIDE, samples: codes });
  pyramid.grow(SIDE);
  const source: MapSource = { levels: pyramid.levels, unit: 0.01, offset: 100 };
  return { recipe, work, source };
}
const height = (x: number, y: number): number => 100 + 0.1 * x + 0.2 * y;

test('elevations between samples are interpolated, the border reaches half a sample out, beyond it is nothing', () => {
  const { source } = mapped(SIDE);
  expect(elevationAt(source, 0, 10, 20)).toBeCloseTo(height(10, 20), 9);
  expect(elevationAt(source, 0, 10.25, 20.5)).toBeCloseTo(height(10.25, 20.5), 9);
  expect(elevationAt(source, 0, -0.4, 3)).toBeCloseTo(height(0, 3), 9);
  expect(elevationAt(source, 0, -0.6, 3)).toBeNull();
  expect(elevationAt(source, 0, 3, SIDE)).toBeNull();
  // the overview's samples stand for the middles of 2 × 2
  expect(elevationAt(source, 1, 100.5, 200.5)).toBeCloseTo(height(100.5, 200.5), 1);
});

test('a window of the source has a margin that repeats the border; rows that are not known yet are voids', () => {
  const { source } = mapped(SIDE);
  const at = (w: Float32Array, x: number, y: number) => w[(y + 1) * 6 + x + 1];
  const area = { x: 0, y: 0, width: 4, height: 4 };
  const whole = sourceWindow(source, 0, area);
  expect(at(whole, 2, 3)).toBeCloseTo(height(2, 3), 4);
  expect(at(whole, -1, -1)).toBe(at(whole, 0, 0));
  expect(at(whole, 4, 4)).toBeCloseTo(height(4, 4), 4);
  const arriving = sourceWindow({ ...source, known: [3, 1] }, 0, area);
  expect(at(arriving, 3, 2)).toBeCloseTo(height(3, 2), 4);
  expect(at(arriving, 0, 3)).toBeNaN();
  expect(sourceWindow({ ...source, known: [3, 1] }, 1, area).slice(12, 18)).toEqual(new Float32Array(6).fill(NaN));
});

test('windows of the result are the fitted vertices rounded to codes, the same wherever the window begins', () => {
  const { source, work } = mapped(253);
  const step = (work.range.high - work.range.low) / 65535;
  const area = { x: 40, y: 60, width: 8, height: 8 };
  const window = resultWindow(source, work, 0, area);
  for (const [x, y] of [
    [0, 0],
    [7, 3],
    [-1, 8],
  ] as const) {
    // vertex i lies at 504·i/252 samples: two samples apart
    const expected = height(2 * (area.x + x), 2 * (area.y + y));
    expect(Math.abs(window[(y + 1) * 10 + x + 1]! - expected)).toBeLessThanOrEqual(step / 2 + 1e-4);
  }
  const shifted = resultWindow(source, work, 0, { ...area, x: 43 });
  expect(shifted[5 * 10 + 2]).toBe(window[5 * 10 + 5]);
  // coarser levels come from the overviews, near enough to the ground
  const coarse = resultWindow(source, work, 2, { x: 10, y: 10, width: 2, height: 2 });
  expect(coarse[4 + 1]).toBeCloseTo(height(2 * (10.5 * 4 - 0.5), 2 * (10.5 * 4 - 0.5)), 0);
});

test('the same grid is taken sample by sample', () => {
  const { source, work } = mapped(SIDE);
  expect([...fittedWindow(source.levels[0]!, work.fit, { x: 3, y: 5, width: 2, height: 1 })]).toEqual([130, 140]);
});

test('a profile knows length, rise and steepest slope; the result ends with the grid', () => {
  const { source, recipe, work } = mapped(253);
  const p = profile(source, recipe, work, { x: 0, y: 0 }, { x: 300, y: 400 }, 101);
  expect(p.length).toBeCloseTo(1000, 6);
  expect(p.rise).toBeCloseTo(0.1 * 300 + 0.2 * 400, 3);
  expect(p.steepest).toBeCloseTo((Math.atan(110 / 1000) * 180) / Math.PI, 2);
  expect(p.result[50]).toBeCloseTo(height(150, 200), 1);
  expect(resultAt(source, work, { x: -1, y: 5 })).toBeNaN();
  expect(resultAt(source, work, { x: 500, y: 500 })).toBeCloseTo(height(500, 500), 1);
});
