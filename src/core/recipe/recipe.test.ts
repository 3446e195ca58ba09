import { parseRecipe, parseRecipeText } from '.';
import { faultOf } from '../../../tests/helpers/rasters';

/** As a file of the first version stands. */
const good = { version: 1, source: { low: 0, high: 100, spacing: 1 }, target: 'component-grid', fit: { size: 505 } };

test('defaults are filled in', () => {
  expect(parseRecipe(good)).toMatchObject({
    fit: { method: 'resample', filter: 'lanczos3', clamp: false, at: [0, 0], worldScale: 1, origin: 'north-west' },
    height: { range: 'source', strategy: 'full', offset: 'lowest-code' },
    output: { format: 'png', byteOrder: 'little', rows: 'north' },
  });
});

test.each([
  [{ ...good, colour: 1 }, 'recipe-key', 'unknown key "colour"'],
  [{ ...good, fit: { ...good.fit, sise: 4 } }, 'recipe-key', 'unknown key "fit.sise"'],
  [{ ...good, version: 9 }, 'recipe-version', 'unknown recipe version 9'],
  [{ ...good, version: undefined }, 'recipe-version', 'no recipe version'],
  [{ ...good, source: { ...good.source, spacing: null } }, 'recipe-value', '"source.spacing"'],
  [{ ...good, source: { ...good.source, spacing: NaN } }, 'recipe-value', '"source.spacing"'],
  [{ ...good, source: { ...good.source, spacing: -2 } }, 'recipe-value', '"source.spacing"'],
  [{ ...good, source: { ...good.source, high: -5 } }, 'recipe-value', '"source.high"'],
  [{ ...good, source: { low: 4, spacing: 1 } }, 'recipe-value', '"source.high"'],
  [{ ...good, height: { range: 'pinned' } }, 'recipe-value', '"height.low"'],
  [
    { ...good, height: { strategy: 'fixed', anchor: { at: 'lowest', elevation: 0 } } },
    'recipe-value',
    '"height.scale"',
  ],
  [{ ...good, height: { strategy: 'headroom', below: 60, above: 60 } }, 'recipe-value', '"height.above"'],
  [{ ...good, height: { offset: 'sea' } }, 'recipe-value', '"height.sea"'],
  [{ ...good, fit: { size: 505, filter: 'magic' } }, 'recipe-value', '"fit.filter"'],
  [[], 'recipe-syntax', 'a list'],
  [null, 'recipe-syntax', 'null'],
])('%j is refused', async (value, code, found) => {
  const error = await faultOf(() => parseRecipe(value, 'r.json'));
  expect(error.code).toBe(code);
  expect(error.file).toBe('r.json');
  expect(error.found).toContain(found);
  expect(error.message).not.toMatch(/undefined|ZodError|TypeError/);
});

test('text that is not JSON, and numbers that are none, are told apart', async () => {
  // a byte order mark is no part of the text
  expect(parseRecipeText(`\uFEFF${JSON.stringify(good)}`)).toEqual(parseRecipe(good));
  expect((await faultOf(() => parseRecipeText('{', 'r.json'))).found).toBe('text that is not JSON');
  expect((await faultOf(() => parseRecipeText('{"version":1,"source":{"spacing":NaN}}', 'r.json'))).found).toContain(
    'NaN',
  );
});

describe('recipes of version 1 are carried over', () => {
  test('overshoot is let through as it was then, held in new ones; placeholders are named', () => {
    expect(parseRecipe(good)).toMatchObject({ version: 4, fit: { clamp: false }, height: { exaggeration: 1 } });
    expect(parseRecipe({ ...good, version: 2 }).fit.clamp).toBe(true);
    expect(parseRecipe({ ...good, fit: { ...good.fit, clamp: true } }).fit.clamp).toBe(true);
    expect(parseRecipe({ ...good, source: { ...good.source, assumed: true } }).source.assumed).toEqual([
      'low',
      'high',
      'spacing',
    ]);
    expect(parseRecipe({ ...good, source: { spacing: 1, assumed: true } }).source.assumed).toEqual(['spacing']);
  });
  test.each([
    [{ ...good, height: { exaggeration: 2 } }, 'height.exaggeration'],
    [{ ...good, fit: { ...good.fit, voids: 3 } }, 'fit.voids'],
    [{ ...good, draft: 505 }, 'draft'],
  ])('what it did not have is a slip there', async (value, key) => {
    const error = await faultOf(() => parseRecipe(value, 'old.json'));
    expect(error).toMatchObject({ code: 'recipe-key', file: 'old.json', found: `"${key}" in a recipe of version 1` });
  });
  test('what the numbers stand for is one of several kinds since version 3', async () => {
    const second = { ...good, version: 2 };
    expect(parseRecipe(second).source).toEqual({ heights: { as: 'ends', low: 0, high: 100 }, spacing: 1 });
    expect(parseRecipe({ ...second, source: { spacing: 1 } }).source.heights).toEqual({ as: 'elevations' });
    const early = { ...second, source: { ...second.source, curve: 'srgb' } };
    expect(await faultOf(() => parseRecipe(early))).toMatchObject({
      code: 'recipe-key',
      found: '"source.curve" in a recipe of version 2',
    });
  });
  test.each([
    [{ heights: { as: 'ends', low: 5, high: 5 } }, 'source.heights.high'],
    [{ heights: { as: 'step', step: 0, base: 5 } }, 'source.heights.step'],
    [{ heights: { as: 'step', step: 1 } }, 'source.heights.base'],
    [{ heights: { as: 'elevations', unit: 'fathom' } }, 'source.heights.unit'],
    [{ heights: { as: 'guess' } }, 'source.heights'],
    [{ heights: { as: 'ends', low: 0, high: 5, stretch: 0 } }, 'source.heights.stretch'],
    [{ heights: { as: 'elevations' }, curve: 'srgb' }, 'source.curve'],
    [{ heights: { as: 'ends', low: 0, high: 5, truncated: true }, curve: 2.2 }, 'source.curve'],
    [{ heights: { as: 'ends', low: 0, high: 5 }, curve: 'film' }, 'source.curve'],
    [{}, 'source.heights'],
  ])('heights that can’t be are refused: %j', async (parts, key) => {
    const error = await faultOf(() => parseRecipe({ ...good, version: 3, source: { spacing: 1, ...parts } }));
    expect(error).toMatchObject({ code: 'recipe-value' });
    expect(error.found).toContain(key);
    expect(error.message).not.toMatch(/undefined|invalid/i);
  });
  test('a carried-over recipe is read again as it stands', () => {
    const once = parseRecipe(good);
    expect(parseRecipe(JSON.parse(JSON.stringify(once)))).toEqual(once);
  });
  test.each([
    [{ source: { ...good.source, spacing: 1e-320 } }, 'source.spacing'],
    [{ source: { low: 5, high: 5 + 1e-9, spacing: 1 } }, 'source.high'],
    [{ fit: { ...good.fit, worldScale: 1e-9 } }, 'fit.worldScale'],
    [{ height: { exaggeration: 0 } }, 'height.exaggeration'],
    [{ source: { ...good.source, assumed: ['colour'] } }, 'source.assumed'],
  ])('numbers that would make every value 0 or endless are refused: %j', async (parts, key) => {
    const error = await faultOf(() => parseRecipe({ ...good, version: 2, ...parts }));
    expect(error).toMatchObject({ code: 'recipe-value' });
    expect(error.found).toContain(key);
  });
});
