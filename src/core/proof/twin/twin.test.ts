import { recipeWith } from '../../../../tests/helpers/rasters';
import { codeOf, expectedCard, expectedGrid, expectedHeights, expectedLayout, placesOf, type SourceFacts } from '.';
import { numbersOf, readPrintedMarkdown } from './printed';
import { tapsOf } from './weights';

/*
 * The twin is held against numbers worked out by hand, never against the code that it judges.
 */
const SOURCE: SourceFacts = {
  file: 'kettle-tarn.png',
  width: 1536,
  height: 1536,
  bitDepth: 16,
  sampleType: 'uint',
  spacing: 1,
};

describe('what a vertex is made of', () => {
  const of = (...args: Parameters<typeof tapsOf>) => Object.fromEntries(tapsOf(...args).map((t) => [t.at, t.share]));
  test('half way between samples', () => {
    // 3 samples on 5 vertices: vertex 1 lies at 0.5
    expect(of('bilinear', 1, 3, 5)).toEqual({ 0: 0.5, 1: 0.5 });
    // 9 samples on 17 vertices: vertex 7 lies at 3.5; −1/16, 9/16, 9/16, −1/16
    expect(of('catmull-rom', 7, 9, 17)).toEqual({ 2: -0.0625, 3: 0.5625, 4: 0.5625, 5: -0.0625 });
    // sinc(½)·sinc(1/6) = 0.607927, sinc(3/2)·sinc(½) = −0.135095, sinc(5/2)·sinc(5/6) = 0.024317; twice their sum is 0.994298
    const lanczos = of('lanczos3', 7, 9, 17);
    expect(lanczos[3]).toBeCloseTo(0.607927 / 0.994298, 5);
    expect(lanczos[2]).toBeCloseTo(-0.135095 / 0.994298, 5);
    expect(lanczos[6]).toBeCloseTo(0.024317 / 0.994298, 5);
  });
  test('on a sample it is that sample', () => {
    for (const filter of ['nearest', 'bilinear', 'catmull-rom', 'lanczos3', 'area'] as const) {
      const taps = tapsOf(filter, 4, 9, 17);
      expect(taps.find((t) => t.at === 2)?.share).toBeCloseTo(1, 12);
      expect(taps.filter((t) => t.at !== 2).every((t) => Math.abs(t.share) < 1e-15)).toBe(true);
    }
  });
  test('shrunk by two', () => {
    // 5 samples on 3 vertices: vertex 1 lies at 2, and its stretch reaches from 1 to 3
    expect(of('area', 1, 5, 3)).toEqual({ 1: 0.25, 2: 0.5, 3: 0.25 });
    expect(of('bilinear', 1, 5, 3)).toEqual({ 1: 0.25, 2: 0.5, 3: 0.25 });
    // at the border the stretch from −1 to 1 holds all of sample 0's interval and half of sample 1's
    expect(of('area', 0, 5, 3)).toEqual({ 0: 1 / 1.5, 1: 0.5 / 1.5 });
    expect(of('nearest', 1, 4, 3)).toEqual({ 2: 1 });
  });
});

describe('codes', () => {
  const heights = expectedHeights(recipeWith({ source: { low: 0, high: 65535 } }), {
    bitDepth: 16,
    sampleType: 'uint',
    min: 0,
    max: 65535,
    groundLow: 0,
    groundHigh: 0,
  });
  test.each([
    [100, 100, 100, null],
    [100.48, 100, 100, null],
    [100.495, 100, 101, null],
    [100.5, 101, 100, null],
    [100.505, 101, 100, null],
    [100.515, 101, 101, null],
    [-0.4, 0, 0, null],
    [-0.52, 0, 0, 'low'],
    [65535.49, 65535, 65535, null],
    [65536, 65535, 65535, 'high'],
  ])('%d m over 65535 m is %d, or %d as well', (metres, code, other, clipped) => {
    expect(codeOf(metres, heights)).toEqual({ code, other, clipped, least: code, most: code });
    // what projecting may move it by, both ways
    const loose = codeOf(metres, { ...heights, loose: 2 });
    const within = (n: number) => Math.min(65535, Math.max(0, n));
    expect([loose.least, loose.most]).toEqual([
      within(Math.floor(metres + 0.5) - 2),
      within(Math.floor(metres + 0.5) + 2),
    ]);
  });
});

describe('heights', () => {
  const facts = { bitDepth: 16, sampleType: 'uint', min: 0, max: 65535, groundLow: 0, groundHigh: 0 } as const;
  const of = (parts: Parameters<typeof recipeWith>[0], more: object = {}) =>
    expectedHeights(recipeWith(parts), { ...facts, ...more });
  test('of Kettle Tarn', () => {
    expect(of({})).toMatchObject({ low: 1310, high: 2140, zero: 1310, offset: 1310, rim: 1310, voids: null });
    expect(of({}).step).toBeCloseTo(830 / 65535, 12);
  });
  test('a miniature of a quarter, exaggerated twice: 830 m become 415 m', () => {
    const h = of({
      fit: { worldScale: 0.25, rim: 1510, voids: 1410 },
      height: { exaggeration: 2, offset: 'sea', sea: 1330 },
    });
    // 1310/4 = 327.5; 200 m above it are 50 m, twice as much 100 m
    expect(h.low).toBe(327.5);
    expect(h.high).toBe(742.5);
    expect(h.rim).toBe(427.5);
    expect(h.voids).toBe(377.5);
    expect(h.zero).toBe(337.5);
  });
  test('the codes of signed samples reach below zero', () => {
    const h = of({ source: { low: 0, high: 32767 }, height: { range: 'codes' } }, { sampleType: 'int' });
    expect([h.low, h.high]).toEqual([-32768, 32767]);
  });
  test('headroom, a fixed scale and a range that follows exaggerated ground', () => {
    const room = of({ height: { strategy: 'headroom', below: 10, above: 15 } });
    expect(room.low).toBeCloseTo(1310 - (0.1 * 830) / 0.75, 9);
    expect(room.high).toBeCloseTo(2140 + (0.15 * 830) / 0.75, 9);
    const fixed = of({ height: { strategy: 'fixed', scale: 100, anchor: { at: 'middle', elevation: 1500 } } });
    // one code is 1/128 m
    expect(fixed.low).toBe(1500 - 256);
    expect(fixed.step).toBe(1 / 128);
    const ground = of({ height: { range: 'ground', exaggeration: 2 } }, { groundLow: 1400, groundHigh: 1600 });
    expect([ground.low, ground.high, ground.offset]).toEqual([1400, 1600, 1400 + 2 * (1310 - 1400)]);
  });
});

