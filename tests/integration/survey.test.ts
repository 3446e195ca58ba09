/** The survey desk: its record, what is read of it, and the pixels say the same, in every form it hands out. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { fromArrayBuffer } from 'geotiff';
import { joinedSources, MemoryFolder, memorySource, sideBySide, type ByteSource } from '@/core/base';
import { applyEdit, freshRecipe } from '@/core/edits';
import { trueCalibration } from '@/core/height';
import { prove } from '@/core/proof';
import { countSource, openReading, run } from '@/core/run';
import { sourceReading } from '@/core/recipe';
import {
  assemble,
  blockAt,
  blockHeights,
  blockMap,
  bundleOf,
  groundOf,
  HANDED_AS,
  mapOf,
  rangeOf,
  recordSchema,
  type DataSet,
  type HandedAs,
} from '@/core/survey';
import { callIn } from '../helpers/cli';

jest.setTimeout(90_000);

// across four blocks, along none of their borders
const BORDERS = { west: 80.37, south: -47.33, east: 80.43, north: -47.28 };

const truth = (set: DataSet) => {
  const ground = groundOf(set, BORDERS);
  return { ground, heights: assemble(ground, (b) => blockHeights(set, b.column, b.row)) };
};

async function bundle(set: DataSet, as: HandedAs, stretch: number) {
  const { ground, heights } = truth(set);
  const map = mapOf(ground.blocks, (b) => blockMap(b.column, b.row));
  const files = await bundleOf(ground, heights, map, { as, stretch, name: 'fells', missing: [] });
  const sources = [...files].map(([name, bytes]) => memorySource(name, bytes));
  return { files, ground, heights, source: joinedSources(sideBySide(sources)) };
}

test('the world is the same every time, and blocks agree along their edges', () => {
  const west = blockHeights('fine', 2, 1);
  const east = blockHeights('fine', 3, 1);
  const south = blockHeights('fine', 2, 2);
  for (let i = 0; i <= 360; i++) {
    expect(west[i * 361 + 360]).toBe(east[i * 361]);
    expect(west[360 * 361 + i]).toBe(south[i]);
  }
  const coarse = blockHeights('coarse', 2, 1);
  expect(coarse).toHaveLength(121 * 121);
  const { voids } = rangeOf(west);
  expect(voids).toBeGreaterThan(0);
  const composite = blockHeights('composite', 2, 1);
  expect(rangeOf(composite).voids).toBe(0);
  expect(west.filter((v, i) => v === v && composite[i] !== v)).toHaveLength(0);
});

test('ground snaps to samples, and knows its blocks', () => {
  const { ground } = truth('fine');
  expect(ground).toMatchObject({ width: 217, height: 181 });
  expect(ground.blocks).toEqual([
    { column: 1, row: 1 },
    { column: 2, row: 1 },
    { column: 1, row: 2 },
    { column: 2, row: 2 },
  ]);
  expect(blockAt(80.37, -47.28)).toEqual({ column: 1, row: 1 });
  expect(blockAt(80.61, -47.59)).toEqual({ column: 4, row: 4 });
  expect(blockAt(10, 10)).toBeNull();
  expect(() => groundOf('fine', { ...BORDERS, west: 10, east: 11 })).toThrow('within 80.2 to 80.8');
});

const ASKED = HANDED_AS.flatMap((as): [HandedAs, DataSet, number][] =>
  as === 'hgt'
    ? [[as, 'coarse', 1.8]]
    : [
        [as, 'composite', 1],
        [as, 'composite', 1.8],
        [as, 'fine', 1.8],
      ],
);

test.each(ASKED)(
  'as %s, %s, stretched %f: record, card and pixels agree, and the true heights come back',
  async (as, set, stretch) => {
    const { files, ground, heights, source } = await bundle(set, as, stretch);
    const [name] = [...files.keys()];
    const stem = name!.replace(/\.[^.]*$/, '');
    const record = recordSchema.parse(JSON.parse(new TextDecoder().decode(files.get(`${stem}.record.json`))));
    const { low, high, voids } = rangeOf(heights);
    expect(record).toMatchObject({ file: name, stretch, lowest: low, highest: high });
    const { facts, opened } = await countSource(source);
    const info = facts.info;
    expect([info.width, info.height]).toEqual([record.width, record.height]);
    expect(info.georeference).toMatchObject({ degrees: true });
    expect(facts.stats!.voids).toBe(record.voids);
    if (as !== 'hgt') expect(record.voids).toBe(voids);
    const recipe = freshRecipe({ ...facts }, 'fells');
    // nothing is left to be asked but the spacing, which degrees don't say
    expect(recipe.source.assumed ?? []).toEqual(['spacing']);
    const { unit, offset } = trueCalibration(recipe.source.heights, info);
    const [x0, y0] =
      as === 'hgt'
        ? [Math.round((ground.extent.west - 80) * 1200), Math.round((-47 - ground.extent.north) * 1200)]
        : [0, 0];
    const allowed =
      as === 'hgt' ? 0.51 / stretch : as === 'tiff' ? 1e-3 : (record.codes!.metresPerCode / stretch) * 0.51;
    let [worst, seen, unlike] = [0, 0, 0];
    for await (const { y, rows, data } of opened.bands())
      for (let i = 0; i < rows * info.width; i++) {
        const [x, row] = [(i % info.width) - x0, y + Math.floor(i / info.width) - y0];
        const inside = x >= 0 && x < ground.width && row >= 0 && row < ground.height;
        const expected = inside ? heights[row * ground.width + x]! : NaN;
        const found = Number(data[i]) * unit + offset;
        if (Number.isNaN(found) !== Number.isNaN(expected)) unlike++;
        if (inside && expected === expected) {
          worst = Math.max(worst, Math.abs(found - expected));
          seen++;
        }
      }
    expect(worst).toBeLessThanOrEqual(allowed);
    expect([seen, unlike]).toEqual([heights.length - voids, 0]);
  },
);

test('independent readers find the same in the files', async () => {
  const { files, heights, ground } = await bundle('composite', 'tiff', 1);
  const bytes = files.get('fells.tif')!;
  const image = await (await fromArrayBuffer(bytes.slice().buffer)).getImage();
  const [west, south, east, north] = image.getBoundingBox() as [number, number, number, number];
  // of points: half a sample beyond the outermost, for a reader that draws cells
  expect((west + east) / 2).toBeCloseTo((ground.extent.west + ground.extent.east) / 2, 2);
  expect((south + north) / 2).toBeCloseTo((ground.extent.south + ground.extent.north) / 2, 2);
  const raster = (await image.readRasters())[0] as Float32Array;
  expect(raster).toEqual(heights);
  const map = await sharp(Buffer.from(files.get('fells.survey-map.png')!))
    .raw()
    .toBuffer({ resolveWithObject: true });
  expect(map.info).toMatchObject({ width: 240, height: 240, channels: 3 });
  expect([...map.data.subarray(0, 3)]).toEqual([...blockMap(1, 1).subarray(0, 3)]);
});

test('a pack of stretched codes with voids, in square metres, is proved', async () => {
  const { source } = await bundle('fine', 'png', 1.8);
  const { facts } = await countSource(source);
  const repair = facts.warnings.find((w) => w.code === 'degrees')!.repair!;
  const fresh = freshRecipe({ ...facts }, 'fells');
  const metric = applyEdit(fresh, repair);
  const recipe = {
    ...metric,
    fit: { ...metric.fit, size: 127, method: 'resample' as const, voids: 100 },
    height: { ...metric.height, range: 'ground' as const },
  };
  const folder = new MemoryFolder();
  await run(recipe, await countSource(source, sourceReading(recipe)), folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
});

test('a record of something else is left alone; a damaged one is named', async () => {
  const { files } = await bundle('composite', 'png', 1);
  const png = memorySource('fells.png', files.get('fells.png')!);
  const record = JSON.parse(new TextDecoder().decode(files.get('fells.record.json'))) as object;
  const beside = (text: string): ByteSource =>
    joinedSources(sideBySide([png, memorySource('fells.record.json', new TextEncoder().encode(text))]));
  expect((await openReading(beside(JSON.stringify({ ...record, file: 'other.png' })), {})).info.codes).toBeUndefined();
  expect((await openReading(beside(JSON.stringify({ ...record, width: 12 })), {})).info.codes).toBeUndefined();
  expect((await openReading(beside(JSON.stringify(record)), {})).info.codes).toMatchObject({
    from: 'fells.record.json',
  });
  await expect(openReading(beside('{"kind": "surv'), {})).rejects.toMatchObject({ file: 'fells.record.json' });
});

describe('from the command line', () => {
  let folder: string;
  const call = (...args: string[]) => callIn(folder, ...args);
  beforeAll(() => {
    folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-survey-'));
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  test('taken with a stretch, brought in true, and compared', () => {
    const borders = '80.37,-47.33,80.43,-47.28';
    for (const set of ['coarse', 'fine', 'composite'])
      expect(
        call('survey', '--ground', borders, '--set', set, '--as', 'png', '--stretch', '1.8', '--out', set).code,
      ).toBe(0);
    const { json } = call('bring-in', 'composite/tarrowen-fells.png', '--out', 'true.r32', '--as-is');
    expect(json).toMatchObject({ width: 217, height: 181 });
    const { heights } = truth('composite');
    const found = readFileSync(path.join(folder, 'true.r32'));
    let worst = 0;
    heights.forEach((v, i) => (worst = Math.max(worst, Math.abs(found.readFloatLE(4 * i) - v))));
    expect(worst).toBeLessThan(0.02);
  });
});
