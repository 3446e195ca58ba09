/**
 * Written codes are right to a hundredth of a step on every kind of source and ground: the slow twin, in double
 * precision, agrees at every vertex that it works out.
 */
import { MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { plan, planDocumentSchema } from '@/core/plan';
import { prove } from '@/core/proof';
import { countSource, run } from '@/core/run';
import type { RawType } from '@/core/formats';
import { faultOf, hills, pngSource, recipeWith } from '../helpers/rasters';

const SIDE = 300;
type Parts = Parameters<typeof recipeWith>[0];

/** Ground as headerless samples of any type. */
function rawSource(type: RawType, of: (code: number) => number, side = SIDE): [ByteSource, object] {
  const size = Number(type.slice(1)) / 8;
  const codes = hills(side, side);
  const bytes = new Uint8Array(codes.length * size);
  const view = new DataView(bytes.buffer);
  const put = {
    u8: 'setUint8',
    i8: 'setInt8',
    u16: 'setUint16',
    i16: 'setInt16',
    u32: 'setUint32',
    i32: 'setInt32',
    f32: 'setFloat32',
    f64: 'setFloat64',
  } as const;
  codes.forEach((c, i) => {
    view[put[type]](i * size, of(c), true);
  });
  return [memorySource('hills.raw', bytes), { width: side, height: side, type, byteOrder: 'little', skip: 0 }];
}

async function proofOf(parts: Parts, from: ByteSource) {
  const folder = new MemoryFolder();
  const recipe = recipeWith(parts);
  const document = await run(recipe, from, folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: from });
  return { proof, document, folder };
}

const METRES = { low: undefined, high: undefined };
const KINDS: readonly [string, RawType, (c: number) => number, object][] = [
  ['8 bits', 'u8', (c) => c >> 8, {}],
  ['16 bits', 'u16', (c) => c, {}],
  ['16 bits signed', 'i16', (c) => c - 32768, {}],
  ['32 bits', 'u32', (c) => 4_000_000_000 + c * 100, {}],
  ['32 bits signed', 'i32', (c) => -2_000_000_000 + c * 1000, {}],
  ['metres, 4000–4015', 'f32', (c) => 4000 + (15 * c) / 65535, METRES],
  ['metres, 8000–8001', 'f64', (c) => 8000 + c / 65535, METRES],
  ['metres on both sides of the sea', 'f32', (c) => -50 + (100 * c) / 65535, METRES],
  ['shares', 'f32', (c) => c / 65535, {}],
];
const FITS: readonly [string, Parts][] = [
  ['resampled', { fit: { size: 253 } }],
  ['enlarged, overshoot held', { fit: { size: 379, filter: 'catmull-rom', clamp: true } }],
  ['a tenth of the size', { fit: { size: 31 } }],
  ['range of the ground', { fit: { size: 253, filter: 'bilinear' }, height: { range: 'ground' } }],
  [
    'a small crop, range of the ground',
    { fit: { size: 31, method: 'crop', at: [200, 40] }, height: { range: 'ground' } },
  ],
  ['area mean, exaggerated', { fit: { size: 127, filter: 'area' }, height: { exaggeration: 3, offset: 'survey' } }],
  ['nearest', { fit: { size: 253, filter: 'nearest' } }],
];

test.each(
  KINDS.flatMap(([kind, type, of, source]) =>
    FITS.map(([fit, parts]) => [kind, fit, type, of, source, parts] as const),
  ),
)('%s, %s', async (_, __, type, of, calibration, parts) => {
  const [file, raw] = rawSource(type, of);
  const { proof } = await proofOf({ ...parts, source: { ...calibration, raw } }, file);
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
  expect(proof.places!.compared).toBeGreaterThanOrEqual(Math.min(961, 1000));
});

test('a range much narrower than the source is worked out in double precision', async () => {
  const source = await pngSource(hills(SIDE, SIDE), SIDE);
  const parts: Parts = { fit: { size: 253 }, height: { range: 'pinned', low: 1720, high: 1735 } };
  const counted = await countSource(source, undefined);
  expect(plan(recipeWith({ fit: { size: 253 } }), counted.facts, null).work.fit).toMatchObject({ precise: false });
  expect(plan(recipeWith(parts), counted.facts, null).work.fit).toMatchObject({ precise: true });
  const { proof } = await proofOf(parts, source);
  expect(proof.checks.filter((c) => c.state === 'fault').map((c) => c.id)).toEqual(['clipped', 'plan-clipped']);
});

