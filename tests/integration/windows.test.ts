/**
 * What the map shows at full zoom is what the pack holds: windows of the result, computed alone, against the bands that
 * are written, bit for bit, over random sources and recipes.
 */
import fc from 'fast-check';
import { joinedSources, type ByteSource } from '@/core/base';
import { fittedGround, fittedWindow, planChain, sidesOf } from '@/core/chain';
import { withFiles } from '@/core/edits';
import { quantise } from '@/core/height';
import { plan, type SourceFacts } from '@/core/plan';
import {
  allocateSamples,
  collect,
  FILTERS,
  memoryRaster,
  Pyramid,
  sourceStatistics,
  type RasterInfo,
  type StoredSamples,
} from '@/core/raster';
import { sourceReading, type Recipe } from '@/core/recipe';
import { countAndEnter, countSource, enterFit, holdStage, measureEntered, type CountedSource } from '@/core/run';
import { elevationAt, resultAt, resultWindow } from '@/core/view';
import { hills, pngSource, recipeWith } from '../helpers/rasters';

type Kind = 'codes' | 'bytes' | 'floats' | 'doubles' | 'signed';

/** Ground of every type of samples, some of it voids where the type can hold them. */
function samplesOf(kind: Kind, width: number, height: number, seed: number, holes: number): StoredSamples {
  const codes = hills(width, height, seed);
  const metres = (c: number): number => 3900 + c * 0.0071;
  const kinds = {
    codes: () => codes,
    bytes: () => Uint8Array.from(codes, (c) => c >> 8),
    signed: () => Int16Array.from(codes, (c) => (c >> 4) - 2000),
    floats: () => Float32Array.from(codes, metres),
    doubles: () => Float64Array.from(codes, metres),
  };
  const samples = kinds[kind]();
  if (kind === 'floats' || kind === 'doubles')
    for (let i = 0; i < holes; i++) {
      const at = (i * 7919 + seed * 104729) % samples.length;
      samples.fill(i % 5 === 4 ? Infinity : NaN, at, Math.min(samples.length, at + 1 + (i % 4)));
    }
  return samples;
}

const TYPES = {
  codes: { bitDepth: 16, sampleType: 'uint' },
  bytes: { bitDepth: 8, sampleType: 'uint' },
  signed: { bitDepth: 16, sampleType: 'int' },
  floats: { bitDepth: 32, sampleType: 'float' },
  doubles: { bitDepth: 64, sampleType: 'float' },
} as const;

const DEGREES = { x: 80.1, y: -46.6, dx: 3e-4, dy: 2.5e-4, metres: null, degrees: true, crs: null };

async function countedOf(
  kind: Kind,
  samples: StoredSamples,
  width: number,
  over: Partial<RasterInfo> = {},
): Promise<CountedSource> {
  const info: RasterInfo = {
    format: 'raw',
    width,
    height: samples.length / width,
    channels: 1,
    byteOrder: null,
    warnings: [],
    ...TYPES[kind],
    ...over,
  };
  const opened = { ...memoryRaster(info, samples), reading: {} };
  const facts: SourceFacts = { file: 'fells.raw', info, warnings: [], stats: await sourceStatistics(opened) };
  return { opened, facts };
}

/** Steps in any order in which they can stand. */
const steps = fc.oneof(
  fc.record({ op: fc.constant('turn' as const), quarters: fc.constantFrom(1, 2, 3) }),
  fc.record({ op: fc.constant('mirror' as const), axis: fc.constantFrom('x' as const, 'y' as const) }),
  fc.constant({ op: 'swap-axes' as const }),
  fc.record({
    op: fc.constant('values' as const),
    from: fc.integer({ min: 0, max: 255 }),
    become: fc.oneof(fc.constant('void' as const), fc.integer({ min: 1000, max: 5000 })),
  }),
  fc.record({ op: fc.constant('linearise' as const), curve: fc.constantFrom('srgb' as const, 2.2) }),
);
const sizes = fc.constantFrom(8, 15, 22, 29, 33, 65, 64, 127, 106);
const cases = fc.record({
  kind: fc.constantFrom<Kind>('codes', 'bytes', 'floats', 'doubles', 'signed'),
  width: fc.integer({ min: 2, max: 90 }),
  height: fc.integer({ min: 2, max: 70 }),
  seed: fc.integer({ min: 1, max: 1000 }),
  holes: fc.integer({ min: 0, max: 60 }),
  across: sizes,
  down: sizes,
  method: fc.constantFrom('resample', 'resample', 'resample', 'pad', 'crop'),
  filter: fc.constantFrom(...FILTERS),
  clamp: fc.boolean(),
  fill: fc.option(fc.integer({ min: 3000, max: 5000 }), { nil: undefined }),
  at: fc.tuple(fc.nat(), fc.nat()),
  range: fc.constantFrom('source', 'ground', 'pinned', 'narrow'),
  exaggeration: fc.constantFrom(1, 1, 2.2, 0.37),
  worldScale: fc.constantFrom(1, 1, 0.3),
  steps: fc.array(steps, { maxLength: 4 }),
  metric: fc.option(
    fc.record({
      op: fc.constant('reproject' as const),
      zone: fc.constant(44),
      south: fc.constant(true),
      spacing: fc.constantFrom(31, 55, 'rung' as const, 'rung' as const),
      whole: fc.constantFrom(true as const, undefined),
      hold: fc.constantFrom(true as const, undefined),
    }),
    { nil: undefined },
  ),
  x: fc.nat(),
  y: fc.nat(),
});
type Case = typeof cases extends fc.Arbitrary<infer T> ? T : never;

