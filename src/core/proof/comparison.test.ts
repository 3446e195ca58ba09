import fc from 'fast-check';
import { CodeComparisonKernel, GroundComparisonKernel, type RowFigures } from '../wasm';
import { compareCodes, type Shown } from './compare-row';
import { ErrorMap, LineFit, RowErrors } from './error-meter';
import { errorAt } from './types';
import { compareGround } from './pipeline';

/** Ground that rises and falls beyond the range on both sides, with a void here and there. */
const groundOf = (width: number, y: number): Float32Array =>
  Float32Array.from({ length: width }, (_, x) =>
    (x * 7 + y * 3) % 41 === 40 ? NaN : 33000 + 40000 * Math.sin(x * 0.37 + y * 0.9),
  );
const table = Float64Array.from({ length: 65536 }, (_, code) => code * 0.0123 - 300.07);
const shown: Shown = {
  heightOf: (code) => table[code]!,
  top: 65535,
  unit: 0.0123,
  shift: -300,
  lowest: -300 - 0.00615,
  highest: 65535 * 0.0123 - 300 + 0.00615,
};
const codesOf = (ground: Float32Array): Uint16Array =>
  Uint16Array.from(ground, (v, x) => Math.max(0, Math.min(65535, Math.floor((v || 0) + 0.5 + (x % 5 === 0 ? 3 : 0)))));

test('rows of codes: the kernel gives what its twin gives, to the bit', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 2, max: 700 }),
      fc.integer({ min: 1, max: 12 }),
      fc.boolean(),
      (width, rows, maps) => {
        const [a, b] = [0, 1].map(() => (maps ? new ErrorMap(width, rows, 64) : null));
        const lines = [new LineFit(), new LineFit()];
        const kernel = CodeComparisonKernel.create(table, width, a!)!;
        const figures: [RowFigures[], RowFigures[]] = [[], []];
        for (let y = 0; y < rows; y++) {
          // the first part of a row, as a tile takes it, and the rest
          for (const [from, to] of [
            [0, width >> 1],
            [width >> 1, width],
          ] as const) {
            const ground = groundOf(width, y).subarray(from, to);
            const codes = codesOf(ground);
            const start = b?.rowStart(y) ?? 0;
            figures[0].push(
              kernel.compare(codes, ground, from, start, shown.unit, shown.shift, shown.lowest, shown.highest),
            );
            figures[1].push(compareCodes(codes, ground, from, start, shown, b!, lines[1]!));
          }
        }
        lines[0]!.set(kernel.finish().line);
        expect(figures[0]).toEqual(figures[1]);
        expect(lines[0]).toEqual(lines[1]);
        expect(a?.cells).toEqual(b?.cells);
      },
    ),
    { numRuns: 60 },
  );
});

test('codes at the ends count as clipped only where the ground lies beyond them', () => {
  const ground = Float32Array.of(-0.4, -0.6, 0.2, 65535.4, 65535.6, NaN);
  const codes = Uint16Array.of(0, 0, 0, 65535, 65535, 7);
  const straight: Shown = {
    heightOf: (code) => code,
    top: 65535,
    unit: 1,
    shift: 0,
    lowest: -0.5,
    highest: 65535.5,
  };
  const { low, high, count, max } = compareCodes(codes, ground, 0, 0, straight, null, new LineFit());
  expect([low, high, count]).toEqual([1, 1, 3]);
  expect(max).toBeCloseTo(0.4, 2);
});

test('rows of the source: the kernel gives what its twin gives, from band to band', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 2, max: 80 }),
      fc.integer({ min: 3, max: 30 }),
      fc.integer({ min: 2, max: 200 }),
      fc.integer({ min: 1, max: 9 }),
      (width, height, samples, perBand) => {
        const ground = Array.from({ length: height }, (_, y) => groundOf(width, y));
        const place = Array.from({ length: samples }, (_, x) => (x * (width - 1)) / (samples - 1));
        const left = Int32Array.from(place, (at) => Math.min(width - 2, Math.floor(at)));
        const shares = Float64Array.from(place, (at, x) => at - left[x]!);
        const [a, b] = [new ErrorMap(width, height, 16), new ErrorMap(width, height, 16)];
        const kernel = GroundComparisonKernel.create(left, shares, width, a)!;
        for (let y = 0; y < height; y += perBand) {
          const band = ground.slice(y, y + perBand);
          kernel.band(Float32Array.from(band.flatMap((row) => [...row])));
          // every pair of rows whose lower one is in this band
          for (let top = Math.max(0, y - 1); top + 1 < y + band.length; top++) {
            const source = groundOf(samples, top * 5 + 1);
            const share = (top % 4) / 4;
            const start = b.rowStart(top);
            const found = kernel.compare(source, top - y, 1, samples, share, start, 0.25);
            const twin = compareGround(
              source,
              ground[top]!,
              ground[top + 1]!,
              left,
              shares,
              1,
              samples,
              share,
              0.25,
              b,
              start,
            );
            expect({ ...found, low: 0, high: 0 }).toEqual(twin);
          }
        }
        kernel.finish();
        expect(a.cells).toEqual(b.cells);
      },
    ),
    { numRuns: 60 },
  );
});

