/**
 * Steps before the fit: what they do to samples, against plain definitions; packs that are proved through them; and
 * slips put into each of them, which the proof must name.
 */
import fc from 'fast-check';
import { MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { openEntering, planChain, stageKey } from '@/core/chain';
import { applyEdit, withStep, withStepSwitched } from '@/core/edits';
import { oriented, type Orientation } from '@/core/operations';
import { plan, type PlanDocument } from '@/core/plan';
import type { Proof } from '@/core/proof';
import { memoryRaster, SourceCounter, sourceStatistics, type RasterInfo, type StoredSamples } from '@/core/raster';
import { counting } from '@/core/run';
import { parseRecipe, type Recipe, type Step } from '@/core/recipe';
import { samplesOf } from '../helpers/entering';
import { faultOf, hills, pngSource, recipeWith } from '../helpers/rasters';

jest.setTimeout(60_000);

const bare = (width: number, height: number, over: Partial<RasterInfo> = {}): RasterInfo => ({
  format: 'raw',
  width,
  height,
  channels: 1,
  bitDepth: 16,
  sampleType: 'uint',
  byteOrder: null,
  warnings: [],
  ...over,
});
const [WIDTH, HEIGHT] = [83, 61];
const codes = hills(WIDTH, HEIGHT);
const at = (x: number, y: number): number => codes[y * WIDTH + x]!;

/** What enters the fit of a recipe with these steps, sample by sample. */
async function entering(steps: readonly object[], samples: StoredSamples = codes, over: Partial<RasterInfo> = {}) {
  const recipe = recipeWith({ steps, fit: { size: 22 } });
  const info = bare(WIDTH, samples.length / WIDTH, over);
  const chain = planChain(recipe, info);
  if (chain.refusal) throw chain.refusal.error;
  const raster = openEntering(memoryRaster(info, samples), chain).shown;
  return { raster, chain, samples: await samplesOf(raster), width: raster.info.width, height: raster.info.height };
}

describe('turns, mirrors and exchanged axes', () => {
  test.each([
    [
      'a quarter clockwise: the west is in the north',
      [{ op: 'turn', quarters: 1 }],
      (x: number, y: number) => at(y, HEIGHT - 1 - x),
      true,
    ],
    [
      'a quarter back: the east is in the north',
      [{ op: 'turn', quarters: 3 }],
      (x: number, y: number) => at(WIDTH - 1 - y, x),
      true,
    ],
    ['half a turn', [{ op: 'turn', quarters: 2 }], (x: number, y: number) => at(WIDTH - 1 - x, HEIGHT - 1 - y), false],
    ['east and west exchanged', [{ op: 'mirror', axis: 'x' }], (x: number, y: number) => at(WIDTH - 1 - x, y), false],
    [
      'north and south exchanged',
      [{ op: 'mirror', axis: 'y' }],
      (x: number, y: number) => at(x, HEIGHT - 1 - y),
      false,
    ],
    ['rows for columns', [{ op: 'swap-axes' }], (x: number, y: number) => at(y, x), true],
    // in their order: mirrored first, the west of the mirrored ground is in the north
    [
      'mirrored, then turned',
      [
        { op: 'mirror', axis: 'x' },
        { op: 'turn', quarters: 1 },
      ],
      (x: number, y: number) => at(WIDTH - 1 - y, HEIGHT - 1 - x),
      true,
    ],
    [
      'turned, then mirrored',
      [
        { op: 'turn', quarters: 1 },
        { op: 'mirror', axis: 'x' },
      ],
      (x: number, y: number) => at(y, x),
      true,
    ],
  ] as const)('%s', async (_, steps, expected, across) => {
    const { samples, width, height, raster } = await entering(steps);
    expect([width, height]).toEqual(across ? [HEIGHT, WIDTH] : [WIDTH, HEIGHT]);
    expect(samples).toEqual(
      Array.from({ length: width * height }, (_v, i) => expected(i % width, Math.floor(i / width))),
    );
    // codes stay codes
    for await (const { data } of raster.bands()) expect(data).toBeInstanceOf(Uint16Array);
  });

  test('undo each other, and are known as what they amount to', async () => {
    for (const steps of [
      [1, 3].map((quarters) => ({ op: 'turn', quarters })),
      [
        { op: 'mirror', axis: 'y' },
        { op: 'turn', quarters: 2 },
        { op: 'mirror', axis: 'x' },
      ],
      [{ op: 'swap-axes' }, { op: 'mirror', axis: 'x' }, { op: 'turn', quarters: 3 }],
    ]) {
      const { samples, chain } = await entering(steps);
      expect(samples).toEqual([...codes]);
      expect(stageKey(chain.entering)).toBe('');
    }
  });

  test('of every type of samples, in strips however narrow, from bands however high', async () => {
    const orientation = fc.record({ swap: fc.boolean(), flipX: fc.boolean(), flipY: fc.boolean() });
    await fc.assert(
      fc.asyncProperty(
        orientation,
        fc.integer({ min: 1, max: 70 }),
        fc.integer({ min: 1, max: 50 }),
        fc.constantFrom('u8', 'i16', 'f32', 'f64'),
        fc.integer({ min: 1, max: 4000 }),
        async (o: Orientation, width, height, type, strip) => {
          const values = Array.from({ length: width * height }, (_, i) => (i * 7919) % 251);
          const info = {
            u8: { bitDepth: 8 },
            i16: { sampleType: 'int' as const },
            f32: { sampleType: 'float' as const, bitDepth: 32 },
            f64: { sampleType: 'float' as const, bitDepth: 64 },
          }[type];
          const kind = { u8: Uint8Array, i16: Int16Array, f32: Float32Array, f64: Float64Array }[type];
          const laid = oriented(memoryRaster(bare(width, height, info), kind.from(values)), o, strip);
          const got = await samplesOf(laid);
          const across = laid.info.width;
          const down = laid.info.height;
          const expected = got.map((_, i) => {
            const [x, y] = [i % across, Math.floor(i / across)];
            const p = o.flipX ? across - 1 - x : x;
            const q = o.flipY ? down - 1 - y : y;
            return o.swap ? values[p * width + q] : values[q * width + p];
          });
          expect(got).toHaveLength(across * down);
          expect(got).toEqual(expected);
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe('values', () => {
  test('become voids, both ends included, and others stay what they are', async () => {
    const { samples, raster } = await entering([{ op: 'values', from: at(5, 7), to: at(5, 7) + 400, become: 'void' }]);
    expect(raster.info).toMatchObject({ mayHoldVoids: true, bitDepth: 16, sampleType: 'uint' });
    expect(samples).toEqual([...codes].map((c) => (c >= at(5, 7) && c <= at(5, 7) + 400 ? NaN : c)));
    expect(samples.filter((v) => Number.isNaN(v)).length).toBeGreaterThan(10);
  });
  test('become an elevation: a whole code where there is one, else a float', async () => {
    // 1310 to 2140 m over 65 535 codes: 1310 m is code 0
    const whole = await entering([{ op: 'values', from: 65535, become: 1310 }]);
    expect(whole.samples).toEqual([...codes].map((c) => (c === 65535 ? 0 : c)));
    for await (const { data } of whole.raster.bands()) expect(data).toBeInstanceOf(Uint16Array);
    const between = await entering([{ op: 'values', from: 0, become: 1725.003 }]);
    expect(between.samples[0]).toBe(Math.fround(((1725.003 - 1310) / 830) * 65535));
    expect(between.raster.info).toMatchObject({ sampleType: 'float', bitDepth: 32 });
  });
  test('under a display curve an elevation is stored as the curve would have it', async () => {
    const { samples } = await entering([
      { op: 'values', from: 0, become: 1725 },
      { op: 'linearise', curve: 2.2 },
    ]);
    expect(samples[0]).toBeCloseTo(0.5, 6);
  });
  test('see samples as they came: after a step that mixes them they are refused, with a way out', async () => {
    const steps = [
      { op: 'linearise', curve: 'srgb' },
      { op: 'values', from: 1, become: 'void' },
    ] as const;
    const fault = await faultOf(() => entering(steps));
    expect(fault).toMatchObject({ code: 'step-order', remedy: expect.stringContaining('Move it up') });
    const { document } = plan(recipeWith({ steps, fit: { size: 22 } }), factsOf(), null);
    const check = document.checks.find((c) => c.id === 'step-order')!;
    expect(check).toMatchObject({ state: 'fault', step: 'clean', repair: { edit: 'order-steps' } });
    const mended = applyEdit(recipeWith({ steps, fit: { size: 22 } }), check.repair!);
    expect(mended.steps.map((s) => s.op)).toEqual(['values', 'linearise']);
  });
});

const factsOf = () => ({
  file: 'hills.png',
  info: bare(WIDTH, HEIGHT),
  warnings: [],
  stats: { samples: codes.length, voids: 0, min: 0, max: 65535, mean: 30000, distinctCodes: 900, codeStep: 1 },
});

test('stages are told apart by all that reaches their samples, and by nothing else', async () => {
  const key = async (...steps: object[]) => stageKey((await entering(steps)).chain.entering);
  const values = { op: 'values', from: 5, become: 'void' };
  const all = [
    await key(),
    await key(values),
    await key({ ...values, from: 4, to: 5 }),
    await key({ ...values, become: 1400 }),
    await key({ ...values, become: 1401 }),
    await key({ op: 'linearise', curve: 'srgb' }),
    await key({ op: 'linearise', curve: 2.2 }),
    await key(values, { op: 'linearise', curve: 2.2 }),
    await key({ op: 'turn', quarters: 1 }),
    await key({ op: 'turn', quarters: 3 }),
    await key({ op: 'mirror', axis: 'x' }),
  ];
  expect(new Set(all).size).toBe(all.length);
  expect(await key({ ...values, off: true })).toBe(all[0]);
  expect(await key({ ...values, to: 5 })).toBe(all[1]);
  expect(await key({ op: 'turn', quarters: 2 }, { op: 'turn', quarters: 1 })).toBe(all[9]);
});

describe('edits of steps', () => {
  const ops = (r: Recipe) => r.steps.map((s) => s.op);
  const add = (r: Recipe, ...steps: Step[]) => steps.reduce((next, s) => withStep(next, s), r);
  test('insert each where it can stand, whatever the order they were asked for in', () => {
    const turn = { op: 'turn', quarters: 1 } as const;
    const metric = { op: 'reproject', zone: 44, south: true, spacing: 30 } as const;
    const sea = { op: 'values', from: 9999, become: 'void' } as const;
    const blend = { op: 'blend', reach: 12 } as const;
    expect(ops(add(recipeWith({}), turn, metric, sea, blend))).toEqual(['values', 'blend', 'reproject', 'turn']);
    expect(ops(add(recipeWith({}), blend, turn, sea, metric))).toEqual(['values', 'blend', 'reproject', 'turn']);
    // another one takes the place of the one before, but of values and turns there can be several
    expect(add(recipeWith({}), blend, { ...blend, reach: 3 }).steps).toEqual([{ ...blend, reach: 3 }]);
    expect(ops(add(recipeWith({}), sea, sea, turn, turn))).toEqual(['values', 'values', 'turn', 'turn']);
  });
  test('an exchange of axes exchanges pairs, and switching it off exchanges them back', () => {
    const r = recipeWith({
      fit: { size: [253, 127], method: 'crop', at: [20, 30] },
      split: { across: 2, down: 1 },
    });
    const turned = withStep(r, { op: 'turn', quarters: 1 });
    expect(turned).toMatchObject({ fit: { size: [127, 253], at: [30, 20] }, split: { across: 1, down: 2 } });
    expect(withStepSwitched(turned, 0, false)).toMatchObject({ fit: r.fit, split: r.split });
    expect(withStep(r, { op: 'turn', quarters: 2 })).toMatchObject({ fit: { size: [253, 127] }, split: r.split });
  });
  test('a cropped window and a padded source stay on their ground', () => {
    const source = { width: 400, height: 300 };
    const crop = recipeWith({ fit: { size: [253, 127], method: 'crop', at: [20, 30] } });
    // 253 × 127 from column 20, row 30: 127 columns are left in the east, 143 rows in the south
    const at = (r: Recipe, step: Step) => withStep(r, step, source).fit.at;
    expect(at(crop, { op: 'mirror', axis: 'x' })).toEqual([127, 30]);
    expect(at(crop, { op: 'mirror', axis: 'y' })).toEqual([20, 143]);
    expect(at(crop, { op: 'turn', quarters: 1 })).toEqual([143, 20]);
    expect(at(crop, { op: 'turn', quarters: 3 })).toEqual([30, 127]);
    const pad = recipeWith({ fit: { size: [505, 379], method: 'pad', at: [40, 10] } });
    expect(at(pad, { op: 'mirror', axis: 'x' })).toEqual([65, 10]);
    expect(at(pad, { op: 'turn', quarters: 1 })).toEqual([69, 40]);
  });
});

describe('recipes', () => {
  const good = {
    version: 4,
    source: { heights: { as: 'ends', low: 0, high: 100 }, spacing: 1 },
    target: 'component-grid',
    fit: { size: 505 },
  };
  test.each([
    [[{ op: 'explode' }], '"steps.0.op"'],
    [[{ op: 'turn', quarters: 4 }], '"steps.0.quarters"'],
    [[{ op: 'turn' }], '"steps.0.quarters"'],
    [[{ op: 'mirror', axis: 'z' }], '"steps.0.axis"'],
    [[{ op: 'values', from: 5, to: 4, become: 'void' }], '"steps.0.to"'],
    [[{ op: 'values', from: 5 }], '"steps.0.become"'],
    [[{ op: 'swap-axes', off: false }], '"steps.0.off"'],
    [[{ op: 'blend', reach: 0 }], '"steps.0.reach"'],
    [[{ op: 'reproject', zone: 61, south: true, spacing: 3 }], '"steps.0.zone"'],
  ])('steps that can’t be are refused: %j', async (steps, key) => {
    const error = await faultOf(() => parseRecipe({ ...good, steps }, 'r.json'));
    expect(error).toMatchObject({ code: 'recipe-value', file: 'r.json' });
    expect(error.found).toContain(key);
    expect(error.message).not.toMatch(/undefined|invalid|zod/i);
  });
  test('a curve needs ends, unless it is switched off', async () => {
    const steps = [{ op: 'linearise', curve: 'srgb' }];
    const metres = { ...good, source: { heights: { as: 'elevations', unit: 'metre' }, spacing: 1 } };
    expect((await faultOf(() => parseRecipe({ ...metres, steps }))).found).toContain('"steps.0.curve"');
    expect(parseRecipe({ ...metres, steps: [{ ...steps[0], off: true }] }).steps).toHaveLength(1);
  });
  test('of versions 1 to 3 are carried over: what was read otherwise becomes steps', async () => {
    const files = ['a.png', 'b.png'].map((name, i) => ({ name, at: [i * 9, 0] }));
    const step = { as: 'step', step: 0.01, base: 5 };
    const third = (source: object) =>
      parseRecipe({ ...good, version: 3, source: { spacing: 30, heights: step, ...source } });
    expect(third({}).steps).toEqual([]);
    expect(third({ heights: good.source.heights, curve: 2.2 }).steps).toEqual([{ op: 'linearise', curve: 2.2 }]);
    const squares = { zone: 44, south: true, spacing: 30, whole: true };
    const both = third({ files, blend: 7, squares });
    expect(both.steps).toEqual([
      { op: 'blend', reach: 7 },
      { op: 'reproject', ...squares },
    ]);
    expect(both.source).toEqual({ heights: step, spacing: 30, files });
    for (const old of [1, 2, 3]) {
      const { source: given, ...rest } = good;
      const plain = old < 3 ? { low: 0, high: 100, spacing: 1 } : given;
      const early = await faultOf(() => parseRecipe({ ...rest, source: plain, version: old, steps: [] }));
      expect(early).toMatchObject({ code: 'recipe-key', found: `"steps" in a recipe of version ${old}` });
    }
    // faults of the old parts are named by the old keys
    const wrong = await faultOf(() => third({ squares: { ...squares, zone: 99 } }));
    expect(wrong.found).toContain('"source.squares.zone"');
    expect((await faultOf(() => third({ curve: 'film', heights: good.source.heights }))).found).toContain(
      '"source.curve"',
    );
    expect((await faultOf(() => third({ squares, spacing: 31 }))).found).toContain('"source.spacing"');
  });
});

/* Packs, proved through every step. */

let source: ByteSource;
/** A grid in degrees, as text. */
const degrees = memorySource(
  'fells.asc',
  new TextEncoder().encode(
    'ncols 83\nnrows 61\nxllcenter 80.1\nyllcenter -47.4\ncellsize 0.0002777777777\nNODATA_value -9999\n' +
      Array.from({ length: HEIGHT }, (_, y) =>
        Array.from({ length: WIDTH }, (_v, x) =>
          x > 60 && y > 40 ? '-5.000' : (900 + at(x, y) / 300 + 4 * Math.sin(x * y)).toFixed(3),
        ).join(' '),
      ).join('\n'),
  ),
);
beforeAll(async () => {
  source = await pngSource(codes, WIDTH);
});

const metric = { op: 'reproject', zone: 44, south: true, spacing: 25 } as const;
/** Sampled at the vertices of the fit. */
const once = { op: 'reproject', zone: 44, south: true, spacing: 'rung' } as const;
const SOURCE = { heights: { as: 'ends', low: 1310, high: 2140 }, spacing: 2.5 };
const ELEVATIONS = { low: undefined, heights: { as: 'elevations' }, spacing: 30 };

interface Pack {
  readonly steps: readonly object[];
  readonly parts?: Parameters<typeof recipeWith>[0];
  readonly source?: () => ByteSource;
}

const PACKS: Readonly<Record<string, Pack>> = {
  turn: { steps: [{ op: 'turn', quarters: 1 }] },
  mirror: { steps: [{ op: 'mirror', axis: 'y' }] },
  'swap-axes': { steps: [{ op: 'swap-axes' }] },
  'values, voids': {
    steps: [{ op: 'values', from: 30000, to: 34000, become: 'void' }],
    parts: { fit: { voids: 1500 } },
  },
  'values, metres': { steps: [{ op: 'values', from: 50000, to: 65535, become: 1888.123 }] },
  linearise: { steps: [{ op: 'linearise', curve: 'srgb' }] },
  reproject: { steps: [metric], parts: { source: ELEVATIONS, height: { range: 'ground' } }, source: () => degrees },
  'values, reproject, turn': {
    steps: [{ op: 'values', from: -5, become: 'void' }, metric, { op: 'turn', quarters: 3 }],
    parts: { source: ELEVATIONS, fit: { voids: 880 }, height: { range: 'ground' } },
    source: () => degrees,
  },
  'reproject at the rung': {
    steps: [once],
    parts: { source: ELEVATIONS, fit: { size: [127, 64] } },
    source: () => degrees,
  },
  'values, reproject all at the rung, turn, mirror': {
    steps: [
      { op: 'values', from: -5, become: 'void' },
      { ...once, whole: true },
      { op: 'turn', quarters: 1 },
      { op: 'mirror', axis: 'x' },
    ],
    parts: { source: ELEVATIONS, fit: { voids: 880, filter: 'area', size: [22, 29] }, height: { range: 'ground' } },
    source: () => degrees,
  },
  'reproject at the rung, exchanged axes, padded': {
    steps: [{ ...once, hold: true }, { op: 'swap-axes' }],
    parts: { source: ELEVATIONS, fit: { method: 'pad', at: [11, 6], size: [91, 106], filter: 'lanczos3' } },
    source: () => degrees,
  },
  'reproject at the rung, turned, cropped': {
    steps: [once, { op: 'turn', quarters: 2 }],
    parts: { source: ELEVATIONS, fit: { method: 'crop', at: [9, 4], size: [22, 29], filter: 'bilinear' } },
    source: () => degrees,
  },
  'values, linearise, mirror, turn': {
    steps: [
      { op: 'mirror', axis: 'x' },
      { op: 'values', from: 0, to: 20000, become: 1400 },
      { op: 'turn', quarters: 1 },
      { op: 'linearise', curve: 2.2 },
    ],
  },
  'switched off': {
    steps: [
      { op: 'turn', quarters: 1, off: true },
      { op: 'values', from: 0, to: 1e4, become: 'void', off: true },
    ],
  },
};

const MODULES = [
  'orientation',
  'laying',
  'values/index',
  'linearise/index',
  'reproject/index',
  'turn/index',
  'mirror/index',
].map((m) => `@/core/operations/${m}`);
const SLIPS = ['chain/open', 'chain/plan', 'chain/deferred', 'raster/kernels', 'squares/zone', 'proof/twin/steps'].map(
  (m) => `@/core/${m}`,
);
type Real = Record<string, (...args: never[]) => unknown>;

let slipped = false;

async function proved(
  { steps, parts, source: from = () => source }: Pack,
  slip?: readonly [module: string, (real: Real) => object],
  change?: (folder: MemoryFolder) => void,
): Promise<{ proof: Proof; document: PlanDocument }> {
  // all modules are read anew where one of them is broken, or was
  if (slip || slipped) {
    jest.resetModules();
    for (const module of [...MODULES, ...SLIPS]) jest.dontMock(module);
  }
  slipped = slip !== undefined;
  if (slip) {
    const [module, harmed] = slip;
    jest.doMock(module, () => {
      const real = jest.requireActual<Real>(module);
      return { ...real, ...harmed(real) };
    });
  }
  const { run } = await import('@/core/run');
  const { prove } = await import('@/core/proof');
  const folder = new MemoryFolder();
  const recipe = recipeWith({ ...parts, steps, fit: { size: [43, 57], ...parts?.fit } });
  const document = await run(recipe, from(), folder);
  change?.(folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: from(), ignoreChecksums: true });
  return { proof, document };
}

test.each(Object.entries(PACKS))('a source is counted as by itself, to its last row: %s', async (_, pack) => {
  const { countAndEnter, countSource } = await import('@/core/run');
  const recipe = recipeWith({ ...pack.parts, steps: pack.steps, fit: { size: [43, 57], ...pack.parts?.fit } });
  const of = pack.source ?? (() => source);
  const { counted } = await countAndEnter(recipe, of());
  expect(counted.facts).toEqual((await countSource(of())).facts);
});

test('a source that is left before its end is counted to its end, once', async () => {
  const info = bare(WIDTH, HEIGHT);
  const raster = memoryRaster(info, codes);
  const rows = {
    ...raster,
    reading: {},
    async *bands() {
      for (let y = 0; y < HEIGHT; y++) yield { y, rows: 1, data: codes.subarray(y * WIDTH, (y + 1) * WIDTH) };
    },
  };
  const counter = new SourceCounter(info);
  const counted = counting(rows, counter);
  for await (const { y } of counted.bands()) if (y === 3) break;
  for await (const { y } of counted.bands()) if (y === HEIGHT) break;
  expect(counter.result()).toEqual(await sourceStatistics(rows));
});

const faults = ({ checks }: Proof) => checks.filter((c) => c.state === 'fault').map((c) => `${c.id}: ${c.message}`);

test.each(Object.entries(PACKS))('a pack is proved through its steps: %s', async (_, pack) => {
  const { proof, document } = await proved(pack);
  expect(faults(proof)).toEqual([]);
  expect(proof.holds).toBe(true);
  const on = pack.steps.flatMap((s, i) => ('off' in s ? [] : [[(s as Step).op, `steps.${i}`]]));
  // each step that is on has a check of its own, which names it
  for (const [op, step] of on)
    expect(proof.checks).toContainEqual(expect.objectContaining({ id: op, step, state: 'holds' }));
  expect(document.steps.map((s) => s.op)).toEqual(pack.steps.map((s) => (s as Step).op));
});

test('what each step changed is told in metres: samples, largest, mean; lossless ones nothing, metric ones can’t say', async () => {
  const { document } = await proved({
    steps: [
      { op: 'values', from: 60000, to: 65535, become: 1310 },
      { op: 'turn', quarters: 2 },
      { op: 'swap-axes', off: true },
    ],
  });
  const high = [...codes].filter((c) => c >= 60000);
  const metres = high.map((c) => (c / 65535) * 830);
  expect(document.steps).toEqual([
    {
      op: 'values',
      samples: high.length,
      largest: expect.closeTo(Math.max(...metres), 6),
      mean: expect.closeTo(metres.reduce((a, b) => a + b) / metres.length, 6),
    },
    { op: 'turn', samples: 0, largest: 0, mean: 0 },
    { op: 'swap-axes', off: true },
  ]);
  const voids = await proved({
    steps: [{ op: 'values', from: 60000, to: 65535, become: 'void' }],
    parts: { fit: { voids: 1400 } },
  });
  expect(voids.document.steps).toEqual([{ op: 'values', samples: high.length, largest: 0, mean: 0 }]);
  const square = await proved(PACKS['reproject']!);
  expect(square.document.steps).toEqual([{ op: 'reproject', samples: null, largest: null, mean: null }]);
});

test('the range of the source is that of what enters the fit: a sea that is taken out spends no codes', async () => {
  const { document } = await proved({
    steps: [{ op: 'values', from: 50000, to: 65535, become: 'void' }],
    parts: { fit: { voids: 1310 } },
  });
  const highest = Math.max(...[...codes].filter((c) => c < 50000));
  expect(document.height.high).toBeCloseTo(1310 + (highest / 65535) * 830, 9);
  // the ends of the codes are those of the file, whatever steps do
  const kept = await proved({
    steps: [{ op: 'values', from: 50000, to: 65535, become: 'void' }],
    parts: { fit: { voids: 1310 }, height: { range: 'codes' } },
  });
  expect([kept.document.height.low, kept.document.height.high]).toEqual([1310, 2140]);
});

const json =
  (edit: (document: PlanDocument) => object) =>
  (folder: MemoryFolder): void => {
    const document = JSON.parse(new TextDecoder().decode(folder.files.get('import.json'))) as PlanDocument;
    folder.files.set('import.json', new TextEncoder().encode(JSON.stringify(edit(document))));
  };
const recipeTo =
  (edit: (recipe: Recipe) => object) =>
  (folder: MemoryFolder): void => {
    const recipe = edit(JSON.parse(new TextDecoder().decode(folder.files.get('recipe.json'))) as Recipe);
    folder.files.set('recipe.json', new TextEncoder().encode(JSON.stringify(recipe)));
    json((d) => ({ ...d, recipe }))(folder);
  };
const stepsTo = (steps: readonly object[]) => recipeTo((r) => ({ ...r, steps }));

describe('a slip in a step turns the proof red', () => {
  const PLACES = /hold another code/;
  test.each<[string, keyof typeof PACKS, readonly [string, (real: Real) => object], RegExp]>([
    [
      'a turn the other way',
      'turn',
      ['@/core/operations/orientation', (real) => ({ turned: (q: number) => real['turned']!((4 - q) as never) })],
      PLACES,
    ],
    [
      'a mirror left out',
      'mirror',
      [
        '@/core/operations/mirror/index',
        (real) => ({
          mirror: {
            ...(real['mirror'] as object),
            lays: () => ({ swap: false, flipX: false, flipY: false }),
            open: (i: unknown) => i,
          },
        }),
      ],
      PLACES,
    ],
    [
      'values: the last one not included',
      'values, metres',
      [
        '@/core/operations/values/index',
        (real) => broken(real['values'], (v: { to: number }) => ({ ...v, to: v.to - 1 })),
      ],
      /values/,
    ],
    [
      'values left out',
      'values, voids',
      [
        '@/core/operations/values/index',
        (real) => ({ values: { ...(real['values'] as object), open: (i: unknown) => i } }),
      ],
      /steps?|values|voids|samples/i,
    ],
    [
      'values that become another elevation',
      'values, metres',
      [
        '@/core/operations/values/index',
        (real) => broken(real['values'], (v: { become: number }) => ({ ...v, become: v.become + 9 })),
      ],
      /another code|values/,
    ],
    [
      'a curve left out',
      'linearise',
      [
        '@/core/operations/linearise/index',
        (real) => ({ linearise: { ...(real['linearise'] as object), open: (i: unknown) => i } }),
      ],
      /another code|values from|is fitted of/,
    ],
    [
      'another curve undone',
      'linearise',
      [
        '@/core/operations/linearise/index',
        (real) => ({ linearise: reopened(real['linearise'], () => ({ curve: 2.2 })) }),
      ],
      /another code|values from|is fitted of/,
    ],
    [
      'a metric grid in another zone',
      'reproject',
      [
        '@/core/operations/reproject/index',
        (real) => ({ reproject: reopened(real['reproject'], (v: object) => ({ ...v, zone: 43 })) }),
      ],
      /Squares are not|enter its fit/,
    ],
    [
      'vertices of the fit in another zone',
      'reproject at the rung',
      [
        '@/core/squares/zone',
        (real) => ({
          projector: ({ zone, south }: { zone: number; south: boolean }) =>
            real['projector']!({ zone: zone + 1, south } as never),
        }),
      ],
      /another code|enter the fit|as fine as|have no ground/,
    ],
    [
      'kernels that are not widened',
      'values, reproject all at the rung, turn, mirror',
      ['@/core/raster/kernels', (real) => ({ reachOf: (f: never) => real['reachOf']!(f, 1 as never) })],
      PLACES,
    ],
    [
      'vertices half a sample off',
      'reproject at the rung, turned, cropped',
      [
        '@/core/chain/deferred',
        (real) => ({
          metricVertices: (...given: never[]) => {
            const made = real['metricVertices']!(...given) as { origin: readonly [number, number] };
            return { ...made, origin: [made.origin[0] + 10, made.origin[1]] };
          },
        }),
      ],
      PLACES,
    ],
    [
      'ground that is turned, and its vertices not',
      'reproject at the rung, turned, cropped',
      [
        '@/core/chain/deferred',
        (real) => ({
          metricVertices: (stage: object, ...given: never[]) =>
            real['metricVertices']!(
              { ...stage, orientation: { swap: false, flipX: false, flipY: false } } as never,
              ...given,
            ),
        }),
      ],
      PLACES,
    ],
    [
      'a step that no check works out',
      'mirror',
      [
        '@/core/proof/twin/steps',
        (real) => ({
          workOutSteps: async (...given: never[]) => ({
            ...((await real['workOutSteps']!(...given)) as object),
            steps: [],
          }),
        }),
      ],
      /Step 1 \(mirror\) was worked out by no check/,
    ],
    [
      'two steps exchanged',
      'values, linearise, mirror, turn',
      [
        '@/core/chain/open',
        (real) => ({
          openEntering: (s: never, c: { steps: unknown[] }, t: never) =>
            real['openEntering']!(s, { ...c, steps: [c.steps[2], c.steps[1], c.steps[0], c.steps[3]] } as never, t),
        }),
      ],
      PLACES,
    ],
    [
      'the last step skipped',
      'values, reproject, turn',
      [
        '@/core/chain/open',
        (real) => ({
          openEntering: (s: never, c: { steps: unknown[] }, t: never) =>
            real['openEntering']!(s, { ...c, steps: c.steps.slice(0, -1) } as never, t),
        }),
      ],
      /enter its fit|another code/,
    ],
  ])('%s', async (_, pack, slip, named) => {
    const { proof } = await proved(PACKS[pack]!, slip);
    expect(proof.holds).toBe(false);
    expect(faults(proof).join('\n')).toMatch(named);
  });

  test.each<[string, keyof typeof PACKS, (folder: MemoryFolder) => void, RegExp]>([
    ['a recipe that turns otherwise than the files', 'turn', stepsTo([{ op: 'turn', quarters: 3 }]), PLACES],
    ['a recipe without the step', 'mirror', stepsTo([]), PLACES],
    ['a recipe with the step switched off', 'mirror', stepsTo([{ op: 'mirror', axis: 'y', off: true }]), PLACES],
    [
      'a recipe with another bound of values',
      'values, metres',
      stepsTo([{ op: 'values', from: 51000, to: 65535, become: 1888.123 }]),
      /changes \d+ samples|another code/,
    ],
    [
      'a page that counts other samples',
      'values, metres',
      json((d) => ({ ...d, steps: d.steps.map((s) => ({ ...s, samples: 1 })) })),
      /values-change: .* the page says 1/,
    ],
    [
      'a page of another size that enters',
      'turn',
      json((d) => ({ ...d, entering: { ...d.entering, width: 60 } })),
      /samples, 16 bit|enter its fit/,
    ],
    [
      'a page of another spacing',
      'reproject',
      json((d) => ({ ...d, entering: { ...d.entering, spacing: 24 } })),
      /24 m apart/,
    ],
  ])('%s', async (_, pack, change, named) => {
    const { proof } = await proved(PACKS[pack]!, undefined, change);
    expect(proof.holds).toBe(false);
    expect(faults(proof).join('\n')).toMatch(named);
  });
});

/** An operation whose resolved parameters are others when it is done. */
function reopened<V>(operation: unknown, change: (resolved: V) => object): object {
  const real = operation as { open: (...args: unknown[]) => unknown };
  return {
    ...real,
    open: (input: unknown, resolved: V, ...rest: unknown[]) => real.open(input, change(resolved), ...rest),
  };
}
const broken = <V>(operation: unknown, change: (resolved: V) => object): object => ({
  values: reopened(operation, change),
});

describe('a source that was opened by another reading than the recipe’s', () => {
  const raw = { width: WIDTH, height: HEIGHT, type: 'u16', byteOrder: 'little', skip: 0 };
  const bytes = memorySource('fells.raw', new Uint8Array(codes.buffer.slice(0)));
  test.each([
    ['byte order', { byteOrder: 'big' }],
    ['type', { type: 'i16' }],
    ['width', { width: HEIGHT, height: WIDTH }],
  ])('turns the proof red where the %s differs, and says so', async (_, other) => {
    const { run, countSource } = await import('@/core/run');
    const { prove } = await import('@/core/proof');
    const recipe = parseRecipe({ ...recipeWith({ fit: { size: [43, 57] } }), source: { ...SOURCE, raw } });
    const folder = new MemoryFolder();
    // the pack and the proof have the same wrong source in their hands
    const wrong = await countSource(bytes, { raw: { ...raw, ...other } as never });
    await run(recipe, wrong, folder);
    const { proof } = await prove({ file: (n) => folder.source(n), reference: wrong });
    expect(proof.holds).toBe(false);
    expect(proof.checks.filter((c) => c.state === 'fault')).toContainEqual(
      expect.objectContaining({ id: 'reading', step: 'source' }),
    );
    const right = new MemoryFolder();
    await run(recipe, bytes, right);
    const good = await prove({ file: (n) => right.source(n), reference: bytes });
    expect(faults(good.proof)).toEqual([]);
  });
});