/** The steps of a case that can be done to its source, in an order in which they can. */
function stepsOf({ kind, width, height, metric, steps: wanted }: Case): object[] {
  const codes = kind === 'codes' || kind === 'bytes';
  const out: object[] = [];
  let mixed = false;
  for (const step of wanted) {
    if (step.op === 'linearise') {
      if (!codes || mixed) continue;
      mixed = true;
    }
    if (step.op === 'values') {
      if (mixed) continue;
      // a share of the codes, wherever these lie
      const scale = { codes: 257, bytes: 1, signed: 16, floats: 1.8, doubles: 1.8 }[kind];
      const from = (kind === 'floats' || kind === 'doubles' ? 3900 : kind === 'signed' ? -2000 : 0) + step.from * scale;
      out.push({ ...step, from, to: from + 20 * scale });
    } else out.push(step);
  }
  // two squares each way at least
  if (!metric || Math.min(width, height) < 8) return out;
  // turns and mirrors follow it
  const lays = (s: object): boolean => 'op' in s && ['turn', 'mirror', 'swap-axes'].includes(String(s.op));
  const { spacing, zone, south, op, whole, hold } = metric;
  const asked = { op, zone, south, spacing, ...(whole ? { whole } : {}), ...(hold ? { hold } : {}) };
  return [...out.filter((s) => !lays(s)), asked, ...out.filter(lays)];
}

function recipeOf(c: Case, info: RasterInfo): Recipe {
  const list = stepsOf(c);
  const { entering } = planChain(recipeFor(c, list), info);
  return recipeFor({ ...c, ...sidesOf(entering) }, list);
}

/** For a source that enters the fit with these sides. */
function recipeFor(c: Case, list: readonly object[]): Recipe {
  const floats = c.kind === 'floats' || c.kind === 'doubles';
  const side = (size: number, samples: number): number =>
    c.method === 'crop' ? Math.min(size, samples - (samples % 7) + 1, samples) : size;
  const [across, down] = [Math.max(2, side(c.across, c.width)), Math.max(2, side(c.down, c.height))];
  const place = (n: number, samples: number, size: number): number =>
    c.method === 'crop' ? n % (samples - size + 1) : (n % (samples + size - 1)) - samples + 1;
  return recipeWith({
    steps: list,
    source: floats ? { low: undefined, high: undefined } : { low: 1310, high: 2140 },
    fit: {
      size: [across, down],
      method: c.method,
      filter: c.filter,
      clamp: c.clamp,
      worldScale: c.worldScale,
      ...(c.fill === undefined ? {} : { voids: c.fill }),
      ...(c.method === 'resample' ? {} : { at: [place(c.at[0], c.width, across), place(c.at[1], c.height, down)] }),
    },
    height: {
      exaggeration: c.exaggeration,
      ...(c.range === 'pinned' || c.range === 'narrow'
        ? {
            range: 'pinned',
            low: floats ? 4000 : 1400,
            high: (floats ? 4000 : 1400) + (c.range === 'narrow' ? 0.02 : 300),
          }
        : { range: c.range }),
    },
  });
}

test('a window of the result is bit for bit what the bands hold there, codes included', async () => {
  let seen = { voids: 0, precise: 0, steps: 0, once: 0 };
  await fc.assert(
    fc.asyncProperty(cases, async (c) => {
      const samples = samplesOf(c.kind, c.width, c.height, c.seed, c.holes);
      const counted = await countedOf(c.kind, samples, c.width, c.metric ? { georeference: DEGREES } : {});
      const recipe = recipeOf(c, counted.facts.info);
      const entered = await enterFit(recipe, counted);
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
    { numRuns: 1000 },
  );
  // the property has met what it is about
  expect(seen.voids).toBeGreaterThan(100);
  expect(seen.precise).toBeGreaterThan(50);
  expect(seen.steps).toBeGreaterThan(300);
  expect(seen.once).toBeGreaterThan(100);
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
    { numRuns: 25 },
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
