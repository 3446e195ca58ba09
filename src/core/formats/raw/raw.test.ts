import fc from 'fast-check';
import { memorySource, MemoryFolder } from '../../base';
import { openHeightFile, parseRawLayout, RawWriter } from '..';
import { guessRaw, SURE_LEAD } from './guess';
import * as layouts from './layout';
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
    expect(guess.lead).toBeGreaterThan(0);
  });
  test('8 bits', async () => {
    const eight = Uint8Array.from(hills(180, 180), (c) => c >> 8);
    expect((await guessRaw(memorySource('t.raw', eight))).layout).toMatchObject({
      width: 180,
      height: 180,
      type: 'u8',
    });
  });
  /** Samples of any type as headerless bytes. */
  const written = (type: string, values: ArrayLike<number>, little: boolean): Uint8Array => {
    const size = Number(type.slice(1)) / 8;
    const bytes = new Uint8Array(values.length * size);
    const view = new DataView(bytes.buffer);
    const set = { f32: 'setFloat32', u32: 'setUint32', i32: 'setInt32', i16: 'setInt16', u16: 'setUint16' } as const;
    for (let i = 0; i < values.length; i++) view[set[type as keyof typeof set]](i * size, values[i]!, little);
    return bytes;
  };
  const grounds: readonly [string, string, (code: number) => number][] = [
    ['metres', 'f32', (c) => 1310 + (c / 65535) * 830],
    ['metres on both sides of the sea', 'f32', (c) => -40 + (c / 65535) * 90],
    ['0 to 1', 'f32', (c) => c / 65535],
    // the lower half of a fine height has nothing to do with its neighbours’
    ['32 bits unsigned', 'u32', (c) => c * 65536 + ((c * 40503) & 65535)],
    ['metres below and above zero, 16 bits signed', 'i16', (c) => Math.round(c / 16) - 2048],
    ['32 bits signed', 'i32', (c) => (c - 32768) * 30011],
    ['16 bits', 'u16', (c) => c],
  ];
  test.each(
    grounds.flatMap(([what, type, of]) =>
      (
        [
          [1009, 1009],
          [1081, 1081],
          [1025, 513],
          [129, 129],
        ] as const
      ).flatMap(([w, h]) =>
        ([true, false] as const).map((little) => [what, w, h, little ? 'little' : 'big', type, of] as const),
      ),
    ),
  )('%s, %d × %d, %s-endian', async (_, w, h, order, type, of) => {
    const bytes = written(type, Float64Array.from(hills(w, h), of), order === 'little');
    const { layout, lead, next } = await guessRaw(memorySource('t.raw', bytes));
    expect(layout).toEqual({ width: w, height: h, type, byteOrder: order, skip: 0 });
    expect(lead).toBeGreaterThan(0.2);
    expect(lead).toBeLessThanOrEqual(1);
    for (const l of next) expect(layouts.bytesOfRaw(l)).toBe(bytes.length);
  });
  test.each(
    grounds.flatMap(([what, type, of]) =>
      (
        [
          [1009, 1009, 16],
          [1081, 1081, 128],
          [1025, 513, 16],
        ] as const
      ).map(([w, h, skip]) => [what, w, h, skip, type, of] as const),
    ),
  )('%s, %d × %d, behind a header of %d bytes', async (_, w, h, skip, type, of) => {
    const header = Uint8Array.from({ length: skip }, (_v, i) => (i * 37) & 255);
    const bytes = Buffer.concat([header, written(type, Float64Array.from(hills(w, h), of), true)]);
    const { layout, lead } = await guessRaw(memorySource('t.raw', bytes));
    expect(layout).toEqual({ width: w, height: h, type, byteOrder: 'little', skip });
    expect(lead).toBeGreaterThan(0.2);
  });
  test('a width that is not among those that fit is no sure guess', async () => {
    // a header of 50 bytes is none that is tried
    const bytes = Buffer.concat([Buffer.alloc(50), written('u16', Float64Array.from(hills(700, 500)), true)]);
    const guess = await guessRaw(memorySource('t.raw', bytes)).catch(() => null);
    expect(guess?.lead ?? 0).toBeLessThan(SURE_LEAD);
  });
  test('noise is a question: the lead is small, and the opened file says so with what confirms it', async () => {
    let state = 1;
    const noise = Uint8Array.from(
      { length: 64 * 64 * 2 },
      () => (state = (state * 1103515245 + 12345) & 0x7fffffff) >> 16,
    );
    const opened = await openHeightFile(memorySource('t.raw', noise));
    expect(opened.guess!.lead).toBeLessThan(0.3);
    expect(opened.info.warnings).toEqual([
      expect.objectContaining({
        code: 'raw-uncertain',
        repair: { label: 'this is right', edit: 'raw-layout', args: { raw: opened.layout } },
      }),
    ]);
  });
  test('a stated layout that fits to the byte is taken, whatever the file begins with', async () => {
    const bytes = new Uint8Array(32 * 32 * 2);
    bytes.set([137, 80, 78, 71, 13, 10, 26, 10]);
    expect((await samplesOf(bytes, '32,32,u16,big'))[0]).toBe(137 * 256 + 80);
    expect((await faultOf(() => samplesOf(bytes, '32,31,u16,big'))).code).not.toBe('raw-length');
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