test('the range of the codes keeps every sample and every value', async () => {
  const codes = hills(253, 253).map((c) => 9000 + (c >> 1));
  const source = await pngSource(codes, 253, 'hills.png');
  const { proof, document, folder } = await proofOf(
    {
      target: 'odd-grid',
      fit: { size: 257, method: 'pad', at: [2, 2] },
      height: { range: 'codes', offset: 'survey' },
      output: { format: 'raw' },
    },
    source,
  );
  expect(proof.holds).toBe(true);
  expect(document.height).toMatchObject({ low: 1310, high: 2140 });
  const written = new Uint16Array(folder.files.get('kettle.raw')!.slice().buffer);
  for (let y = 0; y < 253; y++)
    for (let x = 0; x < 253; x++)
      if (written[(y + 2) * 257 + x + 2] !== codes[y * 253 + x]) throw new Error(`${x}, ${y}`);
});

test('signed codes keep their values too', async () => {
  const [file, raw] = rawSource('i16', (c) => c - 32768);
  const { document, folder } = await proofOf(
    {
      target: 'odd-grid',
      source: { low: 0, high: 1000, raw },
      fit: { size: 257, method: 'crop', at: [0, 0] },
      height: { range: 'codes' },
      output: { format: 'raw' },
    },
    file,
  );
  expect(document.height.low).toBeCloseTo((-32768 / 32767) * 1000, 9);
  const written = new Uint16Array(folder.files.get('kettle.raw')!.slice().buffer);
  expect(written[1]).toBe(hills(SIDE, SIDE)[1]);
});

describe('voids', () => {
  const withVoids = (): [ByteSource, object] => {
    const heights = Float32Array.from(hills(SIDE, SIDE), (c) => 1310 + (c / 65535) * 830);
    heights.fill(NaN, 9000, 9400);
    return [
      memorySource('hills.raw', new Uint8Array(heights.buffer)),
      { width: SIDE, height: SIDE, type: 'f32', byteOrder: 'little', skip: 0 },
    ];
  };
  test.each(['resample', 'crop'] as const)(
    'are refused with their number, and nothing is written (%s)',
    async (method) => {
      const [file, raw] = withVoids();
      const folder = new MemoryFolder();
      const recipe = recipeWith({ source: { ...METRES, raw }, fit: { size: 253, method } });
      const fault = await faultOf(() => run(recipe, file, folder));
      expect(fault).toMatchObject({ code: 'voids', file: 'hills.raw' });
      expect(fault.found).toMatch(/^\d+ vertices without a height$/);
      expect(fault.remedy).toContain('elevation');
      await folder.commit();
      expect(folder.files.size).toBe(0);
    },
  );
  test.each(['resample', 'crop'] as const)('get the elevation of the recipe (%s)', async (method) => {
    const [file, raw] = withVoids();
    const { proof, document, folder } = await proofOf(
      {
        target: 'odd-grid',
        source: { ...METRES, raw },
        fit: { size: 257, method, voids: 1400 },
        output: { format: 'raw' },
      },
      file,
    );
    expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
    const written = new Uint16Array(folder.files.get('kettle.raw')!.slice().buffer);
    const { low, step } = document.height;
    // row 30 of the crop begins with voids: column 0 of row 30 is sample 9000
    if (method === 'crop')
      expect(Math.abs(low + written[30 * 257]! * step - 1400)).toBeLessThanOrEqual(step / 2 + 1e-9);
    expect(document.checks.some((c) => c.id === 'voids')).toBe(false);
  });
  test('ground that has none is written although the source has some', async () => {
    const [file, raw] = withVoids();
    const { proof } = await proofOf(
      { source: { ...METRES, raw }, fit: { size: 253, method: 'crop', at: [0, 40] } },
      file,
    );
    expect(proof.holds).toBe(true);
  });
});

test('orientation is only claimed where the ground decides it', async () => {
  const flat = new Uint16Array(SIDE * SIDE).fill(777);
  const of = async (codes: Uint16Array, parts: Parts) => {
    const { proof } = await proofOf(parts, await pngSource(codes, SIDE));
    return proof.checks.find((c) => c.id === 'orientation');
  };
  expect(await of(hills(SIDE, SIDE), {})).toMatchObject({ state: 'holds' });
  expect(await of(flat, { height: { range: 'codes' } })).toMatchObject({
    state: 'note',
    message: expect.stringContaining('kettle.png is turned or mirrored'),
  });
  // all of it clipped at the top
  expect(await of(hills(SIDE, SIDE), { height: { range: 'pinned', low: 0, high: 10 } })).toMatchObject({
    state: 'note',
  });
  // a file that is only a little off is not called turned; one that is upside down is
  // the same from north and south: a ridge from west to east
  const ridge = Uint16Array.from({ length: SIDE * SIDE }, (_, i) => {
    const y = Math.floor(i / SIDE);
    return 200 * Math.min(y, SIDE - 1 - y) + 7 * (i % SIDE);
  });
  expect(await of(ridge, { fit: { size: 127, clamp: true } })).toMatchObject({
    state: 'note',
    message: expect.stringContaining('turned or mirrored'),
  });
});

