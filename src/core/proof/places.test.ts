import { expectedGrid, expectedHeights, placesOf, type GroundValue, type SourceFacts } from './twin';
import { TellingPlaces } from './telling-places';
import { VertexJudge } from './vertices';
import { recipeWith } from '../../../tests/helpers/rasters';

/*
 * Where a proof looks, and how it counts: by hand, on rasters that are wider than high.
 */
const facts: SourceFacts = { file: 'fells.raw', width: 900, height: 700, bitDepth: 16, sampleType: 'uint', spacing: 3 };

test.each([
  ['stretched', { size: [1513, 1261] }],
  ['cropped', { method: 'crop', size: [757, 631], at: [41, 23] }],
])('both sides of where each file ends are looked at: %s', (_, fit) => {
  const grid = expectedGrid(recipeWith({ fit }), facts);
  // with gaps between them
  const outlines = [
    { x: 0, y: 0, width: 310, height: 260 },
    { x: 330, y: 0, width: 570, height: 260 },
    { x: 0, y: 285, width: 310, height: 415 },
    { x: 330, y: 285, width: 570, height: 415 },
  ];
  const without = placesOf(grid, facts, [], 7);
  const places = placesOf(grid, facts, [], 7, outlines);
  const across = (x: number): number => (grid.stretched ? (x * (grid.width - 1)) / 899 : x - grid.startX);
  const down = (y: number): number => (grid.stretched ? (y * (grid.height - 1)) / 699 : y - grid.startY);
  const near = (list: typeof places, axis: 'x' | 'y', at: number): number =>
    list.filter((p) => Math.abs(p[axis] - at) <= 1.5).length;
  for (const [axis, at] of [
    ['x', across(309.5)],
    ['x', across(329.5)],
    ['y', down(259.5)],
    ['y', down(284.5)],
  ] as const) {
    expect(near(places, axis, at)).toBeGreaterThan(near(without, axis, at) + 40);
    // before and behind
    expect(places.some((p) => p[axis] < at && p[axis] > at - 1.5)).toBe(true);
    expect(places.some((p) => p[axis] > at && p[axis] < at + 1.5)).toBe(true);
  }
});

test('borders of voids are kept, each place next to ground or to a void', () => {
  const [width, height] = [97, 61];
  const ofVoids = 4000;
  const isVoid = (x: number, y: number): boolean => (x >= 20 && x < 45 && y >= 9 && y < 33) || (x === 80 && y === 50);
  const telling = new TellingPlaces({ width, height }, { type: 'uint' }, 5, ofVoids);
  const plain = new TellingPlaces({ width, height }, { type: 'uint' }, 5);
  for (let y = 0; y < height; y++) {
    const codes = Uint16Array.from({ length: width }, (_, x) => (isVoid(x, y) ? ofVoids : 100 + x + 3 * y));
    telling.take('a', codes, 0, y);
    plain.take('a', codes, 0, y);
  }
  const besides = telling.result().slice(plain.result().length);
  const ends = (x: number, y: number): boolean =>
    (x > 0 && isVoid(x - 1, y) !== isVoid(x, y)) || (y > 0 && isVoid(x, y - 1) !== isVoid(x, y));
  const all = Array.from({ length: width * height }, (_, i) => [i % width, Math.floor(i / width)] as const);
  expect(besides.map((t) => [t.place.x, t.place.y])).toEqual(all.filter(([x, y]) => ends(x, y)).map((p) => [...p]));
  for (const { place, code } of besides) expect(code.code === ofVoids).toBe(isVoid(place.x, place.y));
});

test('clipped vertices: for certain, by the last bits, and where it is not known whether they are ground', () => {
  const recipe = recipeWith({
    source: { low: 0, high: 65535 },
    fit: { size: 127, voids: 300 },
    height: { range: 'pinned', low: 1000, high: 9000 },
  });
  const found = { bitDepth: 16, sampleType: 'uint', min: 0, max: 65535, groundLow: 0, groundHigh: 0 } as const;
  const heights = expectedHeights(recipe, found);
  const judge = new VertexJudge(heights);
  const at = (kind: 'ground' | 'either', stored: number): GroundValue => ({ kind, stored, spread: 0 });
  const half = heights.step / 2;
  for (const value of [
    at('ground', 990),
    at('ground', 5000),
    at('ground', 9000 + 1.2 * half),
    at('ground', 9000 + half),
    at('either', 400),
    { kind: 'void' } as const,
  ])
    judge.judge(3, 4, value, [{ file: 'a', code: 0 }]);
  // 990 and the void below; what may be either is counted at both ends
  expect(judge.beyond).toEqual({ low: { least: 2, most: 3 }, high: { least: 1, most: 3 } });
});
