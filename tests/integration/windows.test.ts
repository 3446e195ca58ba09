/**
 * What the map shows at full zoom is what the pack holds: windows of the result, computed alone, against the bands that
 * are written, bit for bit, over random sources and recipes.
 */
import fc from 'fast-check';
import { LevelGridError } from '@/core/base';
import { joinedSources, type ByteSource } from '@/core/base';
import { fittedGround, fittedWindow } from '@/core/chain';
import { withFiles } from '@/core/edits';
import { quantise } from '@/core/height';
import { plan } from '@/core/plan';
import { allocateSamples, collect, FILTERS, Pyramid } from '@/core/raster';
import { sourceReading } from '@/core/recipe';
import { countAndEnter, countSource, enterFit, holdStage, measureEntered } from '@/core/run';
import { elevationAt, resultAt, resultWindow } from '@/core/view';
import { cases, countedOf, DEGREES, recipeOf, samplesOf } from '../helpers/random-recipe';
import { hills, pngSource, recipeWith } from '../helpers/rasters';

/** Random recipes; more on request. */
const RECIPES = Number(process.env['RANDOM_RECIPES'] ?? 120);

test('a window of the result is bit for bit what the bands hold there, codes included', async () => {
  let seen = { voids: 0, precise: 0, steps: 0, once: 0 };
  await fc.assert(
    fc.asyncProperty(cases, async (c) => {
      const samples = samplesOf(c.kind, c.width, c.height, c.seed, c.holes);
      const counted = await countedOf(c.kind, samples, c.width, c.metric ? { georeference: DEGREES } : {});
      const recipe = recipeOf(c, counted.facts.info);
      const entered = await enterFit(recipe, counted).catch((reason: unknown) => {
        // ground that a step finds nothing in is refused in words
        if (reason instanceof LevelGridError && reason.code !== 'internal') return null;
        throw reason;
      });
      if (!entered) return;
      const ground = recipe.height.range === 'ground' ? await measureEntered(recipe, entered) : null;
      const { work } = plan(recipe, entered.facts, ground);
      const { width, height } = work.geometry;
      const whole = new Float32Array(width * height);
      for await (const { y, data } of fittedGround(entered.raster, work.fit).bands()) whole.set(data, y * width);
      const codes = new Uint16Array(whole.length);
      quantise(codes, whole, work.quantiser, { below: 0, above: 0, voids: 0 });
      const [x, y] = [c.x % width, c.y % height];
      const area = { x, y, width: Math.min(11, width - x), height: Math.min(9, height - y) };
      // what the page holds of it is made another time
      const again = { ...counted, opened: { ...counted.opened } };
      const held = await holdStage(recipe, again, (info) => allocateSamples(info, false));
      const { info } = work.entering;
      if (held) expect(held.found.stats).toEqual(work.entering.stats);
      const level = { width: info.width, height: info.height, samples: held?.samples ?? samples };
      const fitting = held?.fitting && { ...held.fitting.info, samples: held.fitting.samples };
      const part = fittedWindow(fitting ?? level, work.fit, area);
      const seenSource = { levels: [level], ...(fitting ? { fitting } : {}), ...work.calibration };
      const shown = resultWindow(seenSource, work, 0, area);
      const step = (work.range.high - work.range.low) / 65535;
      for (let j = 0; j < area.height; j++)
        for (let i = 0; i < area.width; i++) {
          const at = (y + j) * width + x + i;
          expect(part[j * area.width + i]).toBe(whole[at]);
          const elevation = shown[(j + 1) * (area.width + 2) + i + 1]!;
          if (Number.isNaN(whole[at])) expect(elevation).toBeNaN();
          else expect(elevation).toBe(Math.fround(work.range.low + codes[at]! * step));
        }
      seen = {
        voids: seen.voids + (work.entering.stats!.voids > 0 ? 1 : 0),
        steps: seen.steps + (work.entering.key === '' ? 0 : 1),
        once: seen.once + (work.fit.how === 'warp' ? 1 : 0),
        precise: seen.precise + (work.fit.how === 'resample' && work.fit.precise ? 1 : 0),
      };
    }),
    // the same recipes every time; others by RANDOM_SEED
    { numRuns: RECIPES, seed: Number(process.env['RANDOM_SEED'] ?? 284_865) },
  );
  // the property has met what it is about
  expect(seen.voids).toBeGreaterThan(RECIPES / 10);
  expect(seen.precise).toBeGreaterThan(RECIPES / 20);
  expect(seen.steps).toBeGreaterThan(RECIPES / 3);
  expect(seen.once).toBeGreaterThan(RECIPES / 10);
});

