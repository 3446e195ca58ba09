import { LevelGridError, memorySource, sideBySide, type ByteSource } from '../../base';
import { bundleHead, openHeightFile, partsOf } from '..';
import { faultOf } from '../../../../tests/helpers/rasters';

const text = (name: string, words: string): ByteSource => memorySource(name, Buffer.from(words, 'latin1'));
const beside = (heights: ByteSource, ...others: ByteSource[]): ByteSource => sideBySide([heights, ...others])[0]!;
const open = (name: string, bytes: Uint8Array, header: string, prj?: string) =>
  openHeightFile(
    beside(
      memorySource(name, bytes),
      text('FELLS.HDR', header),
      ...(prj === undefined ? [] : [text('fells.prj', prj)]),
    ),
  );
async function samples(raster: Awaited<ReturnType<typeof open>>): Promise<number[]> {
  const out: number[] = [];
  for await (const { data } of raster.bands()) out.push(...data);
  return out;
}
const shorts = (values: readonly number[], big: boolean): Buffer => {
  const out = Buffer.alloc(values.length * 2);
  values.forEach((v, i) => (big ? out.writeInt16BE(v, 2 * i) : out.writeInt16LE(v, 2 * i)));
  return out;
};

const PROJECTED =
  'PROJCS["Fells_Grid",GEOGCS["Fells",DATUM["D",SPHEROID["S",6378137,298.2]],PRIMEM["P",0],UNIT["Degree",0.0174532925199433]],PROJECTION["T"],UNIT["Foot",0.3048]]';
const DEGREES = 'GEOGCS["Fells 84",DATUM["D",SPHEROID["S",6378137,298.2]],UNIT["Degree",0.0174532925199433]]';

test('a grid with everything in its header: order, voids, bytes to skip, place and coordinates', async () => {
  const header = [
    'BYTEORDER      M',
    'LAYOUT         BIL',
    'NROWS          2',
    'NCOLS          3',
    'NBANDS         1',
    'NBITS          16',
    'PIXELTYPE      SIGNEDINT',
    'SKIPBYTES      4',
    'ULXMAP         400002.5',
    'ULYMAP         5200097.5',
    'XDIM           5',
    'YDIM           5',
    'NODATA         -9999',
  ].join('\r\n');
  const bytes = Buffer.concat([Buffer.alloc(4, 0xff), shorts([-3, 1310, -9999, 2140, 7, 8], true)]);
  const raster = await open('fells.bil', bytes, header, PROJECTED);
  expect(raster.info).toMatchObject({
    format: 'bil',
    width: 3,
    height: 2,
    bitDepth: 16,
    sampleType: 'int',
    byteOrder: 'big',
    noData: -9999,
    mayHoldVoids: true,
    georeference: { x: 400002.5, y: 5200097.5, dx: 5, dy: 5, metres: 0.3048, degrees: false, crs: 'Fells Grid' },
    warnings: [],
  });
  expect(await samples(raster)).toEqual([-3, 1310, NaN, 2140, 7, 8]);
});

test('of several bands the first is read, however they lie', async () => {
  // two bands of 2 × 2: 1 2 / 3 4 and 10 20 / 30 40
  const head = (layout: string) => `NROWS 2\nNCOLS 2\nNBANDS 2\nNBITS 16\nPIXELTYPE UNSIGNEDINT\nLAYOUT ${layout}\n`;
  for (const [layout, values] of [
    ['bil', [1, 2, 10, 20, 3, 4, 30, 40]],
    ['bip', [1, 10, 2, 20, 3, 30, 4, 40]],
    ['bsq', [1, 2, 3, 4, 10, 20, 30, 40]],
  ] as const) {
    const raster = await open(`fells.${layout}`, shorts(values, false), head(layout));
    expect([layout, raster.info.channels, await samples(raster)]).toEqual([layout, 2, [1, 2, 3, 4]]);
    // the ending says it where the header doesn't
    const silent = await open(`fells.${layout}`, shorts(values, false), head(layout).replace(/LAYOUT.*/, ''));
    expect(await samples(silent)).toEqual([1, 2, 3, 4]);
  }
});

test('rows may be longer than their samples', async () => {
  const header = 'NROWS 2\nNCOLS 2\nNBITS 8\nBANDROWBYTES 4\nTOTALROWBYTES 4\n';
  const raster = await open('fells.bil', Uint8Array.of(1, 2, 0, 0, 3, 4), header);
  expect(raster.info).toMatchObject({ sampleType: 'uint', bitDepth: 8, byteOrder: null });
  expect(await samples(raster)).toEqual([1, 2, 3, 4]);
});

