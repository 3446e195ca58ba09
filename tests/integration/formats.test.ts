/** Every format that is read, from the command line: what it says, what it holds, and the pack that is made of it. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { zipSync } from 'fflate';
import { writeExr } from '../helpers/write-exr';
import { writeTiff, type TiffShape } from '../helpers/write-tiff';
import { pngSource } from '../helpers/rasters';

const CLI = path.resolve('dist/cli.mjs');
const [WIDTH, HEIGHT] = [141, 133];
const N = WIDTH * HEIGHT;
let folder: string;

function call(...args: string[]): { code: number; json: Record<string, unknown>; err: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, [CLI, ...args, '--json'], {
    cwd: folder,
    env: { ...process.env, INIT_CWD: folder },
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  });
  return { code: status ?? -1, json: JSON.parse(stdout) as Record<string, unknown>, err: stderr };
}

/** Ground of 1310 to 2140 m that no half float could hold, and the same in codes. */
const metres = Float32Array.from({ length: N }, (_, i) => {
  const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
  return 1725 + 280 * Math.sin(x / 19) * Math.cos(y / 23) + 135 * Math.sin((x + y * 2) / 7.3);
});
const codes = Uint16Array.from(metres, (m) => Math.round(((m - 1310) / 830) * 65535));

const floatBytes = (values: Float32Array, little: boolean): Buffer => {
  const out = Buffer.alloc(values.length * 4);
  values.forEach((v, i) => (little ? out.writeFloatLE(v, i * 4) : out.writeFloatBE(v, i * 4)));
  return out;
};
const codeBytes = (big: boolean): Buffer => {
  const out = Buffer.alloc(N * 2);
  codes.forEach((v, i) => (big ? out.writeUInt16BE(v, i * 2) : out.writeUInt16LE(v, i * 2)));
  return out;
};
/** Each sample of 16 bits, and another band behind it. */
const twice = (bytes: Buffer): Buffer => {
  const out = Buffer.alloc(bytes.length * 2, 0x55);
  for (let i = 0; i < bytes.length; i += 2) bytes.copy(out, 2 * i, i, i + 2);
  return out;
};
const southFirst = Float32Array.from(
  { length: N },
  (_, i) => metres[(HEIGHT - 1 - Math.floor(i / WIDTH)) * WIDTH + (i % WIDTH)]!,
);
const tiff = (type: TiffShape['type'], bits: TiffShape['bits'], more: Partial<TiffShape>): Buffer =>
  writeTiff({ width: WIDTH, height: HEIGHT, type, bits, ...more }, (x, y) =>
    type === 'float' ? metres[y * WIDTH + x]! : codes[y * WIDTH + x]!,
  );
const exr = (compression: 'ZIP' | 'PIZ', name: string): Buffer =>
  writeExr([
    [
      { width: WIDTH, height: HEIGHT, channels: [{ name, type: 'float' }], compression },
      (_, x, y) => metres[y * WIDTH + x]!,
    ],
  ]);

const FLOATS: Readonly<Record<string, () => Buffer>> = {
  'f.raw': () => floatBytes(metres, true),
  'f.tif': () => tiff('float', 32, { compression: 8, predictor: 3, tile: [64, 64] }),
  'f-big.tif': () => tiff('float', 32, { little: false, big: true, rowsPerStrip: 9 }),
  'y.exr': () => exr('ZIP', 'Y'),
  'height.exr': () => exr('PIZ', 'ground.height'),
  'f.pfm': () => Buffer.concat([Buffer.from(`Pf\n${WIDTH} ${HEIGHT}\n-1.0\n`), floatBytes(southFirst, true)]),
  'f.flt': () => floatBytes(metres, false),
  'f.asc': () =>
    Buffer.from(
      `ncols ${WIDTH}\nnrows ${HEIGHT}\nxllcorner 0\nyllcorner 0\ncellsize 2.5\n` +
        Array.from({ length: HEIGHT }, (_, y) => [...metres.subarray(y * WIDTH, (y + 1) * WIDTH)].join(' ')).join('\n'),
    ),
};
const CODES: Readonly<Record<string, () => Buffer>> = {
  'c.raw': () => codeBytes(false),
  'c.tif': () => tiff('uint', 16, { compression: 8, predictor: 2, rowsPerStrip: 16 }),
  'c-packbits.tif': () => tiff('uint', 16, { compression: 32773, little: false }),
  'c.bip': () => Buffer.concat([Buffer.alloc(64), twice(codeBytes(false))]),
  'c.pgm': () => Buffer.concat([Buffer.from(`P5\n${WIDTH} ${HEIGHT}\n65535\n`), codeBytes(true)]),
};