test('codes of a source are compared as the heights that they are above the datum', () => {
  const left = Int32Array.from({ length: 37 }, (_, x) => Math.min(34, x));
  const shares = new Float64Array(37).fill(0.25);
  const codes = Uint16Array.from({ length: 37 }, (_, x) => 30000 + x * 71);
  const heights = Float32Array.from(codes, (c) => c - 32768);
  const figures = [codes, heights].map((row) => {
    const kernel = GroundComparisonKernel.create(left, shares, 36, null, 32768)!;
    kernel.band(Float32Array.from({ length: 72 }, (_, x) => x * 50 - 2000));
    return kernel.compare(row, 0, 0, 37, 0.5, 0, 1);
  });
  expect(figures[0]).toEqual(figures[1]);
  expect(figures[0]!.count).toBe(37);
});

test('ground between vertices: half way between two rows and two columns is the mean of four', () => {
  const map = new ErrorMap(2, 1);
  const found = compareGround(
    Float32Array.of(10),
    Float32Array.of(0, 4),
    Float32Array.of(8, 20),
    Int32Array.of(0),
    Float64Array.of(0.5),
    0,
    1,
    0.5,
    2,
    map,
    0,
  );
  // (0 + 4 + 8 + 20) / 4 = 8, two units below the sample, two metres a unit
  expect([...map.cells]).toEqual([-4, 0]);
  expect(found).toEqual({ max: 4, sum: 4, squares: 16, count: 1, low: 0, high: 0 });
});

test('a cell keeps the largest error with its sign, and of two as large the first', () => {
  // 6 columns fall into 3 cells: errors (+2, −3), (−1, +1) and (NaN, −0.5)
  const map = new ErrorMap(6, 2, 3);
  expect([map.columns, map.rows]).toEqual([3, 2]);
  const truth = Float32Array.of(10, 10, 10, 10, NaN, 10);
  const straight: Shown = {
    ...shown,
    heightOf: (code) => code / 2,
    top: 65535,
    unit: 1,
    shift: 0,
  };
  const codes = Uint16Array.of(24, 14, 18, 22, 9, 19);
  const twin = compareCodes(codes, truth, 0, map.rowStart(1), straight, map, new LineFit());
  expect([...map.cells]).toEqual([0, 0, 0, -3, -1, -0.5]);
  expect(twin).toEqual({ max: 3, sum: 7.5, squares: 15.25, count: 5, low: 0, high: 0 });
  const other = new ErrorMap(6, 2, 3);
  const kernel = CodeComparisonKernel.create(
    Float64Array.from({ length: 65536 }, (_, c) => c / 2),
    6,
    other,
  )!;
  expect(kernel.compare(codes, truth, 0, other.rowStart(1), 1, 0, -300, 900)).toEqual(twin);
  kernel.finish();
  expect(other.cells).toEqual(map.cells);
});

test('the largest error of a map has a vertex in the middle of its cell, and stands under every place of it', () => {
  const map = new ErrorMap(100, 50, 10);
  map.cells.set([0.5], 7);
  map.cells.set([-0.75], 4 * 10 + 3);
  // 10 × 10 cells of 10 × 5 vertices: the cell in column 3, row 4 begins at vertex 30, 20
  const worst = map.worst();
  expect(worst).toEqual({ x: 35, y: 22, error: -0.75 });
  const maps = {
    columns: 10,
    rows: 10,
    encoding: new Float32Array(100),
    ground: map.cells,
    worst: { encoding: worst, ground: worst },
  };
  for (const [x, y] of [
    [0.301, 0.401],
    [0.399, 0.499],
  ] as const)
    expect(errorAt(maps, 'ground', x, y)).toBe(-0.75);
  expect(errorAt(maps, 'ground', 0.401, 0.45)).toBe(0);
  expect(errorAt(maps, 'ground', 0.75, 0)).toBe(0.5);
  expect(errorAt(maps, 'encoding', 0.35, 0.45)).toBe(0);
  // both far ends belong to the last cell; beyond them there is nothing
  map.cells[99] = 2;
  expect(errorAt(maps, 'ground', 1, 1)).toBe(2);
  for (const [x, y] of [
    [-0.001, 0.5],
    [0.5, 1.001],
    [NaN, 0.5],
  ] as const)
    expect(errorAt(maps, 'ground', x, y)).toBeNull();
});

test('errors of a row: size in the figures, sign in the map', () => {
  const map = new ErrorMap(4, 1, 4);
  const errors = new RowErrors(map, 0);
  [-2, 1, -1, 0].forEach((e, i) => errors.add(i, e, i));
  expect(errors.figures()).toEqual({ max: 2, sum: 4, squares: 6, count: 4, low: 0, high: 0 });
  expect([...map.cells]).toEqual([-2, 1, -1, 0]);
});
