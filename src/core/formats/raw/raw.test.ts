import fc from 'fast-check';
import { memorySource, MemoryFolder } from '../../base';
import { openHeightFile, parseRawLayout, RawWriter } from '..';
import { guessRaw } from './guess';
import { faultOf, hills, rawBytes } from '../../../../tests/helpers/rasters';

async function samplesOf(bytes: Uint8Array, layout?: string): Promise<number[]> {
  const raster = await openHeightFile(
    memorySource('t.raw', bytes),
    layout === undefined ? undefined : parseRawLayout(layout),
  );
  const out: number[] = [];
  for await (const band of raster.bands()) out.push(...band.data);
  return out;
}

describe('guessing a headerless file', () => {
  test.each([
    ['little', 200, 200],
    ['big', 200, 200],
    ['big', 240, 160],
    ['little', 129, 257],
  ] as const)('%s-endian, %i × %i', async (order, w, h) => {
    const guess = await guessRaw(memorySource('t.raw', rawBytes(hills(w, h), order)));
    expect(guess.layout).toEqual({ width: w, height: h, type: 'u16', byteOrder: order, skip: 0 });
    expect(guess.certainty).toBeGreaterThan(0);
  });
  test('8 bits', async () => {
    const eight = Uint8Array.from(hills(180, 180), (c) => c >> 8);
    expect((await guessRaw(memorySource('t.raw', eight))).layout).toMatchObject({
      width: 180,
      height: 180,
      type: 'u8',
    });
  });
  test('flat ground is a square', async () => {
    expect((await guessRaw(memorySource('t.raw', new Uint8Array(2 * 64 * 64)))).layout).toMatchObject({
      width: 64,
      height: 64,
    });
  });
  test('a length that fits nothing says so and how to go on', async () => {
    const error = await faultOf(() => samplesOf(new Uint8Array(100003)));
    expect(error).toMatchObject({ code: 'raw-length', file: 't.raw' });
    expect(error.remedy).toContain('State its layout');
  });
});

describe('a stated layout', () => {
  test('every type and order is read as DataView reads it', async () => {
    const readers = {
      u8: 'getUint8',
      i8: 'getInt8',
      u16: 'getUint16',
      i16: 'getInt16',
      u32: 'getUint32',
      i32: 'getInt32',
      f32: 'getFloat32',
      f64: 'getFloat64',
    } as const;
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...(Object.keys(readers) as (keyof typeof readers)[])),
        fc.boolean(),
        fc.integer({ min: 0, max: 9 }),
        async (type, little, skip) => {
          const size = Number(type.slice(1)) / 8;
          const bytes = Uint8Array.from({ length: skip + 5 * 3 * size }, (_, i) => (i * 53 + 7) & 63);
          const view = new DataView(bytes.buffer);
          const expected = Array.from({ length: 15 }, (_, i) => view[readers[type]](skip + i * size, little));
          expect(await samplesOf(bytes, `5,3,${type},${little ? 'little' : 'big'},${skip}`)).toEqual(expected);
        },
      ),
    );
  });
  test('a wrong length names both numbers', async () => {
    const error = await faultOf(() => samplesOf(new Uint8Array(100), '7,8,u16,little'));
    expect(error).toMatchObject({ code: 'raw-length', found: '100 bytes' });
    expect(error.expected).toContain('112');
  });
  test.each([
    '7,8,u16',
    '7,8,u17,little',
    '7,8,u16,middle',
    '0,8,u16,little',
    '7,8,u16,little,-1',
    '7,8,u16,little,0,1',
    'a,b,c,d',
  ])('%s is no layout', async (text) => {
    expect((await faultOf(() => parseRawLayout(text))).code).toBe('usage');
  });
});

test.each(['little', 'big'] as const)('codes are written %s-endian', async (order) => {
  const codes = hills(13, 7);
  const folder = new MemoryFolder();
  const writer = new RawWriter(await folder.open('o'), order);
  await writer.write(codes.subarray(0, 39));
  await writer.write(codes.subarray(39));
  await writer.close();
  await folder.commit();
  expect([...folder.files.get('o')!]).toEqual([...rawBytes(codes, order)]);
});