/** What lies beside a file of the same stem. */
const BESIDE: Readonly<Record<string, string>> = {
  'f.hdr': `ncols ${WIDTH}\nnrows ${HEIGHT}\ncellsize 2.5\nbyteorder MSBFIRST\n`,
  'C.HDR': `NROWS ${HEIGHT}\r\nNCOLS ${WIDTH}\r\nNBANDS 2\r\nNBITS 16\r\nPIXELTYPE UNSIGNEDINT\r\nSKIPBYTES 64\r\n`,
};

beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-formats-'));
  for (const [name, make] of Object.entries({ ...FLOATS, ...CODES })) writeFileSync(path.join(folder, name), make());
  for (const [name, words] of Object.entries(BESIDE)) writeFileSync(path.join(folder, name), words);
  const png = await pngSource(codes, WIDTH);
  writeFileSync(path.join(folder, 'c.png'), await png.read(0, png.size));
});
afterAll(() => rmSync(folder, { recursive: true }));

const rawLayout = (name: string): string[] =>
  name.endsWith('.raw') ? ['--raw', `${WIDTH},${HEIGHT},${name.startsWith('f') ? 'f32' : 'u16'},little`] : [];
const PLACES = [
  [0, 0],
  [HEIGHT - 1, WIDTH - 1],
  [77, 3],
  [HEIGHT, 0],
] as const;

interface Entry {
  width: number;
  height: number;
  bitDepth: number;
  sampleType: string;
  min: number;
  max: number;
  noData: { count: number | null };
  at: { row: number; col: number; value: number | null }[];
}

describe.each([...Object.keys(FLOATS), ...Object.keys(CODES), 'c.png'])('%s', (name) => {
  const isFloat = name in FLOATS;
  const truth = isFloat ? metres : codes;
  test('size, type, range, voids and samples', () => {
    const at = PLACES.flatMap(([r, c]) => ['--at', `${r},${c}`]);
    const { code, json } = call('inspect', name, ...rawLayout(name), ...at);
    expect(code).toBe(0);
    const [entry] = json['files'] as [Entry];
    expect(entry).toMatchObject({
      width: WIDTH,
      height: HEIGHT,
      bitDepth: isFloat ? 32 : 16,
      sampleType: isFloat ? 'float' : 'uint',
      min: Math.min(...truth),
      max: Math.max(...truth),
      noData: { count: 0 },
    });
    expect(entry.at).toEqual(
      PLACES.map(([row, col]) => ({ row, col, value: row < HEIGHT ? truth[row * WIDTH + col] : null })),
    );
  });
  test('the header alone has no statistics', () => {
    const [entry] = call('inspect', name, ...rawLayout(name), '--header').json['files'] as [Record<string, unknown>];
    expect(entry).toMatchObject({
      width: WIDTH,
      height: HEIGHT,
      min: null,
      max: null,
      mean: null,
      distinctCodes: null,
      codeStep: null,
      noData: { count: null },
    });
  });
  test('the pack holds the same codes as from every other format, and is proved', () => {
    const raw = name.endsWith('.raw')
      ? { raw: { width: WIDTH, height: HEIGHT, type: isFloat ? 'f32' : 'u16', byteOrder: 'little' } }
      : {};
    const recipe = {
      version: 2,
      name: 'tarn',
      source: { ...(isFloat ? {} : { low: 1310, high: 2140 }), spacing: 2.5, ...raw },
      target: 'component-grid',
      fit: { size: 127 },
      height: { range: 'ground' },
      output: { format: 'raw' },
    };
    writeFileSync(path.join(folder, `${name}.json`), JSON.stringify(recipe));
    const out = `pack-${name}`;
    expect(call('run', name, '--recipe', `${name}.json`, '--out', out).code).toBe(0);
    const proof = call('prove', out, '--reference', name);
    expect(proof.json).toMatchObject({ holds: true, compared: 'source', places: { different: 0 } });
    expect((proof.json['places'] as { compared: number }).compared).toBeGreaterThan(500);
    const first = isFloat ? 'f.raw' : 'c.raw';
    expect(readFileSync(path.join(folder, out, 'tarn.raw'))).toEqual(
      readFileSync(path.join(folder, `pack-${first}`, 'tarn.raw')),
    );
  });
});

