/**
 * Every target, with vertices and cells on both sides: card, bytes and proof agree. What the values must be is worked out
 * here from what the targets are; no function of the plan is asked.
 */
import { fromArrayBuffer } from 'geotiff';
import sharp from 'sharp';
import { MemoryFolder } from '@/core/base';
import { freshRecipe, withTarget } from '@/core/edits';
import { expectedSource, plan, type PlanDocument } from '@/core/plan';
import { prove, type Proof } from '@/core/proof';
import { parseRecipe, parseTargetText, type Recipe } from '@/core/recipe';
import { countSource, run } from '@/core/run';
import { BUILT_IN_TARGETS, targetOf, type Target } from '@/core/targets';
import { faultTable } from '../helpers/fault-table';
import { hills, pngSource, recipeWith } from '../helpers/rasters';

jest.setTimeout(120_000);
afterEach(() => jest.restoreAllMocks());

const [W, H] = [151, 151];
const LOW = 1310;
const HIGH = 2140;
const codes = hills(W, H);
const source = () => pngSource(codes, W, 'kettle.png');

async function pack(recipe: Recipe): Promise<{ document: PlanDocument; proof: Proof; folder: MemoryFolder }> {
  const folder = new MemoryFolder();
  const document = await run(recipe, await source(), folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: await source() });
  return { document, proof, folder };
}
const faults = ({ checks }: Proof): string[] =>
  checks.filter((c) => c.state === 'fault').map((c) => `${c.id}: ${c.message}`);
const valueOf = (document: PlanDocument, id: string): number => {
  const row = document.card.find((r) => r.id === id);
  if (row?.exact == null) throw new Error(`no ${id}`);
  return row.exact;
};

const EVEN = { target: 'even-grid', fit: { size: 512 }, output: { format: 'raw', byteOrder: 'big', rows: 'south' } };
const STEP = {
  target: 'fixed-step',
  fit: { size: 1081, worldScale: (16 * 1080) / (2.5 * 150) },
  height: { exaggeration: 0.025 },
};
const LAYERS = { target: 'voxel-layers', fit: { size: [97, 61] }, height: { sea: 1500 } };
const PICTURE = { target: 'even-grid', fit: { size: 512 }, output: { format: 'tiff', encoding: 'u16' } };
const EXCHANGE = { target: 'exchange', fit: { size: [200, 133] }, output: { format: 'raw' } };
type Parts = Parameters<typeof recipeWith>[0];
const CASES: Record<string, Parts> = {
  'cells of vertices': EVEN,
  'cells of vertices, outermost samples on each other': { ...EVEN, fit: { size: 512, mixed: 'centre-to-centre' } },
  'cells of cells': { ...EVEN, source: { registration: 'cell' } },
  'vertices of cells': { ...EXCHANGE, source: { registration: 'cell' } },
  'vertices of cells, outermost samples on each other': {
    ...EXCHANGE,
    source: { registration: 'cell' },
    fit: { size: [200, 133], mixed: 'centre-to-centre' },
  },
  'vertices of vertices, any size': EXCHANGE,
  'fewer cells than samples, averaged': { ...LAYERS, fit: { size: [60, 71], filter: 'area' } },
  'cells by the nearest sample': { ...LAYERS, fit: { size: [97, 61], filter: 'nearest' } },
  'cells cut out': { ...LAYERS, fit: { size: [40, 50], method: 'crop', at: [20, 30] } },
  'cells, padded, as the source lies': { ...EXCHANGE, fit: { size: [180, 160], method: 'pad', at: [10, 4] } },
  'codes a 64th of a metre apart': STEP,
  'layers with headroom': { ...LAYERS, height: { strategy: 'headroom', below: 5, above: 10, bottom: 0, top: 255 } },
  'tiles of cells': {
    ...EXCHANGE,
    target: 'voxel-layers',
    fit: { size: [96, 60] },
    output: { format: 'png' },
    split: { across: 2, down: 3, edges: 'abutting' },
  },
  'stored tiles, with their last row': { target: 'stored-tiles', fit: { size: [193, 129] }, output: { format: 'raw' } },
  'stored tiles, without it': { target: 'stored-tiles', fit: { size: [192, 128] }, output: { format: 'raw' } },
  'a TIFF of cells': PICTURE,
  'a range that is pinned': { ...EXCHANGE, height: { range: 'pinned', low: 1000, high: 2500 } },
};

