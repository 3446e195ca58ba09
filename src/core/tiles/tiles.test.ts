import fc from 'fast-check';
import { faultOf, recipeWith } from '../../../tests/helpers/rasters';
import { fileNameOf, fillPattern, placementOrder, splitTiles, tileSide, wholeSide, type TileGrid } from '.';

const REFUSED = '<>:"/\\|?*';
const options = { fallbackName: 'terrain', ending: 'png', refusedBeforeNumbers: '', refused: REFUSED };
const split = (
  across: number,
  down: number,
  whole: { width: number; height: number },
  more: { edges?: 'shared' | 'abutting'; pattern?: string; first?: number; rows?: 'north' | 'south' } = {},
): TileGrid =>
  splitTiles(
    recipeWith({ split: { across, down, edges: 'shared', pattern: '{name}-r{row:2}c{col:2}', ...more } }),
    whole,
    options,
  );

const grids = fc.record({
  across: fc.integer({ min: 1, max: 9 }),
  down: fc.integer({ min: 1, max: 9 }),
  width: fc.integer({ min: 2, max: 70 }),
  height: fc.integer({ min: 2, max: 70 }),
  edges: fc.constantFrom('shared' as const, 'abutting' as const),
});

test('tiles cover the whole: shared edges once more, everything else exactly once', () => {
  fc.assert(
    fc.property(grids, ({ across, down, width, height, edges }) => {
      const whole = { width: wholeSide(width, across, edges), height: wholeSide(height, down, edges) };
      const { tiles } = split(across, down, whole, { edges });
      const seen = new Uint8Array(whole.width * whole.height);
      for (const { window: w } of tiles) {
        expect([w.width, w.height]).toEqual([width, height]);
        for (let y = w.y; y < w.y + w.height; y++)
          for (let x = w.x; x < w.x + w.width; x++) seen[y * whole.width + x]!++;
      }
      for (let y = 0; y < whole.height; y++) {
        for (let x = 0; x < whole.width; x++) {
          // a column that two tiles share lies a whole number of tile intervals from the west, and so do rows
          const doubled = (at: number, side: number, last: number): number =>
            edges === 'shared' && at > 0 && at < last && at % (side - 1) === 0 ? 2 : 1;
          const expected = doubled(x, width, whole.width - 1) * doubled(y, height, whole.height - 1);
          if (seen[y * whole.width + x] !== expected) throw new Error(`${x}, ${y}: ${seen[y * whole.width + x]}`);
        }
      }
      expect(tileSide(whole.width, across, edges)).toBe(width);
    }),
    { numRuns: 60 },
  );
});

test('a whole that can’t be divided names the nearest ones that can', () => {
  expect(tileSide(1525, 3, 'shared')).toBe(509);
  expect(tileSide(1525, 5, 'shared')).toBeNull();
  expect(tileSide(1525, 5, 'abutting')).toBe(305);
  expect(tileSide(3, 3, 'abutting')).toBeNull();
  expect(() => split(5, 1, { width: 1525, height: 1525 })).toThrow(
    expect.objectContaining({
      code: 'split-indivisible',
      found: '1525 vertices for 5 tiles across with shared edges',
      remedy: expect.stringContaining('1521 or 1526'),
    }),
  );
});

test('rows are numbered from the side that the recipe says, columns always from the west', () => {
  const whole = { width: 7, height: 10 };
  const names = (rows: 'north' | 'south', first = 0) => split(2, 3, whole, { rows, first }).tiles.map((t) => t.name);
  expect(names('north')).toEqual([
    'kettle-r00c00.png',
    'kettle-r00c01.png',
    'kettle-r01c00.png',
    'kettle-r01c01.png',
    'kettle-r02c00.png',
    'kettle-r02c01.png',
  ]);
  // the list stays north to south; the southernmost row is now the first
  expect(names('south').slice(0, 2)).toEqual(['kettle-r02c00.png', 'kettle-r02c01.png']);
  expect(names('south', 1).at(-1)).toBe('kettle-r01c02.png');
  const indexed = split(2, 3, whole, { rows: 'south', pattern: '{name}_{index}' }).tiles.map((t) => t.name);
  expect(indexed).toEqual([
    'kettle_4.png',
    'kettle_5.png',
    'kettle_2.png',
    'kettle_3.png',
    'kettle_0.png',
    'kettle_1.png',
  ]);
});

