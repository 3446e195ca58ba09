import { parseRecipe, parseRecipeText } from '.';
import { faultOf } from '../../../tests/helpers/rasters';

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
  expect((await faultOf(() => parseRecipeText('{', 'r.json'))).found).toBe('text that is not JSON');
  expect((await faultOf(() => parseRecipeText('{"version":1,"source":{"spacing":NaN}}', 'r.json'))).found).toContain(
    'NaN',
  );
});