test.each(Object.entries(CASES))('card, bytes and proof agree: %s', async (_, parts) => {
  const { proof } = await pack(recipeWith(parts));
  expect(faults(proof)).toEqual([]);
  expect(proof.holds).toBe(true);
});

describe('numbers from first principles', () => {
  test('cells: n of them span n spacings; the middle of the first lies half of one inside', async () => {
    const extent = 2.5 * (W - 1);
    const { document } = await pack(recipeWith(EVEN));
    expect(valueOf(document, 'metresPerSample')).toBeCloseTo(extent / 512, 9);
    expect(document.fit.extent.x).toBeCloseTo(extent, 9);
    expect(valueOf(document, 'topOfRange')).toBeCloseTo(HIGH - LOW, 3);
    const [first] = document.spots.filter((s) => s.id === 'north-west');
    expect([first!.east, first!.north]).toEqual([expect.closeTo(extent / 1024, 9), expect.closeTo(-extent / 1024, 9)]);
    const met = await pack(recipeWith({ ...EVEN, fit: { size: 512, mixed: 'centre-to-centre' } }));
    // outermost samples meet: the cells reach half of one beyond them
    expect(valueOf(met.document, 'metresPerSample')).toBeCloseTo(extent / 511, 9);
    expect(met.document.fit.extent.x).toBeCloseTo((512 * extent) / 511, 9);
    const cells = await pack(recipeWith({ ...EVEN, source: { registration: 'cell' } }));
    expect(valueOf(cells.document, 'metresPerSample')).toBeCloseTo((2.5 * W) / 512, 9);
    // no half cell is lost where vertices are made of cells
    const vertices = await pack(recipeWith({ ...EXCHANGE, source: { registration: 'cell' } }));
    expect(vertices.document.fit.extent).toEqual({
      x: expect.closeTo(2.5 * W, 9),
      y: expect.closeTo(2.5 * H, 9),
    });
    expect(valueOf(vertices.document, 'metresPerSample')).toBeCloseTo((2.5 * W) / 199, 9);
  });

  test('samples through metres: a plane stays a plane, whatever samples are on both sides', async () => {
    const plane = Uint16Array.from({ length: W * H }, (_, i) => 2000 + 300 * (i % W));
    for (const parts of [EVEN, { ...EVEN, source: { registration: 'cell' as const } }]) {
      const folder = new MemoryFolder();
      const recipe = recipeWith({
        ...parts,
        fit: { size: 512, filter: 'bilinear' },
        height: { range: 'codes' },
        output: { format: 'raw' },
      });
      await run(recipe, await pngSource(plane, W, 'kettle.png'), folder);
      const raw = new DataView(folder.files.get('kettle.raw')!.buffer);
      const cells = recipe.source.registration === 'cell';
      for (const x of [3, 100, 255, 256, 508]) {
        // metres from the west edge of the ground, and the sample that lies there
        const metres = ((x + 0.5) * (cells ? W : W - 1)) / 512;
        const sample = cells ? metres - 0.5 : metres;
        expect(Math.abs(raw.getUint16(2 * (77 * 512 + x), true) - (2000 + 300 * sample))).toBeLessThanOrEqual(0.51);
      }
    }
  });

  test('a 64th of a metre a code, from the lowest ground on', async () => {
    const { document } = await pack(recipeWith(STEP));
    expect([document.height.step, document.height.high - document.height.low]).toEqual([
      1 / 64,
      expect.closeTo(1023.984375, 9),
    ]);
    expect(document.fit.spacing.x).toBeCloseTo(16, 9);
    expect(document.fit.extent.x).toBeCloseTo(17_280, 6);
    const full = plan(recipeWith({ ...STEP, height: {} }), (await countSource(await source())).facts, null).document;
    expect(full.fit.worldScale).toBeCloseTo(46.08, 2);
  });

  test('layers: −64 to 319 are 384 of them, 830 m over 383 steps', async () => {
    const { document, folder } = await pack(recipeWith(LAYERS));
    expect(document.height).toMatchObject({
      layers: 384,
      bottomLayer: -64,
      topLayer: 319,
      metresPerLayer: expect.closeTo(830 / 383, 9),
    });
    expect(valueOf(document, 'waterLayer')).toBe(Math.round(-64 + (1500 - LOW) / (830 / 383)));
    expect([...folder.files.keys()]).toContain('kettle.png');
  });

  test('stored tiles: 4 of 512 make 2049 vertices where the last row is stored, 2048 where it is not', async () => {
    const { facts } = await countSource(await source());
    const made = (fit: object) => {
      const { size: _, ...rest } = recipeWith({ target: 'stored-tiles', output: { format: 'raw' } }).fit;
      return parseRecipe({
        ...recipeWith({ target: 'stored-tiles', output: { format: 'raw' } }),
        fit: { ...rest, ...fit },
      });
    };
    for (const [sharedRow, side] of [
      [true, 2049],
      [false, 2048],
    ] as const) {
      const recipe = made({ tiles: 4, tileSide: 512, sharedRow });
      expect(recipe.fit.size).toBe(side);
      const { document } = plan(recipe, facts, null);
      expect(valueOf(document, 'storedTileSide')).toBe(512);
      expect(valueOf(document, 'metresPerSample')).toBeCloseTo((2.5 * 150) / (side - 1), 9);
    }
    expect(made({ tiles: [3, 2], tileSide: 64 }).fit.size).toEqual([193, 129]);
    expect(() => made({ tiles: 4, tileSide: 512, size: 2000 })).toThrow(/2049 × 2049/);
  });

  test('before there is a file: 8064 m at 1 m are 8065 vertices, as 2 × 2 tiles of 4033', () => {
    const recipe = recipeWith({
      source: { size: [8065, 8065], spacing: 1 },
      fit: { size: 8065 },
      split: { across: 2, down: 2 },
    });
    const { document, refusals } = plan(recipe, expectedSource(recipe), null);
    expect(refusals).toEqual([]);
    expect(document.tiles).toMatchObject({ across: 2, down: 2, width: 4033, height: 4033 });
    expect(document.fit.extent).toEqual({ x: 8064, y: 8064 });
    expect(valueOf(document, 'heightScale')).toBeCloseTo(((HIGH - LOW) * 12800) / 65535, 6);
    expect(() => expectedSource(recipeWith({}))).toThrow(/no size/);
  });

  test('a picture of half a turn: north comes to lie north again', async () => {
    const recipe = recipeWith({
      target: 'fixed-span',
      fit: { size: 4096, worldScale: (3.5 * 4096) / (2.5 * (W - 1)), filter: 'bilinear' },
      steps: [{ op: 'turn', quarters: 2 }],
    });
    const { document, proof } = await pack(recipe);
    expect(faults(proof)).toEqual([]);
    expect(document.fit).toMatchObject({ turn: 180, extent: { x: expect.closeTo(14_336, 6) } });
    // the first sample of the file holds the south-eastern ground, and is shown there
    const corner = document.spots.find((s) => s.id === 'north-west')!;
    expect(corner.east).toBeCloseTo(4095.5 * 3.5, 6);
    expect(corner.north).toBeCloseTo(-4095.5 * 3.5, 6);
    // a little inside of the corner, between the four samples there
    const p = (0.5 * (W - 1)) / 4096;
    const at = (x: number, y: number): number => codes[(H - 1 - y) * W + W - 1 - x]!;
    const code = (1 - p) ** 2 * at(0, 0) + p * (1 - p) * (at(1, 0) + at(0, 1)) + p * p * at(1, 1);
    const ground = LOW + ((HIGH - LOW) * code) / 65535;
    expect(Math.abs(corner.elevation! / recipe.fit.worldScale - ground)).toBeLessThan(0.01);
  });
});

