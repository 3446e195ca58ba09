/** Several files that make one terrain: put together, written, and proved down to the files themselves. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { zipSync } from 'fflate';
import { joinedSources, MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { withBlend, withFiles } from '@/core/edits';
import { plan } from '@/core/plan';
import { prove } from '@/core/proof';
import type { Recipe } from '@/core/recipe';
import { countSource, openReading, run } from '@/core/run';
import { enteringOf, samplesOf as allSamplesOf } from '../helpers/entering';
import { faultOf, hills, pngSource, recipeWith } from '../helpers/rasters';
import { writeTiff } from '../helpers/write-tiff';

// whole packs are written and proved here: that takes a while on a busy machine
jest.setTimeout(60_000);

const TILE = 64;
const SIDE = 4 * TILE;
const whole = hills(SIDE, SIDE);

/** Tiles of the ground: `overlap` samples are held by both neighbours. */
async function tiles(
  nameOf: (column: number, row: number) => string,
  { overlap = 0, value = (v: number, _column: number, _row: number) => v } = {},
): Promise<ByteSource[]> {
  const step = TILE - overlap;
  const out: ByteSource[] = [];
  for (let row = 0; row < 4; row++)
    for (let column = 0; column < 4; column++) {
      const codes = new Uint16Array(TILE * TILE);
      for (let y = 0; y < TILE; y++)
        for (let x = 0; x < TILE; x++)
          codes[y * TILE + x] = value(whole[(row * step + y) * SIDE + column * step + x]!, column, row);
      out.push(await pngSource(codes, TILE, nameOf(column, row)));
    }
  return out;
}

async function samplesOf(source: ByteSource, reading = {}): Promise<{ width: number; samples: number[] }> {
  const opened = await openReading(source, reading);
  const samples: number[] = [];
  for await (const { data } of opened.bands()) for (const v of data) samples.push(Number(v));
  return { width: opened.info.width, samples };
}

/** The ground as far as tiles with this overlap cover it. */
function truth(overlap: number): number[] {
  const side = 4 * (TILE - overlap) + overlap;
  return Array.from({ length: side * side }, (_, i) => whole[Math.floor(i / side) * SIDE + (i % side)]!);
}

test.each([
  ['columns and rows from the north', 0, (c: number, r: number) => `fells-r0${r}c0${c}.png`],
  ['rows from the south', 0, (c: number, r: number) => `fells_x${c}_y${3 - r}.png`],
  ['nothing but two numbers, column first, from the south', 1, (c: number, r: number) => `fells_${c}_${3 - r}.png`],
  ['nothing but two numbers, row first, shared edges', 1, (c: number, r: number) => `fells ${r + 1} ${c + 1}.png`],
  ['overlapping by five samples, from the south', 5, (c: number, r: number) => `fells_${c}_${3 - r}.png`],
])('by names: %s', async (_, overlap, nameOf) => {
  const source = joinedSources(await tiles(nameOf, { overlap }));
  const { facts } = await countSource(source);
  expect(facts.arrangement).toMatchObject({
    by: 'names',
    edges: overlap > 1 ? 'overlapping' : overlap === 1 ? 'shared' : 'abutting',
    uncovered: 0,
    missing: [],
    swapped: null,
    normalised: null,
  });
  expect(facts.warnings).toEqual([]);
  const { samples } = await samplesOf(source);
  expect(samples).toEqual(truth(overlap));
});

test('the order of the files is no matter', async () => {
  const all = await tiles((c, r) => `fells_${c}_${3 - r}.png`);
  const { samples } = await samplesOf(joinedSources([...all].reverse()));
  expect(samples).toEqual(truth(0));
});

