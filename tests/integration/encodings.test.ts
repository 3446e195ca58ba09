/**
 * Every way of storing heights in every format that can hold it: what the files hold is worked out here from the ground,
 * and read back by other programs' readers or byte by byte.
 */
import { fromArrayBuffer } from 'geotiff';
import sharp from 'sharp';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { FloatType } from 'three';
import { MemoryFolder, memorySource } from '@/core/base';
import { freshRecipe, withOutput, withTarget } from '@/core/edits';
import { plan } from '@/core/plan';
import { prove, type Proof } from '@/core/proof';
import type { EncodingId, FileFormat } from '@/core/raster';
import { parseTargetText } from '@/core/recipe';
import { run } from '@/core/run';
import { targetOf } from '@/core/targets';
import { wideFacts } from '../helpers/facts';
import { faultOf, hills, pngSource, recipeWith } from '../helpers/rasters';

jest.setTimeout(120_000);

const [W, H] = [211, 173];
const [LOW, HIGH] = [1310, 2140];
const codes = hills(W, H);
const source = () => pngSource(codes, W, 'kettle.png');
/** Where the kept ground begins, and how much of it there is: two bands of rows, and no square. */
const [LEFT, TOP, WIDE, TALL] = [5, 11, 197, 151];
const kept = Array.from(
  { length: WIDE * TALL },
  (_, i) => codes[(TOP + Math.floor(i / WIDE)) * W + LEFT + (i % WIDE)]!,
);
/** True elevation of each vertex, from the ends of 16 bits. */
const elevations = kept.map((c) => LOW + (c / 65535) * (HIGH - LOW));

const WAYS = {
  'png u16': ['png', 'u16'],
  'png u8': ['png', 'u8'],
  'raw u16': ['raw', 'u16'],
  'raw u8': ['raw', 'u8'],
  'raw f32': ['raw', 'f32'],
  'raw f32-share': ['raw', 'f32-share'],
  'tiff u16': ['tiff', 'u16'],
  'tiff f32': ['tiff', 'f32'],
  'tiff f32-share': ['tiff', 'f32-share'],
  'tiff u16, packed': ['tiff', 'u16', 'deflate'],
  'tiff f32, packed': ['tiff', 'f32', 'deflate'],
  'exr f32': ['exr', 'f32'],
  'exr f32-share': ['exr', 'f32-share'],
  'exr f32, packed': ['exr', 'f32', 'deflate'],
  'exr f32-share, packed': ['exr', 'f32-share', 'deflate'],
  'asc f32': ['asc', 'f32'],
} as const;
type Way = keyof typeof WAYS;

/** What is stored over a range of the file's own lowest and highest sample. */
const lowest = LOW + (Math.min(...codes) / 65535) * (HIGH - LOW);
const highest = LOW + (Math.max(...codes) / 65535) * (HIGH - LOW);
const STORED: Readonly<Record<string, (elevation: number) => number>> = {
  u16: (e) => Math.round(((e - lowest) / (highest - lowest)) * 65535),
  u8: (e) => Math.round(((e - lowest) / (highest - lowest)) * 255),
  f32: (e) => Math.fround(e),
  'f32-share': (e) => Math.fround((e - lowest) / (highest - lowest)),
};
/** What floats may differ by, worked out in another order: a thousandth of what 16 bits tell apart. */
const APART: Readonly<Record<string, number>> = { f32: (HIGH - LOW) / 65535e3, 'f32-share': 1 / 65535e3 };

const CROP = { size: [WIDE, TALL] as [number, number], method: 'crop' as const, at: [LEFT, TOP] as [number, number] };

const recipeOf = (way: Way, over: Parameters<typeof recipeWith>[0] = {}) => {
  const [format, encoding, compression] = WAYS[way] as readonly [FileFormat, EncodingId, 'deflate'?];
  return recipeWith({
    target: 'exchange',
    source: { low: LOW, high: HIGH },
    fit: CROP,
    output: { format, encoding, byteOrder: 'big', rows: 'south', ...(compression ? { compression } : {}) },
    ...over,
  });
};