test.each([
  [512, 512],
  [7, 3],
])('a TIFF of %i × %i is read by two other programs, sample by sample', async (width, height) => {
  const folder = new MemoryFolder();
  const recipe = recipeWith({ target: 'exchange', fit: { size: [width, height] }, output: { format: 'tiff' } });
  await run(recipe, await source(), folder);
  const raw = new MemoryFolder();
  await run({ ...recipe, output: { ...recipe.output, format: 'raw' } }, await source(), raw);
  const wanted = [...new Uint16Array(raw.files.get('kettle.raw')!.slice().buffer)];
  const bytes = folder.files.get('kettle.tiff')!;
  const image = await (await fromArrayBuffer(bytes.slice().buffer)).getImage();
  const [band] = await image.readRasters();
  expect([image.getWidth(), image.getHeight()]).toEqual([width, height]);
  expect([...(band as Uint16Array)]).toEqual(wanted);
  const { data, info } = await sharp(bytes)
    .toColourspace('grey16')
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true });
  expect([info.width, info.height, info.channels]).toEqual([width, height, 1]);
  expect([...new Uint16Array(data.buffer, data.byteOffset, data.length / 2)]).toEqual(wanted);
});

test('a target that does something whatever is typed is a fault until the ground is made for it', async () => {
  const { facts } = await countSource(await source());
  const checkOf = (recipe: Recipe, id: string) => plan(recipe, facts, null).document.checks.find((c) => c.id === id)!;
  const small = recipeWith({ ...STEP, fit: { size: 1081 } });
  expect(checkOf(small, 'own-spacing')).toMatchObject({
    state: 'fault',
    repair: { edit: 'world-scale', args: { scale: expect.closeTo((16 * 1080) / (2.5 * 150), 9) } },
  });
  const { proof } = await pack(small);
  expect(faults(proof).join()).toMatch(/target: the map is 16 m from sample to sample/i);
  const north = recipeWith({ target: 'fixed-span', fit: { size: 4096 } });
  expect(checkOf(north, 'half-turn')).toMatchObject({ state: 'fault', repair: { edit: 'add-step' } });
});