test('so it is where seams of several files are blended, before and after other steps', async () => {
  const side = 48;
  /** Two files side by side that share a column; the eastern one stands higher. */
  const file = async (column: number): Promise<ByteSource> => {
    const ground = hills(2 * side, side);
    const codes = Uint16Array.from({ length: side * side }, (_, i) => {
      const at = ground[Math.floor(i / side) * 2 * side + column * (side - 1) + (i % side)]!;
      return Math.min(60000, at) + (column === 1 ? 900 + (i % 7) : 0);
    });
    return pngSource(codes, side, `fells-r0c${column}.png`);
  };
  const source = joinedSources([await file(0), await file(1)]);
  const { facts } = await countSource(source);
  const files = facts.arrangement!.parts;
  await fc.assert(
    fc.asyncProperty(
      fc.record({
        reach: fc.integer({ min: 1, max: 30 }),
        values: fc.option(fc.integer({ min: 0, max: 60000 }), { nil: undefined }),
        quarters: fc.constantFrom(0, 1, 2, 3),
        mirror: fc.boolean(),
        first: fc.boolean(),
        curve: fc.boolean(),
        filter: fc.constantFrom(...FILTERS),
        size: fc.constantFrom(33, 64, 127),
      }),
      async ({ reach, values, quarters, mirror, first, curve, filter, size }) => {
        const lays = [
          ...(quarters > 0 ? [{ op: 'turn', quarters }] : []),
          ...(mirror ? [{ op: 'mirror', axis: 'x' }] : []),
        ];
        const works = [
          ...(values === undefined ? [] : [{ op: 'values', from: values, to: values + 900, become: 'void' }]),
          { op: 'blend', reach },
          ...(curve ? [{ op: 'linearise', curve: 'srgb' }] : []),
        ];
        const recipe = withFiles(
          recipeWith({ steps: first ? [...lays, ...works] : [...works, ...lays], fit: { size, filter } }),
          files,
        );
        const { entered } = await countAndEnter(recipe, source);
        const { work, document } = plan(recipe, entered.facts, null);
        expect(document.checks.filter((c) => c.id === 'step-order')).toEqual([]);
        const whole = await collect(fittedGround(entered.raster, work.fit));
        const again = await countSource(source, sourceReading(recipe));
        const held = (await holdStage(recipe, again, (info) => allocateSamples(info, false)))!;
        expect(held.found).toEqual({ stats: work.entering.stats, changes: work.entering.changes });
        const area = { x: 3, y: 5, width: size - 4, height: size - 9 };
        const part = fittedWindow({ ...held.info, samples: held.samples }, work.fit, area);
        for (let j = 0; j < area.height; j++)
          for (let k = 0; k < area.width; k++)
            expect(part[j * area.width + k]).toBe(whole[(area.y + j) * size + area.x + k]);
      },
    ),
    { numRuns: 12 },
  );
});

/** 300 × 200 of floats with one void. */
async function oneVoid() {
  const samples = samplesOf('floats', 300, 200, 3, 0);
  samples[100 * 300 + 150] = NaN;
  const counted = await countedOf('floats', samples, 300);
  const pyramid = new Pyramid({ width: 300, height: 200, samples });
  pyramid.grow(200);
  const mapped = (parts: object) => {
    const recipe = recipeWith({ source: { low: undefined }, fit: { size: [127, 85], ...parts } });
    const { work } = plan(recipe, counted.facts, null);
    return { work, source: { levels: pyramid.levels, unit: 1, offset: 0 } };
  };
  return { mapped, samples };
}

test('one void in the source makes no void on the map where the pack has none, at any zoom, nor beside it', async () => {
  const { mapped, samples } = await oneVoid();
  const { work, source } = mapped({});
  for (const level of [0, 1]) {
    const [width, height] = [Math.ceil(127 / 2 ** level), Math.ceil(85 / 2 ** level)];
    const shown = resultWindow(source, work, level, { x: 0, y: 0, width, height });
    expect(shown.filter((v) => Number.isNaN(v)).length).toBe(0);
  }
  expect(resultAt(source, work, { x: 150, y: 100 })).not.toBeNaN();
  // the source has its void, and only there
  expect(elevationAt(source, 0, 150, 100)).toBeNaN();
  expect(elevationAt(source, 0, 151, 100)).toBeCloseTo(samples[100 * 300 + 151]!, 3);
});

test('voids that the fit fills are filled at coarse zoom too', async () => {
  const { mapped, samples } = await oneVoid();
  const width = 300;
  for (let y = 40; y < 120; y++) samples.fill(NaN, y * width + 100, y * width + 180);
  const counted = await countedOf('floats', samples, width);
  const pyramid = new Pyramid({ width, height: 200, samples });
  pyramid.grow(200);
  const recipe = recipeWith({ source: { low: undefined }, fit: { size: [127, 85], voids: 3950 } });
  const { work } = plan(recipe, counted.facts, null);
  const source = { levels: pyramid.levels, unit: 1, offset: 0 };
  const shown = resultWindow(source, work, 1, { x: 0, y: 0, width: 64, height: 43 });
  expect(shown.some((v) => Number.isNaN(v))).toBe(false);
  expect(shown[17 * 66 + 30]).toBeCloseTo(3950, 2);
  const unfilled = resultWindow(source, mapped({}).work, 1, { x: 0, y: 0, width: 64, height: 43 });
  expect(unfilled[17 * 66 + 30]).toBeNaN();
});
