import { ByteRing, memorySource, type ByteSource } from '../../base';
import { openHeightFile } from '..';
import { faultOf } from '../../../../tests/helpers/rasters';
import { endedBy, sharedSource } from '../../../../tests/helpers/shared-source';
import { writeTiff, type TiffShape } from '../../../../tests/helpers/write-tiff';

const SIZE = { width: 210, height: 170 };
const KINDS: readonly (Pick<TiffShape, 'type' | 'bits'> & Partial<TiffShape>)[] = [
  { type: 'uint', bits: 16, compression: 8, predictor: 2, rowsPerStrip: 16 },
  { type: 'uint', bits: 8, compression: 32773, rowsPerStrip: 1 },
  { type: 'int', bits: 32, compression: 1, tile: [64, 48] },
  { type: 'float', bits: 32, compression: 8, predictor: 3, tile: [64, 48], tags: [[42113, 2, '-9999']], holes: [3] },
  { type: 'float', bits: 64, compression: 8, rowsPerStrip: 40, little: false },
];
const height = (x: number, y: number): number =>
  x > 150 && y < 20 ? -9999 : ((x * 7 + y * 13) % 120) + Math.abs(y - 60);

const fileOf = (kind: (typeof KINDS)[number]): Uint8Array =>
  writeTiff({ ...SIZE, ...kind }, (x, y) => (!kind.tags ? Math.abs(height(x, y)) % 120 : height(x, y)));

async function samplesOf(source: ByteSource): Promise<number[]> {
  const opened = await openHeightFile(source);
  const samples: number[] = [];
  for await (const band of opened.bands()) for (const v of band.data) samples.push(Number(v));
  return samples;
}

test.each(KINDS)('two threads give the samples that one gives, on every pass: $type $bits', async (kind) => {
  const file = fileOf(kind);
  const one = await samplesOf(memorySource('ground.tif', file));
  const source = sharedSource('ground.tif', file);
  for (let pass = 1; pass <= 2; pass++) {
    expect(await samplesOf(source)).toEqual(one);
    await endedBy(source, pass);
    expect([source.asked, source.ended]).toEqual([pass, pass]);
  }
  // what says that it holds nothing, and a block that was left out
  expect(one.filter((v) => v !== v)).toHaveLength(kind.tags ? 59 * 20 - 18 * 20 + 18 * 48 : 0);
});

test('few blocks are left to one thread', async () => {
  const source = sharedSource('ground.tif', fileOf({ type: 'uint', bits: 16, rowsPerStrip: 60 }));
  expect(await samplesOf(source)).toHaveLength(SIZE.width * SIZE.height);
  expect(source.asked).toBe(0);
});

/** Where the bytes of each strip lie, as the file itself says (TIFF 6.0: tags 273 and 279, numbers of 32 bits). */
function strips(file: Uint8Array): { at: number; length: number }[] {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength);
  const directory = view.getUint32(4, true);
  const list = (wanted: number): number[] => {
    for (let i = 0; i < view.getUint16(directory, true); i++) {
      const entry = directory + 2 + i * 12;
      if (view.getUint16(entry, true) !== wanted) continue;
      const place = view.getUint32(entry + 8, true);
      return Array.from({ length: view.getUint32(entry + 4, true) }, (_, k) => view.getUint32(place + k * 4, true));
    }
    throw new Error(`no tag ${wanted}`);
  };
  const lengths = list(279);
  return list(273).map((at, i) => ({ at, length: lengths[i]! }));
}

test('what is wrong with a file is told as by one thread, whoever meets it', async () => {
  const file = fileOf(KINDS[0]!);
  const found = strips(file);
  expect(found).toHaveLength(11);
  for (const block of [0, 1, 4, 9]) {
    const bad = file.slice();
    const { at, length } = found[block]!;
    bad[at + length - 1]! ^= 1;
    const one = await faultOf(() => samplesOf(memorySource('ground.tif', bad)));
    const source = sharedSource('ground.tif', bad);
    const two = await faultOf(() => samplesOf(source));
    expect(two.toRecord()).toEqual(one.toRecord());
    expect(two).toMatchObject({ code: 'corrupt', file: 'ground.tif' });
    expect(source.asked).toBe(1);
  }
});

test('who stops in the middle stops the other thread too', async () => {
  const source = sharedSource(
    'ground.tif',
    writeTiff({ width: 600, height: 600, type: 'float', bits: 64, rowsPerStrip: 64 }, (x, y) => x * y),
  );
  const opened = await openHeightFile(source);
  for await (const band of opened.bands()) if (band.y >= 0) break;
  await endedBy(source, 1);
  expect([source.asked, source.ended]).toEqual([1, 1]);
});

test('a thread that dies at its work is told, and nobody waits for it; of one that never began nothing is missing', async () => {
  const file = fileOf(KINDS[0]!);
  const near = memorySource('ground.tif', file);
  const dying = (taken: number): ByteSource => ({
    ...near,
    thread: {
      inflate: (_format: string, memory: SharedArrayBuffer) => {
        for (let n = 0; n < taken; n++) new ByteRing(memory).number();
        return Promise.reject(new Error('out of memory'));
      },
    },
  });
  expect((await faultOf(() => samplesOf(dying(1)))).code).toBe('internal');
  expect(await samplesOf(dying(0))).toEqual(await samplesOf(near));
});

test('of two faults the one that lies nearer to the north is told, though the other is met first', async () => {
  const bad = fileOf(KINDS[0]!).slice();
  const found = strips(bad);
  for (const block of [3, 4]) bad[found[block]!.at + found[block]!.length - 1]! ^= 1;
  // a thread that takes blocks 1 to 3 and delivers none until this one has met the fault in block 4
  const near = memorySource('ground.tif', bad);
  const whole = await samplesOf(memorySource('ground.tif', fileOf(KINDS[0]!)));
  const source: ByteSource = {
    ...near,
    thread: {
      inflate: async (_format: string, memory: SharedArrayBuffer) => {
        const ring = new ByteRing(memory);
        expect([ring.number(), ring.number(), ring.number()]).toEqual([1, 2, 3]);
        for (let i = 0; i < 50; i++) await new Promise((resolve) => setImmediate(resolve));
        const strip = SIZE.width * 16;
        await ring.write(new Uint8Array(Uint16Array.from(whole.slice(strip, 3 * strip)).buffer));
        ring.end();
        throw new Error('block 3');
      },
    },
  };
  // what it says of itself, not the fault of block 4
  expect((await faultOf(() => samplesOf(source))).toRecord()).toMatchObject({ code: 'internal' });
});