test('a new project for each target is one that it takes, and that its own checks have nothing against but cautions', async () => {
  const { facts } = await countSource(await source());
  for (const target of BUILT_IN_TARGETS) {
    const fresh = freshRecipe({ info: facts.info, stats: facts.stats }, 'Kettle', target.id);
    const recipe = parseRecipe({
      ...fresh,
      source: { ...fresh.source, heights: { as: 'ends', low: LOW, high: HIGH } },
    });
    const made = plan(recipe, facts, null);
    expect(made.refusals).toEqual([]);
    const bad = made.document.checks.filter((c) => c.state === 'fault' && c.step === 'fit');
    expect(`${target.id}: ${bad.map((c) => c.message).join()}`).toBe(`${target.id}: `);
  }
});

const noted = faultTable('targets');
test.each<[string, Parts, Record<string, string>, RegExp]>([
  ['the top of the range a metre higher', EVEN, { topOfRange: '831' }, /value-topOfRange/],
  ['another spacing', EVEN, { metresPerSample: '0.74' }, /value-metresPerSample/],
  ['the bottom a layer lower', LAYERS, { bottomLayer: '-65' }, /value-bottomLayer/],
  ['the top a layer lower', LAYERS, { topLayer: '318' }, /value-topLayer/],
  ['the lowest elevation half a metre higher', EXCHANGE, { lowestElevation: '1310.5' }, /value-lowestElevation/],
  ['bytes the other way round', EVEN, { byteOrder: 'little' }, /byteOrder/],
])('a value typed wrong is named: %s', async (what, parts, typed, named) => {
  const folder = new MemoryFolder();
  await run(recipeWith(parts), await source(), folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: await source(), typed });
  expect(faults(proof).join('; ')).toMatch(named);
  noted(typeof parts.target === 'string' ? parts.target : 'one’s own', what, faults(proof)[0]!);
});