test('a clipped check spot shows the end of the range, and the proof expects that', async () => {
  const source = await pngSource(hills(SIDE, SIDE), SIDE);
  const { proof, document } = await proofOf(
    { fit: { size: 253 }, height: { range: 'pinned', low: 1400, high: 2000, offset: 'survey' } },
    source,
  );
  const highest = document.spots.find((s) => s.id === 'highest')!;
  expect(highest).toMatchObject({ code: 65535, height: 200000 });
  expect(highest.elevation).toBeGreaterThan(2000);
  expect(proof.spots.find((s) => s.id === 'highest')).toMatchObject({ expected: 2000 });
  expect(proof.checks.find((c) => c.id === 'spots')?.state).toBe('holds');
});

test('the limit of the encoding error is half a step, typing and arithmetic, and not more', async () => {
  const source = await pngSource(hills(SIDE, SIDE), SIDE);
  const folder = new MemoryFolder();
  const document = await run(recipeWith({ fit: { size: 253 } }), source, folder);
  const { value } = document.card.find((r) => r.id === 'heightOffset')!;
  const { step } = document.height;
  const heights = async (share: number) => {
    const typed = { heightOffset: Number(value) + share * step * 100 };
    const { proof } = await prove({ file: (n) => folder.source(n), reference: source, typed });
    return proof.checks.find((c) => c.id === 'heights')?.state;
  };
  expect(await heights(0)).toBe('holds');
  // a tenth of a step more than half of one
  expect(await heights(0.1)).toBe('fault');
  expect(await heights(-0.1)).toBe('fault');
});

test('ground that was not resampled has no ground error; half a sample would show', async () => {
  const codes = hills(253, 253);
  const { proof } = await proofOf({ fit: { size: 253 } }, await pngSource(codes, 253));
  expect(proof.groundError!.max).toBe(0);
  const crop = await proofOf({ fit: { size: 127, method: 'crop', at: [20, 7] } }, await pngSource(codes, 253));
  expect(crop.proof.groundError!.max).toBe(0);
  // on twice the vertices the samples lie on every other one
  const finer = await proofOf({ fit: { size: 505, filter: 'bilinear' } }, await pngSource(codes, 253));
  expect(finer.proof.groundError!.max).toBeLessThan(1e-6);
});

test('clipped samples are counted once: foretold, written and proved', async () => {
  const source = await pngSource(hills(SIDE, SIDE), SIDE);
  const counted = await countSource(source, undefined);
  for (const split of [undefined, { across: 3, down: 3 }]) {
    const parts: Parts = {
      fit: { size: 379 },
      height: { range: 'pinned', low: 1400, high: 2000 },
      ...(split ? { split } : {}),
    };
    const { measuredPlan } = await import('@/core/run');
    const foretold = (await measuredPlan(recipeWith(parts), counted)).document.height.clipped;
    const { proof, document } = await proofOf(parts, source);
    expect(document.height.clipped).toEqual(foretold);
    expect(proof.clipped).toEqual(foretold);
    expect(foretold.low! + foretold.high!).toBeGreaterThan(1000);
  }
});

test('a draft has its own names, says so on its page, and is proved as a draft', async () => {
  const { draftRecipe } = await import('@/core/edits');
  const source = await pngSource(hills(SIDE, SIDE), SIDE);
  const folder = new MemoryFolder();
  const draft = draftRecipe(recipeWith({ fit: { size: 379 }, split: { across: 3, down: 3 } }), 31);
  await run(draft, source, folder);
  expect([...folder.files.keys()]).toContain('kettle-draft31-r00c00.png');
  const page = new TextDecoder().decode(folder.files.get('import.md'));
  expect(page).toContain('a draft on 31 vertices');
  const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
  expect(proof).toMatchObject({ holds: true, draft: 31 });
  expect(proof.checks).toContainEqual(expect.objectContaining({ id: 'draft', state: 'note' }));
  const document = planDocumentSchema.parse(JSON.parse(new TextDecoder().decode(folder.files.get('import.json'))));
  expect(document.draft).toBe(31);
});

test.each([
  ['Tarrowen Fells: north', undefined],
  ['con', undefined],
  ['Kéttle   Tärn…', { across: 2, down: 1, pattern: 'lpt9-{name}-{index:3}' }],
  ['x'.repeat(80), { across: 1, down: 2, pattern: '{row}.{col}.{name}' }],
])('the proof finds the files of a project called %s by itself', async (name, split) => {
  const source = await pngSource(hills(SIDE, SIDE), SIDE);
  const { proof } = await proofOf(
    { name, fit: { size: split ? (split.across > 1 ? [505, 253] : [253, 505]) : 253 }, ...(split ? { split } : {}) },
    source,
  );
  expect(proof.checks.filter((c) => c.state === 'fault' && ['list', 'files'].includes(c.id))).toEqual([]);
});