describe('the grid', () => {
  test('extent by intervals, the origin where it was asked for', () => {
    const g = expectedGrid(recipeWith({ fit: { size: 1525, origin: 'centre' } }), SOURCE);
    expect(g.extentX).toBe(3837.5);
    expect(g.spacingX).toBeCloseTo(3837.5 / 1524, 12);
    expect([g.east, g.north]).toEqual([-1918.75, 1918.75]);
  });
  test('nine tiles counted from the south share their edges', () => {
    const g = expectedGrid(
      recipeWith({ name: 'Ketté Tarn!', fit: { size: 1513 }, split: { across: 3, down: 3, rows: 'south', first: 1 } }),
      SOURCE,
    );
    expect(g.tiles.map((t) => t.name).slice(0, 4)).toEqual([
      'Kette-Tarn-r03c01.png',
      'Kette-Tarn-r03c02.png',
      'Kette-Tarn-r03c03.png',
      'Kette-Tarn-r02c01.png',
    ]);
    expect(g.tiles[4]).toMatchObject({ x: 504, y: 504, width: 505, height: 505, column: 2, row: 2 });
    expect(expectedLayout(recipeWith({ fit: { size: 1513 } }), g)).toEqual({
      quads: 63,
      patches: 2,
      componentsX: 4,
      componentsY: 4,
    });
  });
  test('a crop begins where it says, padding lies inside', () => {
    expect(expectedGrid(recipeWith({ fit: { size: 253, method: 'crop', at: [20, 7] } }), SOURCE)).toMatchObject({
      startX: 20,
      startY: 7,
      spacingX: 2.5,
    });
    const pad = expectedGrid(recipeWith({ fit: { size: 2017, method: 'pad', at: [30, 40] } }), SOURCE);
    expect(pad).toMatchObject({ startX: -30, startY: -40, extentX: 2016 * 2.5 });
    const { fit } = { fit: { size: 2017, method: 'pad', at: [30, 40] } };
    const card = expectedCard(
      recipeWith({ fit }),
      SOURCE,
      pad,
      expectedHeights(recipeWith({}), {
        bitDepth: 16,
        sampleType: 'uint',
        min: 0,
        max: 65535,
        groundLow: 0,
        groundHigh: 0,
      }),
    );
    const value = (id: string) => card.find((r) => r.id === id)?.value;
    expect([value('companionSource'), value('companionSourceEast'), value('companionSourceSouth')]).toEqual([
      1535, 30, 40,
    ]);
  });
});

test('more than a thousand places, with every corner of every tile and both sides of every seam', () => {
  const recipe = recipeWith({ fit: { size: 1513 }, split: { across: 3, down: 3 } });
  const grid = expectedGrid(recipe, SOURCE);
  const places = placesOf(grid, SOURCE, [{ x: 77, y: 99 }]);
  expect(places.length).toBeGreaterThan(1200);
  const has = (x: number, y: number): boolean => places.some((p) => p.x === x && p.y === y);
  expect(has(77, 99)).toBe(true);
  for (const t of grid.tiles)
    for (const x of [t.x, t.x + 504]) for (const y of [t.y, t.y + 504]) expect(has(x, y)).toBe(true);
  for (const seam of [504, 1008])
    for (const beside of [-1, 0, 1]) {
      expect(places.filter((p) => p.x === seam + beside).length).toBeGreaterThan(6);
      expect(places.filter((p) => p.y === seam + beside).length).toBeGreaterThan(6);
    }
  expect(new Set(places.map((p) => `${p.x} ${p.y}`)).size).toBe(places.length);
  expect(placesOf(grid, SOURCE, [])).toEqual(placesOf(grid, SOURCE, []));
  // of a small grid all of it
  const small = expectedGrid(recipeWith({ fit: { size: 31 } }), SOURCE);
  expect(placesOf(small, SOURCE, [])).toHaveLength(961);
  // both sides of the edge of a padded source
  const pad = expectedGrid(recipeWith({ fit: { size: 2017, method: 'pad', at: [30, 40] } }), SOURCE);
  for (const x of [29, 30, 30 + 1535, 30 + 1536]) expect(placesOf(pad, SOURCE, []).some((p) => p.x === x)).toBe(true);
});

test('a printed page is read as a person reads it', async () => {
  const { tables } = await readPrintedMarkdown(
    '# A\n\n## Values\n\n| Value | Type |\n| --- | --- |\n| a \\| b | −41 500.63 |\n\n## Other\n\nwords\n',
  );
  expect(tables.get('Values')).toEqual([['a | b', '−41 500.63']]);
  expect(tables.get('Other')).toBeUndefined();
  expect(numbersOf('−41 500.63, 7')).toEqual([-41500.63, 7]);
  for (const text of ['', 'void', '1.2.3', '0x10', '1e5', 'NaN']) expect(numbersOf(text)).toBeNull();
});