/** Rows from the north, as a reader of the format gives them. */
async function read(way: Way, bytes: Uint8Array<ArrayBuffer>): Promise<number[]> {
  const [format, encoding] = WAYS[way];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  switch (format) {
    case 'png': {
      const picture = sharp(bytes);
      const { depth, channels, width, height } = await picture.metadata();
      expect([depth, channels, width, height]).toEqual([encoding === 'u8' ? 'uchar' : 'ushort', 1, WIDE, TALL]);
      const raw = await picture
        .toColourspace(encoding === 'u8' ? 'b-w' : 'grey16')
        .raw({ depth })
        .toBuffer();
      return encoding === 'u8' ? [...raw] : [...new Uint16Array(raw.buffer, raw.byteOffset, raw.length / 2)];
    }
    case 'raw': {
      const size = { u8: 1, u16: 2, f32: 4, 'f32-share': 4 }[encoding];
      expect(bytes.length).toBe(size * WIDE * TALL);
      return kept.map((_, i) => {
        // the southernmost row first, high bytes first
        const at = size * ((TALL - 1 - Math.floor(i / WIDE)) * WIDE + (i % WIDE));
        return size === 1 ? view.getUint8(at) : size === 2 ? view.getUint16(at) : view.getFloat32(at);
      });
    }
    case 'tiff': {
      const image = await (await fromArrayBuffer(bytes.slice().buffer)).getImage();
      expect([image.getWidth(), image.getHeight()]).toEqual([WIDE, TALL]);
      expect([image.getBitsPerSample(), image.getSampleFormat()]).toEqual(encoding === 'u16' ? [16, 1] : [32, 3]);
      return [...((await image.readRasters({ interleave: true })) as unknown as ArrayLike<number> & Iterable<number>)];
    }
    case 'asc': {
      const [head = '', ...rows] = new TextDecoder().decode(bytes).split(/(?<=NODATA_value \S+)\n/);
      expect(head).toBe(`ncols ${WIDE}\nnrows ${TALL}\nxllcenter 0\nyllcenter 0\ncellsize 2.5\nNODATA_value -99999`);
      const numbers = rows.join('').trimEnd().split('\n');
      expect(numbers).toHaveLength(TALL);
      return numbers.flatMap((row) => row.split(' ').map((n) => Math.fround(Number(n))));
    }
    case 'exr': {
      const { data, width, height } = new EXRLoader().setDataType(FloatType).parse(bytes.slice().buffer) as {
        data: Float32Array;
        width: number;
        height: number;
      };
      expect([width, height]).toEqual([WIDE, TALL]);
      const each = data.length / (width * height);
      // that reader begins in the south
      return kept.map((_, i) => data[each * ((TALL - 1 - Math.floor(i / WIDE)) * WIDE + (i % WIDE))]!);
    }
  }
}

const faults = ({ checks }: Proof): string[] =>
  checks.filter((c) => c.state === 'fault').map((c) => `${c.id}: ${c.message}`);

async function packed(way: Way, over: Parameters<typeof recipeWith>[0] = {}): Promise<MemoryFolder> {
  const folder = new MemoryFolder();
  await run(recipeOf(way, over), await source(), folder);
  return folder;
}
const proofOf = async (folder: MemoryFolder): Promise<Proof> =>
  (await prove({ file: (n) => folder.source(n), reference: await source() })).proof;
const only = (folder: MemoryFolder): [string, Uint8Array<ArrayBuffer>] => {
  const [name, bytes] = [...folder.files].find(([n]) => /\.(png|raw|tiff|exr|asc)$/.test(n))!;
  return [name, bytes as Uint8Array<ArrayBuffer>];
};

describe.each(Object.keys(WAYS) as Way[])('%s', (way) => {
  const [, encoding] = WAYS[way];

  test('holds the ground, as another reader finds it, and is proved', async () => {
    const folder = await packed(way);
    const found = await read(way, only(folder)[1]);
    const expected = elevations.map(STORED[encoding]!);
    const apart = APART[encoding];
    if (apart === undefined) expect(found).toEqual(expected);
    else expect(found.reduce((most, v, i) => Math.max(most, Math.abs(v - expected[i]!)), 0)).toBeLessThan(apart);
    expect(faults(await proofOf(folder))).toEqual([]);
  });

  test('resampled, in tiles, exaggerated and as a miniature it is proved', async () => {
    const folder = await packed(way, {
      fit: { size: [301, 127], worldScale: 0.37 },
      height: { range: 'ground', exaggeration: 1.3 },
      split: { across: 3, down: 2 },
    });
    expect(faults(await proofOf(folder))).toEqual([]);
  });

  test('one bit changed turns the proof red', async () => {
    const folder = await packed(way);
    const [name, bytes] = only(folder);
    // pictures are packed: a bit in the middle of theirs breaks them
    const at = way.startsWith('png') ? bytes.length >> 1 : bytes.length - 4 * 61 - 1;
    const harmed = bytes.slice();
    harmed[at]! ^= 1;
    const { proof } = await prove({
      file: (n) => (n === name ? memorySource(name, harmed) : folder.source(n)),
      reference: await source(),
    });
    expect(proof.holds).toBe(false);
    expect(faults(proof).join(' ')).toMatch(/not what the recipe gives|checksum/);
  });
});

