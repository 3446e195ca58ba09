/**
 * Each test breaks one formula of the plan on purpose and expects the proof, which knows nothing of the plan, to notice.
 */
import { MemoryFolder, type ByteSource } from '@/core/base';
import { hills, pngSource, recipeWith } from '../helpers/rasters';

let source: ByteSource;
beforeAll(async () => {
  source = await pngSource(hills(200, 200), 200);
});
afterEach(() => {
  jest.resetModules();
  jest.dontMock('@/core/height/range');
  jest.dontMock('@/core/height/quantise');
  jest.dontMock('@/core/plan/geometry');
});

/** Packs and proves with whatever is mocked at the moment. */
async function proofWith(parts: Parameters<typeof recipeWith>[0]) {
  const { run } = await import('@/core/run');
  const { prove } = await import('@/core/proof');
  const folder = new MemoryFolder();
  const recipe = recipeWith(parts);
  const document = await run(recipe, source, folder);
  return (await prove({ document, recipe, file: (n) => folder.source(n), reference: source })).proof;
}

function breakModule(path: string, change: (real: Record<string, (...args: never[]) => unknown>) => object): void {
  jest.doMock(path, () => {
    const real = jest.requireActual<Record<string, (...args: never[]) => unknown>>(path);
    return { ...real, ...change(real) };
  });
}

test('unbroken, it holds', async () => {
  expect((await proofWith({ fit: { size: 127 } })).holds).toBe(true);
});

test('the height scale by the rule of thumb (range / 512) instead of the formula', async () => {
  breakModule('@/core/height/range', () => ({ scaleOfRange: (metres: number) => (metres / 512) * 100 }));
  const proof = await proofWith({ fit: { size: 127 } });
  expect(proof.holds).toBe(false);
  expect(proof.wrongValues).toContain('heightScale');
});

test('the wrong elevation at world zero', async () => {
  breakModule('@/core/height/range', () => ({
    worldZero: (_: unknown, __: unknown, range: { high: number }) => range.high,
  }));
  const proof = await proofWith({ fit: { size: 127 } });
  expect(proof.holds).toBe(false);
  expect(proof.wrongValues).toContain('heightOffset');
});

test('codes rounded down instead of to the nearest', async () => {
  breakModule('@/core/height/quantise', (real) => ({
    quantiserFor: (...args: never[]) => {
      const q = real['quantiserFor']!(...args) as { scale: number; offset: number; highest: number };
      return { ...q, offset: q.offset - 0.5 };
    },
  }));
  expect((await proofWith({ fit: { size: 127 } })).holds).toBe(false);
});

test('spacing by the number of samples instead of the intervals', async () => {
  breakModule('@/core/plan/geometry', (real) => ({
    fitGeometry: (...args: never[]) => {
      const g = real['fitGeometry']!(...args) as { width: number; spacing: { x: number; y: number } };
      return { ...g, spacing: { x: (2.5 * 200) / g.width, y: g.spacing.y } };
    },
  }));
  const proof = await proofWith({ fit: { size: 127 } });
  expect(proof.holds).toBe(false);
  expect(proof.wrongValues).toEqual(['groundScaleX']);
});