test('two tiles of one name, also in upper and lower case, are refused', () => {
  const whole = { width: 7, height: 7 };
  expect(() => split(2, 2, whole, { pattern: '{name}-{col}' })).toThrow(
    expect.objectContaining({ code: 'file-name', found: expect.stringContaining('two tiles called') }),
  );
});

test.each([
  ['{name}_{col:3}_{row}', 'tarn_007_4'],
  ['{index:1}', '12'],
  ['plain', 'plain'],
])('the pattern %s becomes %s', (pattern, name) => {
  expect(fillPattern(pattern, { name: 'tarn', col: 7, row: 4, index: 12 }, REFUSED)).toBe(name);
});

test.each(['{colour}', 'a/{col}', 'a\\b', '.hidden', 'ends.', 'ends ', 'tab\tin', 'a?'])(
  'the pattern %j is refused with what to do',
  (pattern) => {
    expect(() => fillPattern(pattern, { name: 'tarn', col: 0, row: 0, index: 0 }, REFUSED)).toThrow(
      expect.objectContaining({ code: 'file-name', remedy: expect.stringMatching(/./) }),
    );
  },
);

test.each([
  ['Kettle Tarn', 'Kettle-Tarn'],
  ['Höhe über Null', 'Hohe-uber-Null'],
  ['../../etc', 'etc'],
  ['…', 'terrain'],
  ['a.b_c-d', 'a.b_c-d'],
])('the project %j is called %s on disk', (project, name) => {
  expect(fileNameOf(project)).toBe(name);
});

test('any project name gives a file name that holds nothing refused', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 40 }), (project) => {
      expect(fileNameOf(project)).toMatch(/^[A-Za-z0-9_][A-Za-z0-9._-]*$|^terrain$/);
    }),
  );
});

test('each tile but the first is placed beside one that is there already', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 8 }), fc.integer({ min: 1, max: 8 }), (across, down) => {
      const grid = split(across, down, { width: across * 2 + 1, height: down * 2 + 1 });
      const order = placementOrder(grid);
      expect([...order].sort((a, b) => a - b)).toEqual(grid.tiles.map((_, i) => i));
      const there: { fromWest: number; fromNorth: number }[] = [];
      for (const i of order) {
        const tile = grid.tiles[i]!;
        const touches = there.some(
          (t) => Math.abs(t.fromWest - tile.fromWest) + Math.abs(t.fromNorth - tile.fromNorth) === 1,
        );
        expect(there.length === 0 || touches).toBe(true);
        there.push(tile);
      }
    }),
  );
});

describe('names that some system can’t hold', () => {
  test.each([
    ['con', 'con-terrain'],
    ['NUL.heights', 'NUL-terrain.heights'],
    ['com7', 'com7-terrain'],
    ['console', 'console'],
    ['tarn. ', 'tarn'],
    ['...', 'terrain'],
    ['\u202eevil', 'evil'],
    ['x'.repeat(300), 'x'.repeat(80)],
  ])('of a project: %j begins files with %s', (name, begins) => {
    expect(fileNameOf(name)).toBe(begins);
  });
  const numbers = { name: 'kettle', col: 0, row: 0, index: 0 };
  test.each([
    'con',
    'lpt1.{index}',
    'a\u202eb',
    'a\u0007',
    'a\ud800b',
    'a\u200b',
    'y'.repeat(220),
    '.{name}',
    '{name} ',
    '{name}.',
  ])('a pattern %j is refused', async (pattern) => {
    expect((await faultOf(() => fillPattern(pattern, numbers, REFUSED))).code).toBe('file-name');
  });
  test('a pair of code units is one sign and may stand', () => {
    expect(fillPattern('{name}-\u{1f3d4}', numbers, REFUSED)).toBe('kettle-\u{1f3d4}');
  });
});