test('floats of very tall ground that is made much smaller are as near as codes are', async () => {
  const [w, h] = [3, 30_011];
  const heights = Float32Array.from(
    { length: w * h },
    (_, i) => 1725 + 415 * Math.sin(i / 977) + 5 * Math.sin(i * 1.7) + (i % w),
  );
  const fells = memorySource('fells.raw', new Uint8Array(heights.buffer));
  const folder = new MemoryFolder();
  const recipe = recipeWith({
    source: {
      heights: { as: 'elevations', unit: 'metre' },
      spacing: 2.5,
      raw: { width: w, height: h, type: 'f32', byteOrder: 'little', skip: 0 },
    },
    target: 'exchange',
    fit: { size: [3, 101] },
    output: { format: 'raw', encoding: 'f32' },
  });
  await run(recipe, fells, folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: fells });
  expect(faults(proof)).toEqual([]);
});

test('files of floats with whole steps in them are no proof of floats', async () => {
  const folder = await packed('raw f32');
  const [name] = only(folder);
  const steps = await packed('raw u16');
  const { proof } = await prove({
    file: (n) => (n === name ? memorySource(name, only(steps)[1]) : folder.source(n)),
    reference: await source(),
  });
  expect(proof.holds).toBe(false);
});

test('a card of metres names no elevations to type; one of shares names both', () => {
  const ids = (way: Way): string[] => plan(recipeOf(way), wideFacts(W, H), null).document.card.map((r) => r.id);
  expect(ids('exr f32')).not.toEqual(expect.arrayContaining(['lowestElevation']));
  expect(ids('exr f32-share')).toEqual(expect.arrayContaining(['lowestElevation', 'highestElevation']));
  const { card, files, height, cost } = plan(recipeOf('raw f32-share'), wideFacts(W, H), null).document;
  expect(card.find((r) => r.id === 'bitDepth')?.value).toBe(32);
  expect(card.find((r) => r.id === 'fileSize')?.value).toBe(4 * WIDE * TALL);
  expect(cost.fileBytes).toBe(4 * WIDE * TALL);
  expect(files[0]).toMatchObject({ bitDepth: 32, sampleType: 'float' });
  // floats tell 2²⁴ heights apart between 0 and 1
  expect(height.step).toBeCloseTo((HIGH - LOW) / 2 ** 24, 12);
  // metres: as finely as floats do from 2 048 to 4 095
  expect(plan(recipeOf('raw f32'), wideFacts(W, H), null).document.height.step).toBe(2 ** -12);
});

test('one byte has no order; where 16 bits are as good 8 are a caution, and one click mends it', async () => {
  const { card, files, checks } = plan(recipeOf('raw u8'), wideFacts(W, H), null).document;
  expect(card.map((r) => r.id)).toEqual(expect.not.arrayContaining(['byteOrder']));
  expect(card.find((r) => r.id === 'rowOrder')?.value).toBe('south');
  expect(files[0]?.byteOrder).toBeNull();
  expect(checks.find((c) => c.id === 'precision')).toMatchObject({
    state: 'caution',
    repair: { edit: 'output', args: { encoding: 'u16' } },
  });
  const page = new TextDecoder().decode((await packed('raw u8')).files.get('import.md'));
  expect(page).toContain('RAW, 8 bits, rows from the south');
  expect(page).not.toContain('endian');
  // words of another depth are no words of this file
  const folder = await packed('raw f32');
  folder.files.set(
    'import.md',
    new TextEncoder().encode(
      new TextDecoder().decode(folder.files.get('import.md')).replace('RAW, 32-bit floats', 'RAW, 16 bits'),
    ),
  );
  expect(faults(await proofOf(folder)).join(' ')).toContain('another depth');
});