describe('a target of one’s own', () => {
  /** 3 · k + 1 vertices, codes of 12 bits in files of 16, rows from the south, feet. */
  const OWN: Target = {
    ...targetOf('odd-grid'),
    id: 'terrace-press',
    name: 'Terrace press',
    grid: { kind: 'multiples', step: 3, plus: 1, min: 4, max: 4000 },
    square: false,
    highestCode: 4095,
    unit: { name: 'ft', metres: 0.3048 },
    rows: 'south',
    asks: [
      'verticesX',
      'verticesY',
      'groundScaleX',
      'groundScaleY',
      'heightRange',
      'baseElevation',
      'eastOffset',
      'northOffset',
      'reading',
    ],
  };
  const recipe = (over: object = {}): Recipe =>
    recipeWith({ target: OWN, fit: { size: [100, 76] }, output: { format: 'raw', rows: 'south' }, ...over });

  test('goes through fit, height, pack and proof; the description travels in the pack', async () => {
    const { document, proof, folder } = await pack(recipe());
    expect(faults(proof)).toEqual([]);
    expect(document.target).toBe('terrace-press');
    expect(document.height.step).toBeCloseTo((HIGH - LOW) / 4095, 9);
    expect(valueOf(document, 'groundScaleX')).toBeCloseTo((2.5 * 150) / 99 / 0.3048, 9);
    const raw = new Uint16Array(folder.files.get('kettle.raw')!.buffer);
    expect(raw).toHaveLength(7600);
    const most = raw.reduce((a, b) => Math.max(a, b), 0);
    expect(most).toBeGreaterThan(3000);
    expect(most).toBeLessThanOrEqual(4095);
    const kept = parseRecipe(JSON.parse(new TextDecoder().decode(folder.files.get('recipe.json'))));
    expect(kept.target).toEqual(OWN);
  });
  test('its middle code is the middle of its own codes: 2048 of 4096', async () => {
    const fixed = { strategy: 'fixed', scale: 1200, anchor: { at: 'middle', elevation: 1700 }, offset: 'middle-code' };
    const { document, proof } = await pack(recipe({ height: fixed }));
    expect(faults(proof)).toEqual([]);
    expect(document.height.low).toBeCloseTo(1700 - (2048 / 4095) * 1200, 9);
    expect(document.height.zero).toBeCloseTo(1700, 9);
    expect(document.card.find((r) => r.id === 'bitDepth')!.formula).toBe('4 096 heights');
  });
  test.each<[string, object, RegExp]>([
    ['another range of codes', { highestCode: 4000 }, /codes|range/],
    ['another unit', { unit: { name: 'ft', metres: 0.3 } }, /groundScale|page-spots/],
    ['cells where there are vertices', { registration: 'cell' }, /registration|samples are said|spacing/],
  ])('a description that is changed afterwards turns the proof red: %s', async (_, change, named) => {
    const { folder } = await pack(recipe());
    const text = new TextDecoder().decode(folder.files.get('recipe.json'));
    const changed = { ...JSON.parse(text), target: { ...OWN, ...change } };
    folder.files.set('recipe.json', new TextEncoder().encode(JSON.stringify(changed)));
    const { proof } = await prove({ file: (n) => folder.source(n), reference: await source() });
    expect(proof.holds).toBe(false);
    expect(faults(proof).join('; ')).toMatch(named);
  });
  test('sizes that it does not take are refused with those next to it; rows the wrong way round are a fault', async () => {
    const { facts } = await countSource(await source());
    expect(plan(recipe({ fit: { size: [101, 76] } }), facts, null).refusals[0]).toMatchObject({
      code: 'size-not-on-ladder',
      remedy: expect.stringContaining('100 or 103'),
    });
    const north = plan(recipe({ output: { format: 'raw', rows: 'north' } }), facts, null).document.checks;
    expect(north.find((c) => c.id === 'rows')).toMatchObject({ state: 'fault', repair: { args: { rows: 'south' } } });
  });
  test('a wrong description is told by its path, what was found and what was expected', () => {
    const text = (change: object): string => JSON.stringify({ ...OWN, ...change });
    expect(parseTargetText(text({}))).toEqual(OWN);
    expect(() => parseTargetText(text({ highestCode: 'many' }), 'press.json')).toThrow(
      expect.objectContaining({ file: 'press.json', message: expect.stringContaining('highestCode') }),
    );
    expect(() => parseTargetText(text({ grid: { kind: 'hexagons' } }))).toThrow(/grid/);
    const within = (target: object) => () => parseRecipe({ ...recipe(), target: { ...OWN, ...target } });
    expect(within({ grid: { kind: 'one', side: 'wide' } })).toThrow(/target\.grid\.side/);
    expect(() => parseTargetText('{', 'press.json')).toThrow(expect.objectContaining({ code: 'recipe-syntax' }));
  });
  test('each built-in target can be saved, opened again and used as one’s own', async () => {
    const { facts } = await countSource(await source());
    for (const target of BUILT_IN_TARGETS) {
      expect(parseTargetText(JSON.stringify(target))).toEqual(target);
      const fresh = { ...freshRecipe({ info: facts.info, stats: facts.stats }, 'Kettle', target.id), name: 'kettle' };
      const [named, described] = [fresh, { ...fresh, target }].map((r) => plan(r, facts, null).document.card);
      expect(described).toEqual(named);
    }
  });
});

test('switching from target to target and back leaves the choices as they were', () => {
  const start = recipeWith({ fit: { size: 127 } });
  const sides = { width: W, height: H };
  for (const target of BUILT_IN_TARGETS) {
    const there = withTarget(start, target.id, sides);
    const back = withTarget(there, 'component-grid', sides);
    expect(back.fit.worldScale).toBe(1);
    expect(back.steps).toEqual([]);
    expect(back.height).toEqual(start.height);
  }
});