test('two tiles with each other’s names are noticed, and one repair puts them right', async () => {
  const names = (c: number, r: number): string => {
    const at = `${c} ${r}`;
    const [column, row] = at === '1 2' ? [2, 1] : at === '2 1' ? [1, 2] : [c, r];
    return `fells-r${row}c${column}.png`;
  };
  const source = joinedSources(await tiles(names));
  const { facts } = await countSource(source);
  const told = facts.warnings.find((w) => w.code === 'mosaic')!;
  expect(told.message).toMatch(/^fells-r(1c2|2c1)\.png and fells-r(1c2|2c1)\.png match their neighbours only/);
  const files = told.repair!.args['files'] as never;
  expect((await samplesOf(source, { files })).samples).toEqual(truth(0));
});

test('tiles that were normalised each by itself are noticed, and fitted to the first', async () => {
  // each tile has a factor and a shift of its own
  const factor = (c: number, r: number) => 0.4 + 0.05 * c + 0.03 * r;
  const shift = (c: number, r: number) => 900 * c + 500 * r;
  const source = joinedSources(
    await tiles((c, r) => `fells-r${r}c${c}.png`, {
      overlap: 1,
      value: (v, c, r) => Math.round(v * factor(c, r) + shift(c, r)),
    }),
  );
  const { facts } = await countSource(source);
  const told = facts.warnings.find((w) => w.code === 'mosaic')!;
  expect(told.message).toContain('normalised each by itself');
  const { samples } = await samplesOf(source, { files: told.repair!.args['files'] as never });
  const expected = truth(1).map((v) => v * factor(0, 0) + shift(0, 0));
  const worst = samples.reduce((most, v, i) => Math.max(most, Math.abs(v - expected[i]!)), 0);
  // rounding to codes, magnified by the factors and by the way from tile to tile
  expect(worst).toBeLessThan(40);
  expect(worst / (0.4 * 65535)).toBeLessThan(0.002);
  // and a pack of them is proved
  const folder = new MemoryFolder();
  await run(withFiles(recipeWith({ fit: { size: 127 } }), told.repair!.args['files'] as never), source, folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
});

test('files that don’t belong together are refused by name, and say why', async () => {
  const [a, b] = await tiles((c, r) => `fells-r${r}c${c}.png`);
  const small = await pngSource(hills(32, 32), 32, 'fells-r0c2.png');
  const bytes = memorySource(
    'fells-r0c3.tif',
    writeTiff({ width: TILE, height: TILE, type: 'uint', bits: 8 }, () => 3),
  );
  const fault = (...sources: ByteSource[]) => faultOf(() => countSource(joinedSources(sources)));
  expect(await fault(a!, b!, small)).toMatchObject({
    code: 'mosaic',
    file: 'fells-r0c2.png',
    found: '32 × 32 samples',
  });
  expect(await fault(a!, b!, bytes)).toMatchObject({ code: 'mosaic', file: 'fells-r0c3.tif' });
  const tarn = await pngSource(hills(TILE, TILE), TILE, 'tarn.png');
  expect((await fault(a!, tarn)).found).toContain('neither say where they lie nor are told apart');
  // a recipe that names a file that is not there
  const files = [
    { name: a!.name, at: [0, 0] as [number, number] },
    { name: 'lost.png', at: [64, 0] as [number, number] },
  ];
  expect(await faultOf(() => openReading(joinedSources([a!, b!]), { files }))).toMatchObject({
    code: 'not-found',
    file: 'lost.png',
  });
});

describe('a pack of sixteen tiles', () => {
  const packed = async (overlap: number, missing: string | null, parts: Parameters<typeof recipeWith>[0]) => {
    const all = (await tiles((c, r) => `fells-r${r}c${c}.png`, { overlap })).filter((s) => s.name !== missing);
    const source = joinedSources(all);
    const { facts } = await countSource(source);
    const recipe = withFiles(recipeWith(parts), facts.arrangement!.parts);
    const folder = new MemoryFolder();
    await run(recipe, source, folder);
    const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
    return { folder, proof, source, recipe };
  };

  test.each([
    ['resampled', 0, { fit: { size: 127 } }],
    ['sample for sample', 1, { fit: { size: 127, method: 'crop', at: [40, 50] } }],
  ])('%s: proved with its slow twin', async (_, overlap, parts) => {
    const { proof } = await packed(overlap, null, parts);
    expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
    expect(proof).toMatchObject({ holds: true, places: { different: 0 } });
  });

  test('a tile that is missing is void, and needs an elevation', async () => {
    const { proof } = await packed(0, 'fells-r2c1.png', { fit: { size: 253, voids: 1400 } });
    expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
  });

  test('two files with each other’s bytes turn the proof red', async () => {
    const { folder, source } = await packed(0, null, { fit: { size: 127 } });
    const parts = [...source.parts!];
    const [one, other] = [parts[5]!, parts[9]!];
    parts[5] = { ...other, name: one.name };
    parts[9] = { ...one, name: other.name };
    const { proof } = await prove({ file: (n) => folder.source(n), reference: joinedSources(parts) });
    expect(proof.holds).toBe(false);
    const faults = proof.checks.filter((c) => c.state === 'fault');
    expect(faults.map((c) => c.id)).toContain('codes');
    expect(faults.find((c) => c.id === 'source-files')?.message).toBe(
      `${one.name}, ${other.name} are not what the pack was made from: their bytes have changed.`,
    );
  });
});

describe('seams that do not match, blended where that is asked for', () => {
  // each tile stands higher or lower than the others, here more and there less
  const offset = (v: number, c: number, r: number): number =>
    2500 * ((c * 3 + r * 5) % 4) * (1 + Math.sin(v / 2500 + c));
  const source = async (overlap: number) =>
    joinedSources(
      await tiles((c, r) => `fells-r${r}c${c}.png`, {
        overlap,
        value: (v, c, r) => Math.max(0, Math.min(65535, Math.round(v * 0.7 + 4000 + offset(v, c, r)))),
      }),
    );

  test.each([
    ['shared', 1],
    ['abutting', 0],
  ])('%s: told with a cure; no step is left, and the middle of tiles stays', async (_, overlap) => {
    const all = await source(overlap);
    const { facts } = await countSource(all);
    const told = facts.warnings.find((w) => w.code === 'mosaic')!;
    expect(told.message).toContain('don’t match along their seams');
    expect(told.repair).toMatchObject({ edit: 'blend', args: { reach: 32 } });
    const files = facts.arrangement!.parts as never;
    const before = await samplesOf(all, { files });
    const blended = withBlend(withFiles(recipeWith({}), facts.arrangement!.parts), 12);
    const after = { samples: await allSamplesOf(await enteringOf(all, blended)) };
    const step = TILE - overlap;
    const across = (samples: readonly number[], x: number, y: number): number =>
      Math.abs(samples[y * before.width + x + 1]! - samples[y * before.width + x]!);
    // along all seams that run north–south: what is left is what neighbours differ by
    let [was, left, usual, count] = [0, 0, 0, 0];
    for (let seam = 1; seam < 4; seam++)
      for (let y = 0; y < before.width; y++) {
        const x = seam * step - 1 + overlap;
        was += across(before.samples, x, y);
        left += across(after.samples, x, y);
        usual += across(after.samples, x - 20, y);
        count++;
      }
    expect(left).toBeLessThan(0.7 * was);
    expect(left / count).toBeLessThan(1.5 * (usual / count));
    // 12 samples inwards nothing is changed
    for (const [x, y] of [
      [30, 30],
      [step + 14, 2 * step + 40],
      [3 * step + 33, step + 13],
    ] as const)
      expect(after.samples[y * before.width + x]).toBe(before.samples[y * before.width + x]);
    // what a step has put right is told no more
    const checks = (r: Recipe) => plan(r, facts, null).document.checks.map((c) => c.id);
    expect(checks(recipeWith({ fit: { size: 127 } }))).toContain('source-mosaic');
    expect(checks(blended)).not.toContain('source-mosaic');
  });

  test.each([1, 0])(
    'a pack of them is proved by a second way of blending; another reach turns it red (%i)',
    async (overlap) => {
      const all = await source(overlap);
      const { facts } = await countSource(all);
      const recipe = withBlend(
        withFiles(
          recipeWith({ fit: { size: 253, method: 'crop' }, output: { format: 'raw' } }),
          facts.arrangement!.parts,
        ),
        12,
      );
      const folder = new MemoryFolder();
      await run(recipe, all, folder);
      const { proof } = await prove({ file: (n) => folder.source(n), reference: all });
      expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
      expect(proof).toMatchObject({ holds: true, places: { different: 0 } });
      // the files were written with one reach, the recipe speaks of another
      folder.files.set('recipe.json', new TextEncoder().encode(JSON.stringify(withBlend(recipe, 20))));
      const { proof: red } = await prove({ file: (n) => folder.source(n), reference: all });
      expect(red.holds).toBe(false);
    },
  );
});

describe('from the command line', () => {
  let folder: string;
  const call = (...args: string[]) => {
    const { status, stdout, stderr } = spawnSync(process.execPath, [path.resolve('dist/cli.mjs'), ...args, '--json'], {
      cwd: folder,
      env: { ...process.env, INIT_CWD: folder },
      encoding: 'utf8',
      maxBuffer: 1 << 26,
    });
    return { code: status ?? -1, json: JSON.parse(stdout) as Record<string, unknown>, err: stderr };
  };
  beforeAll(() => {
    folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-mosaic-'));
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  test('four blocks of a degree, with voids: one raster the right way up, packed and proved', () => {
    const side = 1201;
    const ground = (x: number, y: number): number => Math.round(900 + 500 * Math.sin(x / 151) * Math.cos(y / 173));
    const names = ['S47E080.hgt', 'S47E081.hgt', 'S48E080.hgt', 'S48E081.hgt'];
    names.forEach((name, i) => {
      const bytes = Buffer.alloc(side * side * 2);
      const [x0, y0] = [(i % 2) * (side - 1), Math.floor(i / 2) * (side - 1)];
      for (let y = 0; y < side; y++)
        for (let x = 0; x < side; x++)
          bytes.writeInt16BE(x0 + x === 700 && y0 + y < 300 ? -32768 : ground(x0 + x, y0 + y), (y * side + x) * 2);
      writeFileSync(path.join(folder, name), bytes);
    });
    const given = [names[2]!, names[1]!, names[3]!, names[0]!];
    const raster = call('bring-in', ...given, '--out', 'all.r32', '--as-is');
    expect(raster.json).toMatchObject({
      width: 2401,
      height: 2401,
      noData: { count: 300 },
      edges: 'shared',
      missing: [],
      overhangs: { count: 0 },
    });
    expect((raster.json['seams'] as { maxDifference: number }[]).map((s) => s.maxDifference)).toEqual([0, 0, 0, 0]);
    // a degree of latitude is 111.2 km there
    expect(raster.json['spacing']).toBeCloseTo(111_170 / 1200, 1);
    expect(raster.json['arrangement']).toMatchObject({
      by: 'ground',
      edges: 'shared',
      seams: { seams: 4, largest: 0, mean: 0 },
      uncovered: 0,
    });
    // at 48° south a sample is 62.2 m east–west and 92.7 m north–south
    const squares = call('bring-in', ...given, '--out', 'squares.r32', '--spacing', '90');
    expect(squares.json).toMatchObject({ spacing: 90, crs: 'EPSG:32744' });
    const { width, height } = squares.json as { width: number; height: number };
    expect([width * 90, height * 90].map((m) => Math.round(m / 5000) * 5)).toEqual([150, 220]);
    const bytes = readFileSync(path.join(folder, 'all.r32'));
    for (const [x, y] of [
      [0, 0],
      [2400, 0],
      [0, 2400],
      [2400, 2400],
      [1200, 1200],
      [1201, 1199],
    ] as const)
      expect(bytes.readFloatLE((y * 2401 + x) * 4)).toBe(ground(x, y));
    expect(bytes.readFloatLE((299 * 2401 + 700) * 4)).toBeNaN();

    const recipe = {
      version: 3,
      name: 'fells',
      source: { heights: { as: 'elevations', unit: 'metre' }, spacing: 90 },
      target: 'component-grid',
      fit: { size: 505, voids: 900 },
      height: { range: 'ground' },
      output: { format: 'raw' },
    };
    writeFileSync(path.join(folder, 'fells.json'), JSON.stringify(recipe));
    expect(call('run', ...given, '--recipe', 'fells.json', '--out', 'pack').code).toBe(0);
    // the recipe of the pack says where each file lies
    const written = JSON.parse(readFileSync(path.join(folder, 'pack', 'recipe.json'), 'utf8')) as {
      source: { files: { name: string; at: number[] }[] };
    };
    expect(Object.fromEntries(written.source.files.map((f) => [f.name, f.at]))).toEqual({
      'S47E080.hgt': [0, 0],
      'S47E081.hgt': [1200, 0],
      'S48E080.hgt': [0, 1200],
      'S48E081.hgt': [1200, 1200],
    });
    const proof = call('prove', 'pack', '--reference', ...names);
    expect(proof.json).toMatchObject({ holds: true, compared: 'source', places: { different: 0 } });
  });

  test('blended seams: from the command line and in a recipe that a curve does not go with', async () => {
    const all = await tiles((c, r) => `blend-r${r}c${c}.png`, {
      value: (v, c) => Math.round(v * 0.5 + 9000 * (c % 2)),
    });
    for (const tile of all) writeFileSync(path.join(folder, tile.name), await tile.read(0, tile.size));
    const names = all.map((t) => t.name);
    expect(call('bring-in', ...names, '--out', 'steps.r32').json).toMatchObject({ edges: 'abutting' });
    expect(call('bring-in', ...names, '--out', 'soft.r32', '--blend', '20').json).toMatchObject({ width: 4 * TILE });
    const [steps, soft] = ['steps.r32', 'soft.r32'].map((f) => readFileSync(path.join(folder, f)));
    const at = (bytes: Buffer, x: number, y: number): number => bytes.readFloatLE(4 * (y * 4 * TILE + x));
    const jump = (bytes: Buffer): number => Math.abs(at(bytes, TILE, 100) - at(bytes, TILE - 1, 100));
    expect(jump(steps!)).toBeGreaterThan(8000);
    expect(jump(soft!)).toBeLessThan(1500);
    expect(at(soft!, 32, 100)).toBe(at(steps!, 32, 100));
    const source = { heights: { as: 'ends', low: 0, high: 1 }, spacing: 1, blend: 4 };
    expect(() => recipeWith({ source: source })).toThrow('several files');
    const files = names.map((name, i) => ({ name, at: [TILE * (i % 4), TILE * Math.floor(i / 4)] }));
    expect(() => recipeWith({ source: { ...source, files } })).toThrow('by step and base');
  });

  test('which of the blocks holds a place', () => {
    const names = ['S47E080.hgt', 'S47E081.hgt', 'S48E080.hgt', 'S48E081.hgt'];
    const holders = (place: string) => call('where', ...names, `--place=${place}`).json['holders'];
    expect(holders('80.25,-46.5')).toEqual([{ name: 'S47E080.hgt', column: 300, row: 600 }]);
    // a corner belongs to all four
    expect((holders('81,-47') as unknown[]).length).toBe(4);
    expect(holders('79,-47')).toEqual([]);
  });

  test('the same blocks in archives: one raster, packed and proved from there', () => {
    const names = ['S47E080.hgt', 'S47E081.hgt', 'S48E080.hgt', 'S48E081.hgt'];
    const zip = (name: string, files: readonly string[]): void => {
      const entries = files.map((f) => [`north/${f}`, readFileSync(path.join(folder, f))] as const);
      writeFileSync(
        path.join(folder, name),
        zipSync({ ...Object.fromEntries(entries), '../out.hgt': Buffer.alloc(8) }),
      );
    };
    zip('a.zip', names.slice(0, 2));
    zip('b.zip', names.slice(2));
    const raster = call('bring-in', 'a.zip', 'b.zip', '--out', 'zipped.r32', '--as-is');
    expect(raster.json).toMatchObject({ width: 2401, height: 2401, edges: 'shared', noData: { count: 300 } });
    const told = (raster.json['warnings'] as { message: string }[]).map((w) => w.message);
    expect(told).toContain('a.zip: "../out.hgt" leads out of the archive: it is left alone.');
    const [zipped, loose] = ['zipped.r32', 'all.r32'].map((f) => readFileSync(path.join(folder, f)));
    expect(zipped!.equals(loose!)).toBe(true);
    expect(call('run', 'a.zip', 'b.zip', '--recipe', 'fells.json', '--out', 'zipped').code).toBe(0);
    expect(call('prove', 'zipped', '--reference', 'a.zip', 'b.zip').json).toMatchObject({ holds: true });
  });

  test('tiles with each other’s names are told before a pack is written of them', async () => {
    const all = await tiles((c, r) => {
      const column = r === 1 && (c === 1 || c === 2) ? 3 - c : c;
      return `fells-r${r}c${column}.png`;
    });
    for (const tile of all) writeFileSync(path.join(folder, tile.name), await tile.read(0, tile.size));
    writeFileSync(path.join(folder, 'tiles.json'), JSON.stringify(recipeWith({ fit: { size: 253 } })));
    const planned = call('plan', ...all.map((t) => t.name), '--recipe', 'tiles.json');
    // doubted for as long as the files lie so, also where their places stand in the recipe
    const told = (json: Record<string, unknown>) =>
      (json['checks'] as { id: string; message: string }[]).filter((c) => c.id === 'source-mosaic');
    expect(told(planned.json)).toEqual([
      expect.objectContaining({
        message: expect.stringMatching(
          /^fells-r1c[12]\.png and fells-r1c[12]\.png match their neighbours only when/,
        ) as string,
      }),
    ]);
    call('run', ...all.map((t) => t.name), '--recipe', 'tiles.json', '--out', 'doubted');
    const again = call('plan', ...all.map((t) => t.name), '--recipe', 'doubted/recipe.json');
    expect(told(again.json)).toEqual(told(planned.json));
  });

  test('the same blocks as square metres: packed, and proved by another way of projecting', () => {
    const recipe = {
      version: 3,
      name: 'squares',
      source: {
        heights: { as: 'elevations', unit: 'metre' },
        spacing: 63.18,
        squares: { zone: 44, south: true, spacing: 63.18 },
      },
      target: 'component-grid',
      fit: { size: 1009, voids: 900 },
      height: { range: 'ground' },
      output: { format: 'raw' },
    };
    writeFileSync(path.join(folder, 'squares.json'), JSON.stringify(recipe));
    const names = ['S47E080.hgt', 'S47E081.hgt', 'S48E080.hgt', 'S48E081.hgt'];
    const made = call('run', ...names, '--recipe', 'squares.json', '--out', 'squares');
    expect(made.code).toBe(0);
    const { entering } = made.json as { entering: { width: number; height: number } };
    // 2 degrees at 47° to 48° south: some 150 km by 222 km
    expect((entering.width - 1) * 63.18).toBeGreaterThan(145_000);
    expect((entering.width - 1) * 63.18).toBeLessThan(152_500);
    expect((entering.height - 1) * 63.18).toBeGreaterThan(220_000);
    expect((entering.height - 1) * 63.18).toBeLessThan(222_400);
    const proof = call('prove', 'squares', '--reference', ...names);
    expect(proof.json).toMatchObject({ holds: true, places: { different: 0 } });
    const checks = (proof.json['checks'] as { id: string; state: string; message: string }[]).filter(
      (c) => c.id === 'reproject',
    );
    expect(checks).toEqual([expect.objectContaining({ state: 'holds' })]);
    expect(Number(/(\d+) squares/.exec(checks[0]!.message)?.[1])).toBeGreaterThan(400);
  });
});
