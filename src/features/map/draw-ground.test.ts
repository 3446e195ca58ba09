import { plan } from '@/core/plan';
import type { TileRequest } from '@/workers/protocol';
import { FakeCanvas } from '../../../tests/helpers/fake-canvas';
import { countedHills } from '../../../tests/helpers/fake-workers';
import { recipeWith } from '../../../tests/helpers/rasters';
import { drawLayer, layerOf, type Layer } from './draw-ground';
import type { TileCache, WantedTile } from './tile-cache';
import { fitTo, innerOf, type Viewport } from './viewport';

const inner = innerOf(600, 500);
const layer = (width: number, height: number, more: Partial<Layer> = {}): Layer => ({
  which: 'source',
  width,
  height,
  startX: 0,
  startY: 0,
  perX: 1,
  perY: 1,
  revision: 'r',
  ...more,
});

/** A cache that holds the tiles of `there`, with so many rows each. */
function cacheOf(there: Record<string, number> = {}): TileCache {
  return {
    get: (key: string) => (key in there ? { width: 256, height: 256, key } : null),
    rowsOf: (key: string) => there[key] ?? 0,
  } as unknown as TileCache;
}

interface Drawn {
  readonly wanted: readonly WantedTile[];
  /** Level/column/row of what is asked for, in that order. */
  readonly asked: readonly string[];
  readonly pictures: readonly string[];
}

function draw(l: Layer, v: Viewport, cache = cacheOf(), known: (level: number) => number = () => Infinity): Drawn {
  const canvas = new FakeCanvas();
  const ctx = canvas.getContext() as CanvasRenderingContext2D;
  const wanted = drawLayer(
    ctx,
    l,
    v,
    inner,
    cache,
    1,
    known,
    (level, column, row) => ({ level, column, row }) as TileRequest,
  );
  return {
    wanted,
    asked: wanted.map(({ request: r }) => `${r.level}/${r.column}/${r.row}`),
    pictures: canvas.pictures.map((picture) => (picture as { key: string }).key),
  };
}
const whole = (l: Layer): Viewport => fitTo({ left: 0, top: 0, right: l.width - 1, bottom: l.height - 1 }, inner);

test('all of a large raster needs its coarsest level first, then the one that the screen can show', () => {
  const l = layer(8129, 8129);
  // 456 pixels for 8129 samples: 18 samples a pixel, so level 4 (509 a side, four tiles); level 5 is the coarsest
  expect(draw(l, whole(l)).asked).toEqual(['5/0/0', '4/0/0', '4/1/0', '4/0/1', '4/1/1']);
});

test('zoomed in, only tiles that meet the map are asked for, at full detail', () => {
  const l = layer(8129, 8129);
  const close = { x: 1000, y: 600, scale: 2 };
  const { asked } = draw(l, close);
  expect(asked[0]).toBe('5/0/0');
  // 264 samples across and 228 down around (1000, 600): columns 3 and 4, rows 1 and 2
  expect(asked.slice(1)).toEqual(['0/3/1', '0/4/1', '0/3/2', '0/4/2']);
});

test('a small raster has one level', () => {
  const l = layer(200, 150);
  expect(draw(l, whole(l)).asked).toEqual(['0/0/0']);
});

test('at the border of the raster there is nothing to ask for beyond', () => {
  const l = layer(600, 300);
  const corner = { x: 599, y: 299, scale: 4 };
  // the sheet reaches beyond the last sample; the last column begins at 512, the last row at 256
  expect(draw(l, corner).asked.slice(-2)).toEqual(['0/2/0', '0/2/1']);
});

test('what is there is drawn coarse under fine, levels between included, and not asked for again', () => {
  const l = layer(2000, 2000);
  const full = (level: number): number => Math.min(2000, 256 * 2 ** level + 2 ** level);
  // level 2 is what the screen needs, level 3 the coarsest; something of level 2 is there, and of no use at level 1
  const found = draw(l, whole(l), cacheOf({ 'r/3/0/0': 2000, 'r/2/0/0': full(2), 'r/1/0/0': full(1) }));
  expect(found.pictures).toEqual(['r/3/0/0', 'r/2/0/0']);
  expect(found.asked).toEqual(['2/1/0', '2/0/1', '2/1/1']);
});

test('of a source that is read, tiles are asked for as far as there are rows, and again when there are more', () => {
  const l = layer(2000, 2000);
  const at = (rows: number, there: Record<string, number> = {}) => draw(l, whole(l), cacheOf(there), () => rows);
  expect(at(0).asked).toEqual([]);
  expect(at(300).asked).toEqual(['3/0/0', '2/0/0', '2/1/0']);
  expect(at(300).wanted.map((w) => w.rows)).toEqual([300, 300, 300]);
  expect(at(300, { 'r/3/0/0': 300, 'r/2/0/0': 300, 'r/2/1/0': 200 }).asked).toEqual(['2/1/0']);
  // the row of tiles in the north is complete with one sample of its level below it: it does not come again
  expect(at(1500).wanted.map((w) => w.rows)).toEqual([1500, 1028, 1028, 1500, 1500]);
  expect(at(1900, { 'r/3/0/0': 1900, 'r/2/0/0': 1028, 'r/2/1/0': 1028 }).asked).toEqual(['2/0/1', '2/1/1']);
});

test('a level that is known as a whole is asked for as a whole', () => {
  const l = layer(2000, 2000);
  const found = draw(l, whole(l), cacheOf(), (level) => (level >= 3 ? Infinity : 100));
  expect(found.wanted.map((w) => [w.request.level, w.rows])).toEqual([
    [3, 2000],
    [2, 100],
    [2, 100],
  ]);
});

test('the result lies where its vertices are, whatever their spacing', () => {
  // half as many vertices as samples, from sample 400 on
  const l = layer(500, 500, { which: 'result', startX: 400, startY: 400, perX: 2, perY: 2 });
  const v = { x: 400, y: 400, scale: 1 };
  // the north-west corner lies in the middle of the sheet: 264 samples, 132 vertices, to its east
  expect(draw(l, v).asked).toEqual(['1/0/0', '0/0/0']);
  expect(draw(l, { ...v, x: 1300, y: 1300 }).asked).toEqual(['1/0/0', '0/1/1']);
});

test('tiles of the result are drawn anew after every choice that changes them, and only then', async () => {
  const { facts } = await countedHills(129);
  const revision = (fit: object, more: object = {}): string => {
    const recipe = recipeWith({ fit: { size: 127, clamp: false, ...fit }, ...more });
    const { work } = plan(recipe, facts, null);
    return layerOf('result', { id: 'a', recipe, work, view: 'relief', dark: false, size: facts.info, stage: '' })
      .revision;
  };
  const as = revision({});
  const changed = [
    { clamp: true },
    { filter: 'nearest' },
    { filter: 'bilinear' },
    { method: 'crop' },
    { method: 'crop', at: [1, 1] },
    { size: 253, method: 'pad' },
    { size: 253, method: 'pad', rim: 7 },
  ].map((fit) => revision(fit));
  const all = [as, ...changed];
  expect(all.map((r) => all.indexOf(r))).toEqual(all.map((_, i) => i));
  expect(revision({}, { output: { format: 'raw' } })).toBe(as);
});