test('a grid of floats, placed by its south-western corner', async () => {
  const values = Float32Array.of(1310.5, -9999, 2140.25, 0, -1, 3);
  const header =
    'ncols         3\nnrows         2\nxllcorner     10\nyllcorner     47\ncellsize      0.01\nNODATA_value  -9999\nbyteorder     LSBFIRST\n';
  const raster = await open('fells.flt', new Uint8Array(values.buffer), header, DEGREES);
  expect(raster.info).toMatchObject({
    sampleType: 'float',
    bitDepth: 32,
    byteOrder: 'little',
    registration: 'cell',
    georeference: { dx: 0.01, degrees: true, metres: null, crs: 'Fells 84' },
  });
  expect(raster.info.georeference!.x).toBeCloseTo(10.005, 12);
  expect(raster.info.georeference!.y).toBeCloseTo(47.015, 12);
  expect(await samples(raster)).toEqual([1310.5, NaN, 2140.25, 0, -1, 3]);
});

test('whole numbers of 32 bits keep their last digit beside voids', async () => {
  const bytes = new Uint8Array(Int32Array.of(123456789, -99999, 7, 8).buffer);
  const header = 'NROWS 2\nNCOLS 2\nNBITS 32\nPIXELTYPE SIGNEDINT\nNODATA -99999\n';
  expect(await samples(await open('fells.bil', bytes, header))).toEqual([123456789, NaN, 7, 8]);
});

test('a sign that nobody speaks of is told', async () => {
  const head = 'NROWS 1\nNCOLS 1\nNBITS 16\n';
  const raster = await open('fells.bil', shorts([-3], false), head);
  expect(raster.info).toMatchObject({ sampleType: 'int', warnings: [{ code: 'structure' }] });
});

test.each([
  ['NCOLS 2\nNBITS 16\n', 'corrupt', 'nothing as NROWS'],
  ['NROWS 2\nNCOLS 2.5\n', 'corrupt', '2.5 as NCOLS'],
  ['NROWS two\nNCOLS 2\n', 'corrupt', '"two" as NROWS'],
  ['NROWS 2\nNCOLS 2\nNBITS 12\n', 'unsupported', 'samples of 12 bits'],
  ['NROWS 2\nNCOLS 2\nNBITS 16\nPIXELTYPE COMPLEX\n', 'corrupt', '"COMPLEX" as PIXELTYPE'],
  ['NROWS 2\nNCOLS 2\nNBITS 16\nPIXELTYPE FLOAT\n', 'corrupt', 'floats of 16 bits'],
  ['NROWS 2\nNCOLS 2\nLAYOUT ZIGZAG\n', 'corrupt', '"ZIGZAG" as LAYOUT'],
  ['NROWS 2\nNCOLS 2\nBYTEORDER X\n', 'corrupt', '"X" as BYTEORDER'],
  ['NROWS 2\nNCOLS 2\nBANDROWBYTES 1\n', 'corrupt', 'rows of 1 bytes'],
  ['NROWS 9\nNCOLS 2\nNBITS 16\n', 'raw-length', '8 bytes'],
  ['NROWS 900000\nNCOLS 2\n', 'too-large', '900000'],
])('%j is refused', async (header, code, found) => {
  const error = await faultOf(() => open('fells.bil', new Uint8Array(8), header));
  expect(error).toMatchObject({ code });
  expect(error.found).toContain(found);
});

test('without its header it is asked for by name', async () => {
  const error = await faultOf(() => openHeightFile(memorySource('fells.flt', new Uint8Array(8))));
  expect(error).toMatchObject({ code: 'raw-layout', file: 'fells.flt', expected: 'fells.hdr beside it' });
});

describe('files held as one', () => {
  const parts = [memorySource('fells.bil', Uint8Array.of(1, 2, 3, 4)), text('fells.hdr', 'NROWS 2\nNCOLS 2\n')];
  const joined = async (): Promise<Buffer> =>
    Buffer.concat([bundleHead(parts), ...(await Promise.all(parts.map((p) => p.read(0, p.size))))]);

  test('come apart as they were, and know each other', async () => {
    const found = await partsOf(memorySource('fells.bil', await joined()));
    expect(found.map((p) => [p.name, p.size])).toEqual([
      ['fells.bil', 4],
      ['fells.hdr', 16],
    ]);
    expect(await samples(await openHeightFile(found[0]!))).toEqual([1, 2, 3, 4]);
    // nobody reads beyond a part
    expect([...(await found[0]!.read(2, 100))]).toEqual([3, 4]);
  });
  test('any other file is itself', async () => {
    const alone = memorySource('fells.raw', Uint8Array.of(1, 2, 3));
    expect(await partsOf(alone)).toEqual([alone]);
  });
  test('a list that fits not what follows is refused', async () => {
    const whole = await joined();
    for (const bytes of [whole.subarray(0, whole.length - 1), whole.subarray(0, 20), Buffer.concat([whole, whole])])
      await expect(partsOf(memorySource('fells.bil', bytes))).rejects.toBeInstanceOf(LevelGridError);
  });
});
