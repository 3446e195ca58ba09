import { LevelGridError, memorySource } from '../../base';
import type { OpenRaster } from '../../raster';
import { openHeightFile } from '../registry';

const open = (head: string, samples: Uint8Array, name = 'tarn.pgm'): Promise<OpenRaster> =>
  openHeightFile(memorySource(name, Buffer.concat([Buffer.from(head, 'latin1'), samples])));

async function samplesOf(raster: OpenRaster): Promise<number[]> {
  const out: number[] = [];
  for await (const { data } of raster.bands()) for (const v of data) out.push(Number(v));
  return out;
}

/** 3 × 2 samples of 4 bytes. */
function floats(values: readonly number[], little: boolean): Uint8Array {
  const out = new Uint8Array(values.length * 4);
  const view = new DataView(out.buffer);
  values.forEach((v, i) => view.setFloat32(i * 4, v, little));
  return out;
}

test('PGM of 8 and 16 bits, with comments between its numbers', async () => {
  const eight = await open('P5 # made by hand\n3\n# rows\n2 255\n', Uint8Array.of(0, 1, 2, 253, 254, 255));
  expect(eight.info).toMatchObject({
    format: 'netpbm',
    width: 3,
    height: 2,
    bitDepth: 8,
    byteOrder: null,
    warnings: [],
  });
  expect(await samplesOf(eight)).toEqual([0, 1, 2, 253, 254, 255]);
  const sixteen = await open('P5\n3 2\n65535\n', Uint8Array.of(1, 0, 0, 1, 255, 255, 0, 0, 128, 0, 0, 128));
  expect(sixteen.info).toMatchObject({ bitDepth: 16, byteOrder: 'big' });
  expect(await samplesOf(sixteen)).toEqual([256, 1, 65535, 0, 32768, 128]);
});

test('a highest code of its own is said, and read as it is', async () => {
  const raster = await open('P5\n2 1\n1000\n', Uint8Array.of(0, 10, 3, 232));
  expect(await samplesOf(raster)).toEqual([10, 1000]);
  expect(raster.info.warnings[0]?.message).toContain('calls 1000 its highest code');
});

test('PFM: rows from the south, in both byte orders', async () => {
  for (const little of [true, false]) {
    const raster = await open(
      `Pf\n3 2\n${little ? '-1.0' : '1.0'}\n`,
      floats([4, 5, 6.5, 1, 2, NaN], little),
      'tarn.pfm',
    );
    expect(raster.info).toMatchObject({ sampleType: 'float', bitDepth: 32, byteOrder: little ? 'little' : 'big' });
    expect(await samplesOf(raster)).toEqual([1, 2, NaN, 4, 5, 6.5]);
  }
});

test('PFM of many bands is turned round as a whole', async () => {
  const [width, height] = [2100, 300];
  const values = Array.from({ length: width * height }, (_, i) => Math.floor(i / width) * 10 + (i % width) / 4096);
  const found = await samplesOf(await open(`Pf\n${width} ${height}\n-1\n`, floats(values, true), 'tarn.pfm'));
  for (const [x, y] of [
    [0, 0],
    [2099, 0],
    [77, 150],
    [5, 299],
  ] as const)
    expect(found[y * width + x]).toBe(Math.fround((height - 1 - y) * 10 + x / 4096));
});

test('of colours the first is read, and that is said', async () => {
  const raster = await open('P6\n2 1\n255\n', Uint8Array.of(1, 2, 3, 4, 5, 6), 'tarn.ppm');
  expect(await samplesOf(raster)).toEqual([1, 4]);
  expect(raster.info.warnings[0]?.message).toContain('3 channels');
});

test.each([
  ['P5\n3 2\n255\n', 5, 'truncated', 'found 16 bytes'],
  ['P5\n0 2\n255\n', 5, 'corrupt', '0 × 2'],
  ['P5\n70000 2\n255\n', 5, 'too-large', '70000 × 2'],
  ['P5\n3 2\n70000\n', 12, 'corrupt', '70000 as the highest value'],
  ['P5\n3 two\n255\n', 12, 'corrupt', '"two" in the header'],
  ['Pf\n3 2\n0\n', 24, 'corrupt', 'a scale of 0'],
])('%j with %i bytes is refused', async (head, bytes, code, words) => {
  const error = await open(head, new Uint8Array(bytes)).then(
    () => null,
    (reason: unknown) => reason as LevelGridError,
  );
  expect(error).toBeInstanceOf(LevelGridError);
  expect([error?.code, error?.file]).toEqual([code, 'tarn.pgm']);
  expect(error?.message).toContain(words);
});
