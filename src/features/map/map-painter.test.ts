import { formatNumber } from '@/core/base';
import { plan } from '@/core/plan';
import type { TilePixels, TileRequest } from '@/workers/protocol';
import { FakeCanvas, FakeFrames } from '../../../tests/helpers/fake-canvas';
import { countedHills, measure } from '../../../tests/helpers/fake-workers';
import { recipeWith } from '../../../tests/helpers/rasters';
import { MapPainter } from './map-painter';
import type { MapScene } from './paint-map';
import { fitTo, innerOf } from './viewport';

const SIDE = 600;
const size = { width: 500, height: 400 };
const inner = innerOf(size.width, size.height);
let scene: MapScene;
let frames: FakeFrames;

beforeAll(async () => {
  const { facts } = await countedHills(SIDE);
  const recipe = recipeWith({ fit: { size: 505 } });
  scene = {
    shown: {
      sourceKey: 'tarn/1',
      arrived: null,
      wholeFrom: null,
      facts,
      extremes: null,
      stage: null,
      knownSpots: [],
      held: true,
      view: 'relief',
      overlays: { tiles: true, components: true, patches: false },
      goTo: null,
      section: null,
      sectionAt: null,
      theme: 'film',
    },
    plan: plan(recipe, facts, null),
    recipe,
    viewport: fitTo({ left: 0, top: 0, right: SIDE - 1, bottom: SIDE - 1 }, inner),
    inner,
    size,
    which: 'source',
    wipe: null,
    around: false,
    difference: null,
  };
  frames = FakeFrames.install();
});
afterAll(() => jest.restoreAllMocks());

const shown = (change: Partial<MapScene['shown']>, more: Partial<MapScene> = {}): MapScene => ({
  ...scene,
  ...more,
  shown: { ...scene.shown, ...change },
});
const pixels: TilePixels = { width: 256, height: 256, pixels: new Uint8ClampedArray(256 * 256 * 4) };
const settle = () => new Promise((resolve) => setImmediate(resolve));

/** A painter whose tiles come when `answer` is called, all that were asked for by then. */
function painter() {
  const asked: { request: TileRequest; resolve: (p: TilePixels | null) => void }[] = [];
  const waiting: typeof asked = [];
  const painter = new MapPainter(
    (request) =>
      new Promise((resolve) => {
        asked.push({ request, resolve });
        waiting.push({ request, resolve });
      }),
  );
  const canvas = new FakeCanvas();
  return {
    asked,
    canvas,
    painter,
    show: (s: MapScene) => painter.show(canvas as never, s),
    paintings: () => canvas.calls.filter((c) => c === 'setTransform').length,
    answer: async () => {
      while (waiting.length > 0) {
        for (const one of waiting.splice(0)) one.resolve(pixels);
        await settle();
      }
    },
  };
}

test('a scene is painted at once, its tiles together at the next frame; busy until the last is there', async () => {
  const p = painter();
  p.show(scene);
  expect(p.paintings()).toBe(1);
  expect([p.canvas.width, p.canvas.height]).toEqual([500, 400]);
  expect(p.canvas.attributes.get('aria-busy')).toBe('true');
  expect(p.canvas.pictures).toEqual([]);
  await p.answer();
  expect(p.paintings()).toBe(1);
  frames.frame();
  expect(p.paintings()).toBe(2);
  expect(p.canvas.pictures.length).toBeGreaterThan(0);
  expect(p.canvas.attributes.get('aria-busy')).toBe('false');
  // nothing more is asked for, nothing more painted
  const count = p.asked.length;
  frames.frame();
  p.show(scene);
  expect(p.asked).toHaveLength(count);
});

test('while rows arrive it is painted seldom after the first ground; when all are there, at once', async () => {
  const p = painter();
  frames.now = 10_000;
  p.show(shown({ arrived: 0 }));
  for (let rows = 40; rows < SIDE; rows += 40) {
    p.show(shown({ arrived: rows }));
    await p.answer();
    frames.frame(20);
    await p.answer();
    frames.frame(20);
  }
  // 14 reports of rows within 560 ms, each followed by its tiles
  expect(p.paintings()).toBeLessThanOrEqual(10);
  expect(p.paintings()).toBeGreaterThanOrEqual(6);
  const before = p.paintings();
  p.show(shown({ arrived: null }));
  expect(p.paintings()).toBe(before + 1);
});

