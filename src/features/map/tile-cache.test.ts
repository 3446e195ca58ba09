import type { TilePixels, TileRequest } from '@/workers/protocol';
import { TileCache } from './tile-cache';

/** As much of a canvas as the cache needs. */
const canvas = () => ({ width: 0, height: 0, getContext: () => ({ putImageData: () => undefined }) });

beforeAll(() => {
  Object.assign(globalThis, {
    document: { createElement: canvas },
    ImageData: class {
      constructor(
        readonly data: Uint8ClampedArray,
        readonly width: number,
      ) {}
    },
  });
});

const pixels: TilePixels = { width: 1, height: 1, pixels: new Uint8ClampedArray(4) };
const request = (column: number) => ({ column }) as TileRequest;

function served() {
  const asked: { column: number; answer: (p: TilePixels | null) => void }[] = [];
  let arrived = 0;
  const cache = new TileCache(
    (r) => new Promise((resolve) => asked.push({ column: r.column, answer: resolve })),
    () => arrived++,
  );
  return { cache, asked, arrivals: () => arrived };
}
const settle = () => new Promise((resolve) => setImmediate(resolve));

test('asks for two tiles at once, the most important first, and forgets wishes that are out of date', async () => {
  const { cache, asked, arrivals } = served();
  cache.want([1, 2, 3].map((n) => ({ key: `k${n}`, rows: 1, request: request(n) })));
  expect(asked.map((a) => a.column)).toEqual([1, 2]);
  // the view has moved on: 3 is not wanted any more, 4 is
  cache.want([{ key: 'k4', rows: 1, request: request(4) }]);
  asked[0]!.answer(pixels);
  await settle();
  expect(asked.map((a) => a.column)).toEqual([1, 2, 4]);
  expect(arrivals()).toBe(1);
  expect(cache.get('k1')).not.toBeNull();
  expect(cache.get('k3')).toBeNull();
  expect(cache.idle).toBe(false);
  asked[1]!.answer(pixels);
  asked[2]!.answer(pixels);
  await settle();
  expect(cache.idle).toBe(true);
});

test('a tile is asked for again when there are more rows to show, and stays until the new one is there', async () => {
  const { cache, asked } = served();
  cache.want([{ key: 'k', rows: 100, request: request(1) }]);
  asked[0]!.answer(pixels);
  await settle();
  const first = cache.get('k');
  cache.want([{ key: 'k', rows: 100, request: request(1) }]);
  expect(asked).toHaveLength(1);
  cache.want([{ key: 'k', rows: 160, request: request(1) }]);
  expect(asked).toHaveLength(2);
  expect(cache.get('k')).toBe(first);
  asked[1]!.answer(pixels);
  await settle();
  expect(cache.get('k')).not.toBe(first);
  expect(cache.rowsOf('k')).toBe(160);
});

test('keeps a bounded number of tiles, the least recently used go first; cleared, it holds none', async () => {
  const { cache, asked } = served();
  for (let n = 0; n < 230; n++) {
    cache.want([{ key: `k${n}`, rows: 1, request: request(n) }]);
    asked[n]!.answer(pixels);
    await settle();
    cache.get('k0');
  }
  expect(cache.get('k0')).not.toBeNull();
  expect(cache.get('k1')).toBeNull();
  expect(cache.get('k229')).not.toBeNull();
  cache.clear();
  expect(cache.get('k0')).toBeNull();
});
