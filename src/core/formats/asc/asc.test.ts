import fc from 'fast-check';
import { LevelGridError, memorySource } from '../../base';
import type { OpenRaster } from '../../raster';
import { openHeightFile } from '../registry';
import { openAscii } from './write';

const open = (text: string, name = 'tarn.asc'): Promise<OpenRaster> =>
  openHeightFile(memorySource(name, new TextEncoder().encode(text)));

async function samplesOf(raster: OpenRaster): Promise<number[]> {
  const out: number[] = [];
  for await (const { data } of raster.bands()) out.push(...(data as Float32Array));
  return out;
}

const HEAD = 'ncols 3\nnrows 2\nxllcorner 1000\nyllcorner 2000\ncellsize 2.5\n';

test('corner and centre: the first sample lies in the north-west, in the middle of its cell', async () => {
  const corner = await open(`${HEAD}1 2 3\n4 5 6\n`);
  expect(corner.info).toMatchObject({
    format: 'asc',
    width: 3,
    height: 2,
    sampleType: 'float',
    registration: 'cell',
    georeference: { x: 1001.25, y: 2003.75, dx: 2.5, dy: 2.5, metres: 1, degrees: false },
  });
  const centre = await open(`${HEAD.replaceAll('corner', 'center')}1 2 3\n4 5 6\n`);
  expect(centre.info.registration).toBe('vertex');
  expect(centre.info.georeference).toMatchObject({ x: 1000, y: 2002.5 });
});

test('line ends, capitals, blanks, exponents and signs of other writers', async () => {
  const text =
    '  NCOLS   3\r\nNROWS 2\r\nXLLCENTER 11.5\r\nYLLCENTER 47\r\nCELLSIZE 2.777e-4\r\nNODATA_value -32768\r\n 1.5e+03\t-2.25E-1   +7\r\n\r\n-32768 nan 1e2';
  const raster = await open(text);
  expect(await samplesOf(raster)).toEqual([1500, -0.225, 7, NaN, NaN, 100].map(Math.fround));
  expect(raster.info.georeference).toMatchObject({ degrees: true, metres: null });
});

test('-9999 is no height where the file names none; rows may break anywhere', async () => {
  expect(await samplesOf(await open(`${HEAD}1\n2 -9999\n4 5\n6`))).toEqual([1, 2, NaN, 4, 5, 6]);
});

test('numbers that lie across the pieces in which a file is read', async () => {
  const width = 700;
  const height = 90;
  const values = Array.from({ length: width * height }, (_, i) => Math.round(1e5 * Math.sin(i)) / 100);
  const rows = Array.from({ length: height }, (_, y) => values.slice(y * width, (y + 1) * width).join(' '));
  const bytes = new TextEncoder().encode(`ncols ${width}\nnrows ${height}\ncellsize 1\n${rows.join('\n')}\n`);
  // pieces of 997 bytes, so that they end within numbers
  const source = {
    ...memorySource('tarn.asc', bytes),
    async *stream(offset: number) {
      for (let at = offset; at < bytes.length; at += 997) yield bytes.slice(at, at + 997);
    },
  };
  expect(await samplesOf(await openHeightFile(source))).toEqual(values.map(Math.fround));
});

test.each([
  ['a number missing', `${HEAD}1 2 3\n4 5\n`, 'truncated', 'the end of the file in row 1'],
  ['a word among the heights', `${HEAD}1 2 3\n4 high 6\n`, 'corrupt', '"high" among the heights'],
  ['a comma before the decimals', `${HEAD}1,5 2 3\n4 5 6\n`, 'corrupt', '"1,5" among the heights'],
  ['no width', 'nrows 2\ncellsize 1\n1 2\n', 'corrupt', 'nothing as ncols'],
  ['half a sample', HEAD.replace('3', '2.5') + '1 2 3\n4 5 6\n', 'corrupt', '2.5 as ncols'],
  ['a size that the file can’t hold', HEAD.replace('3', '30000') + '1 2 3\n', 'truncated', '30000 × 2 samples'],
  ['a size that nobody writes', HEAD.replace('3', '90000') + '1 2 3\n', 'too-large', '90000 × 2'],
  ['a token without an end', `${HEAD}${'9'.repeat(5000)}`, 'corrupt', 'among the heights'],
])('%s is refused', async (_, text, code, words) => {
  const error = await open(text)
    .then(samplesOf)
    .then(
      () => null,
      (reason: unknown) => reason as LevelGridError,
    );
  expect(error).toBeInstanceOf(LevelGridError);
  expect([error?.code, error?.file]).toEqual([code, 'tarn.asc']);
  expect(error?.message).toContain(words);
});

test('every float that is written is read back to the bit, in as many bands as there are', async () => {
  const width = 7;
  const place = { origin: [3, 4], across: [2, 0], down: [0, -2], degrees: false, metres: 1, crs: null } as const;
  const bits = fc.integer({ min: 0, max: 0xffffffff }).map((b) => new Float32Array(Uint32Array.of(b).buffer)[0]!);
  const heights = fc.oneof(
    bits.filter(Number.isFinite),
    fc.float({ min: -9000, max: 9000, noNaN: true }),
    fc.constantFrom(0, -0.5, 10, 9.99999, 999999.94, 1e9, -1e9, 0.00001, 1310.05, 123456.78).map(Math.fround),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(heights, { minLength: 35, maxLength: 35 }), async (list) => {
      const parts: Uint8Array[] = [];
      const sink = { write: async (b: Uint8Array) => void parts.push(b.slice()), close: async () => undefined };
      const writer = await openAscii(sink, width, 5, place);
      await writer.write(Float32Array.from(list.slice(0, 21)));
      await writer.write(Float32Array.from(list.slice(21)));
      await writer.close();
      const rows = Buffer.concat(parts).toString('latin1').trimEnd().split('\n').slice(-5);
      expect(rows.flatMap((row) => row.split(' ').map((n) => Math.fround(Number(n))))).toEqual(list.map((v) => v + 0));
    }),
    { numRuns: 400 },
  );
});