test('when the last rows are there, their tiles do not wait for a pause that began before', async () => {
  const p = painter();
  frames.now = 20_000;
  for (let rows = 40; rows < 480; rows += 40) {
    p.show(shown({ arrived: rows }));
    await p.answer();
    frames.frame(20);
  }
  // a painting waits out its pause
  p.show(shown({ arrived: 520 }));
  const paused = p.paintings();
  frames.frame(10);
  expect(p.paintings()).toBe(paused);
  p.show(shown({ arrived: null }));
  await p.answer();
  frames.frame(10);
  expect(p.paintings()).toBe(paused + 2);
  expect(p.canvas.attributes.get('aria-busy')).toBe('false');
  // and the old pause paints nothing more
  frames.frame(1000);
  expect(p.paintings()).toBe(paused + 2);
});

test('another change while rows arrive does not wait', () => {
  const p = painter();
  for (let rows = 100; rows < 600; rows += 50) {
    p.show(shown({ arrived: rows }));
    frames.frame();
  }
  const before = p.paintings();
  p.show(shown({ arrived: 600, theme: 'night' }));
  expect(p.paintings()).toBe(before + 1);
});

test('tiles of another source are let go', async () => {
  const p = painter();
  p.show(scene);
  await p.answer();
  frames.frame();
  p.canvas.pictures.length = 0;
  p.show(shown({ sourceKey: 'ridge/2' }));
  expect(p.canvas.pictures).toEqual([]);
  expect(p.asked.at(-1)!.request.id).toBe('ridge/2');
});

test('a changed ground keeps the picture it had until the new one is there', async () => {
  const p = painter();
  const recipe = recipeWith({ fit: { size: 505 }, source: { low: 1200, high: 2140 } });
  p.show(scene);
  await p.answer();
  frames.frame();
  const before = new Set(p.canvas.pictures);
  p.canvas.pictures.length = 0;
  p.show({ ...scene, recipe, plan: plan(recipe, scene.shown.facts!, null) });
  expect(p.canvas.pictures.length).toBeGreaterThan(0);
  expect(p.canvas.pictures.every((picture) => before.has(picture))).toBe(true);
  await p.answer();
  p.canvas.pictures.length = 0;
  frames.frame();
  expect(p.canvas.pictures.some((picture) => !before.has(picture))).toBe(true);
});

test('the wipe asks for both sides; without a source that can be drawn nothing is asked for', async () => {
  const both = painter();
  both.show(shown({}, { which: 'result', wipe: 0.5 }));
  await both.answer();
  expect(new Set(both.asked.map((a) => a.request.which))).toEqual(new Set(['source', 'result']));
  const none = painter();
  none.show(shown({ held: false }));
  expect(none.asked).toEqual([]);
  expect(none.canvas.attributes.get('aria-busy')).toBe('false');
});

test('the difference view shows its picture and never the ground beneath it alone', () => {
  const p = painter();
  const picture = new FakeCanvas() as never as HTMLCanvasElement;
  const difference = { picture, worst: { x: 3, y: 4, error: -0.25 } };
  p.show(shown({ view: 'difference' }, { which: 'result', difference }));
  expect(p.canvas.pictures.at(-1)).toBe(picture);
  // the largest error is marked with its number
  expect(p.canvas.texts).toContain('largest −25 cm');
});

test('after it was told to rest, tiles that arrive paint nothing', async () => {
  const p = painter();
  p.show(scene);
  p.painter.rest();
  await p.answer();
  frames.frame();
  expect(p.paintings()).toBe(1);
});

test('the highest and the lowest vertex, and the spot that is pointed out, bear their elevation', async () => {
  const source = await countedHills(SIDE);
  const measured = plan(scene.recipe, source.facts, await measure(source, scene.recipe));
  const elevations = new Map(measured.document.spots.map((s) => [s.id, formatNumber(s.elevation!, 1)]));
  const other = [...elevations.keys()].find((id) => id !== 'highest' && id !== 'lowest')!;
  const spoken = (spot: string | null): string[] => {
    const p = painter();
    const view = shown(
      { goTo: spot === null ? null : { spot, vertex: null, count: 1 } },
      { which: 'result', plan: measured },
    );
    p.show(view);
    return [...elevations].filter(([, text]) => p.canvas.texts.includes(text)).map(([id]) => id);
  };
  expect(spoken(null).sort()).toEqual(['highest', 'lowest']);
  expect(spoken(other)).toContain(other);
});