test('what a target does not read is a fault, and one click mends it; what a format can’t hold is refused', async () => {
  const of = (over: Parameters<typeof recipeWith>[0]) => {
    const recipe = recipeWith({ source: { low: LOW, high: HIGH }, ...over });
    const { checks } = plan(recipe, wideFacts(), null).document;
    return { recipe, check: checks.find((c) => c.id === 'encoding') };
  };
  const even = of({ target: 'even-grid', fit: { size: 512 }, output: { format: 'raw', encoding: 'f32' } });
  expect(even.check).toMatchObject({ state: 'fault', repair: { edit: 'output', args: { encoding: 'u16' } } });
  expect(even.check?.message).toBe(
    'The target reads 16 bits, whole steps or 8 bits, whole steps, not 32-bit floats, in metres.',
  );
  const mended = of({
    target: 'even-grid',
    fit: { size: 512 },
    output: { format: 'raw', ...even.check!.repair!.args },
  });
  expect(mended.check).toBeUndefined();
  // what a format can't hold is written by nobody
  for (const [format, encoding] of [
    ['png', 'f32'],
    ['exr', 'u16'],
    ['tiff', 'u8'],
  ] as const)
    expect(
      await faultOf(() => of({ target: 'exchange', fit: { size: 512 }, output: { format, encoding } })),
    ).toMatchObject({
      code: 'recipe-value',
      expected: expect.stringContaining(`what a ${format.toUpperCase()} can hold`),
    });
});

test('another format lets go of what it can’t hold; another target begins with its usual way', () => {
  const floats = recipeOf('tiff f32-share');
  expect(withOutput(floats, { format: 'exr' }).output.encoding).toBe('f32-share');
  expect(withOutput(floats, { format: 'png' }).output.encoding).toBeUndefined();
  expect(withOutput(floats, { format: 'png', encoding: 'u8' }).output.encoding).toBe('u8');
  expect(withTarget(floats, 'odd-grid', { width: W, height: H }).output.encoding).toBeUndefined();
});

test('a target of one’s own begins with a format and a way of storing that go together', () => {
  const own = (formats: string[], encodings: string[]) =>
    parseTargetText(JSON.stringify({ ...targetOf('exchange'), id: 'fells', formats, encodings }));
  const begins = (target: ReturnType<typeof own>) =>
    withTarget(recipeOf('raw u8'), target, { width: W, height: H }).output;
  expect(begins(own(['png', 'raw'], ['f32-share']))).toMatchObject({ format: 'raw', encoding: 'f32-share' });
  expect(begins(own(['raw'], ['u16', 'f32'])).encoding).toBeUndefined();
  expect(freshRecipe({ info: wideFacts(W, H).info }, 'fells', own(['exr'], ['f32-share'])).output).toMatchObject({
    format: 'exr',
    encoding: 'f32-share',
  });
});

test('a target of one’s own with floats says where its height 0 lies', () => {
  const own = { ...targetOf('exchange'), id: 'fells', encodings: ['f32'] };
  expect(parseTargetText(JSON.stringify(own)).encodings).toEqual(['f32']);
  expect(() => parseTargetText(JSON.stringify({ ...own, zero: 'chosen' }))).toThrow(/elevation 0 is height 0/);
  const blocks = { ...targetOf('voxel-layers'), id: 'blocks', encodings: ['f32-share'] };
  expect(() => parseTargetText(JSON.stringify(blocks))).toThrow(/two elevations/);
});

test('a way of packing goes along where a format can be packed, and is let go where it can’t', () => {
  const packed = recipeOf('tiff f32, packed');
  expect(withOutput(packed, { format: 'exr' }).output.compression).toBe('deflate');
  expect(withOutput(packed, { format: 'png' }).output.compression).toBeUndefined();
  expect(withOutput(packed, { rows: 'north' }).output.compression).toBe('deflate');
  expect(withTarget(packed, 'component-grid', wideFacts(W, H).info).output.compression).toBeUndefined();
  expect(() => recipeWith({ target: 'exchange', output: { format: 'png', compression: 'deflate' } })).toThrow(
    /only a TIFF, EXR can be packed/,
  );
});