test('a source as plain floats: metres where the file names feet, voids as NaN, as it is where asked', () => {
  const feet = writeTiff(
    {
      width: 30,
      height: 20,
      type: 'int',
      bits: 16,
      tags: [
        [33550, 12, [5, 5, 0]],
        [33922, 12, [0, 0, 0, 1000, 2000, 0]],
        [34735, 3, [1, 1, 0, 4, 1024, 0, 1, 1, 1025, 0, 1, 2, 3076, 0, 1, 9001, 4099, 0, 1, 9002]],
        [42113, 2, '-32768'],
      ],
    },
    (x, y) => (x === 2 && y === 1 ? -32768 : 1000 * x + y),
  );
  writeFileSync(path.join(folder, 'feet.tif'), feet);
  const { code, json } = call('bring-in', 'feet.tif', '--out', 'feet.r32');
  expect(code).toBe(0);
  expect(json).toMatchObject({ width: 30, height: 20, spacing: 5, noData: { count: 1 }, warnings: [] });
  const found = readFileSync(path.join(folder, 'feet.r32'));
  expect(found).toHaveLength(30 * 20 * 4);
  expect(found.readFloatLE((1 * 30 + 2) * 4)).toBeNaN();
  expect(found.readFloatLE((3 * 30 + 7) * 4)).toBe(Math.fround(7003 * 0.3048));
  expect(call('bring-in', 'feet.tif', '--out', 'typed.r32', '--spacing', '3').json).toMatchObject({ spacing: 3 });
  // the source is never written over
  expect(call('bring-in', 'feet.tif', '--out', 'feet.tif').json).toMatchObject({ error: { code: 'in-the-way' } });
  expect(readFileSync(path.join(folder, 'feet.tif'))).toEqual(feet);
});

test('a block in degrees: its spacing both ways, its void, and that it is not square', () => {
  const side = 1201;
  const bytes = Buffer.alloc(side * side * 2);
  for (let i = 0; i < side * side; i++) bytes.writeInt16BE(i === side + 1 ? -32768 : (i % side) - 300, i * 2);
  writeFileSync(path.join(folder, 'S12W071.hgt'), bytes);
  const [entry] = call('inspect', 'S12W071.hgt', '--at', '1,1', '--at', '5,1200').json['files'] as [
    Record<string, unknown>,
  ];
  expect(entry).toMatchObject({
    format: 'hgt',
    unit: 'metre',
    spacing: null,
    crs: 'EPSG:4326',
    min: -300,
    max: 900,
    noData: { value: -32768, count: 1 },
    at: [
      { row: 1, col: 1, value: null },
      { row: 5, col: 1200, value: 900 },
    ],
  });
  const { east, north } = entry['spacings'] as { east: number; north: number };
  // a degree at 11.5° S, worked out apart: 110618.4514 m of latitude, 109099.2019 m of longitude
  expect(north).toBeCloseTo(110618.4514 / 1200, 4);
  expect(east).toBeCloseTo(109099.2019 / 1200, 4);
});

test('a zip: each height file in it is told; one is taken by its path; names that lead outside are refused', () => {
  const read = (name: string): Uint8Array => new Uint8Array(readFileSync(path.join(folder, name)));
  writeFileSync(
    path.join(folder, 'fells.zip'),
    zipSync({
      'north/f.tif': read('f.tif'),
      'north/readme.txt': new TextEncoder().encode('heights of the fells'),
      'south/c.png': read('c.png'),
      'south/cut.exr': read('y.exr').subarray(0, 900),
      '../outside.pgm': read('c.pgm'),
    }),
  );
  const { code, json } = call('inspect', 'fells.zip', '--at', '77,3');
  expect(code).toBe(1);
  const [archive] = json['files'] as [Record<string, unknown>];
  expect(archive).toMatchObject({
    file: 'fells.zip',
    format: 'zip',
    members: [
      { file: 'north/f.tif', format: 'tiff', width: WIDTH, at: [{ value: metres[77 * WIDTH + 3] }] },
      { file: 'south/c.png', format: 'png', at: [{ value: codes[77 * WIDTH + 3] }] },
      { file: 'south/cut.exr', error: { code: 'truncated' } },
    ],
    warnings: [{ message: '"../outside.pgm" leads out of the archive: it is left alone.' }],
  });
  expect(call('bring-in', 'fells.zip', '--member', 'north/f.tif', '--out', 'm.r32').code).toBe(0);
  expect(readFileSync(path.join(folder, 'm.r32')).readFloatLE((77 * WIDTH + 3) * 4)).toBe(metres[77 * WIDTH + 3]);
  for (const [member, error] of [
    ['../outside.pgm', { code: 'file-name' }],
    ['west/f.tif', { code: 'not-found', expected: 'north/f.tif, south/c.png, south/cut.exr' }],
  ] as const)
    expect(call('bring-in', 'fells.zip', '--member', member, '--out', 'n.r32').json).toMatchObject({ error });
  expect(existsSync(path.join(folder, 'n.r32'))).toBe(false);
});

test.each([
  [['inspect', 'f.tif', '--at', '1'], 'as a place'],
  [['bring-in', 'f.tif', '--out', 'x.r32', '--spacing', 'wide'], 'as metres from sample to sample'],
])('%j is a slip of the caller', (args, words) => {
  const { status, stderr } = spawnSync(process.execPath, [CLI, ...args], {
    cwd: folder,
    env: { ...process.env, INIT_CWD: folder },
    encoding: 'utf8',
  });
  expect(status).toBe(2);
  expect(stderr).toContain(words);
});
