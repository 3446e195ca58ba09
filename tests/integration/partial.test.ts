/** Damaged files of which rows can be read: refused as ever, and read as far as they go where that was agreed. */
import { MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { prove } from '@/core/proof';
import { countSource, openReading, run } from '@/core/run';
import { faultOf, hills, pngSource, recipeWith } from '../helpers/rasters';
import { writeExr } from '../helpers/write-exr';
import { writeTiff } from '../helpers/write-tiff';

// whole packs are written and proved here: that takes a while on a busy machine
jest.setTimeout(60_000);

const [WIDTH, HEIGHT] = [900, 900];
const codes = hills(WIDTH, HEIGHT);
const at = (x: number, y: number): number => codes[y * WIDTH + x]!;
const cut = (bytes: Uint8Array, share: number): Uint8Array => bytes.subarray(0, Math.floor(bytes.length * share));

const png = async (): Promise<Uint8Array> => {
  const source = await pngSource(codes, WIDTH);
  return source.read(0, source.size);
};
const tiff = (): Promise<Uint8Array> =>
  Promise.resolve(
    writeTiff({ width: WIDTH, height: HEIGHT, type: 'uint', bits: 16, compression: 8, rowsPerStrip: 10 }, at),
  );
/** A strip in the middle of the file, overwritten. */
const torn = async (): Promise<Uint8Array> => {
  const bytes = Uint8Array.from(await tiff());
  return bytes.fill(0xaa, bytes.length >> 1, (bytes.length >> 1) + 4000);
};
const exr = (): Promise<Uint8Array> =>
  Promise.resolve(
    writeExr([
      [
        { width: WIDTH, height: HEIGHT, channels: [{ name: 'Y', type: 'float' }], compression: 'ZIP' },
        (_, x, y) => at(x, y),
      ],
    ]),
  );
const asc = (): Promise<Uint8Array> =>
  Promise.resolve(
    new TextEncoder().encode(
      `ncols ${WIDTH}\nnrows ${HEIGHT}\nxllcorner 0\nyllcorner 0\ncellsize 2.5\n` +
        Array.from({ length: HEIGHT }, (_, y) => [...codes.subarray(y * WIDTH, (y + 1) * WIDTH)].join(' ')).join('\n'),
    ),
  );

test.each([
  ['tarn.png', async () => cut(await png(), 0.6)],
  ['tarn.tif', torn],
  ['tarn.exr', async () => cut(await exr(), 0.6)],
  ['tarn.asc', async () => cut(await asc(), 0.97)],
])('%s: the rows before the fault are as they were, the rest are voids', async (name, make) => {
  const source: ByteSource = memorySource(name, await make());
  const refused = await faultOf(() => countSource(source));
  expect(['truncated', 'corrupt', 'checksum']).toContain(refused.code);
  const { facts, opened } = await countSource(source, { partial: true });
  expect(facts.info).toMatchObject({ width: WIDTH, height: HEIGHT, partial: true });
  const told = facts.warnings.find((w) => w.code === 'missing-rows')!;
  const from = Number(/^Rows (\d+) to 899 can’t be read/.exec(told.message)?.[1]);
  expect(from).toBeGreaterThan(200);
  expect(facts.stats!.voids).toBe((HEIGHT - from) * WIDTH);
  let different = 0;
  for await (const { y, rows, data } of opened.bands())
    for (let i = 0; i < rows * WIDTH; i++)
      if (
        !Object.is(Number(data[i]), y + Math.floor(i / WIDTH) < from ? at(i % WIDTH, y + Math.floor(i / WIDTH)) : NaN)
      )
        different++;
  expect(different).toBe(0);
});

test('where nothing can be read the file is refused all the same', async () => {
  const source = memorySource('tarn.png', cut(await png(), 0.01));
  const opened = await openReading(source, { partial: true });
  await expect(
    (async () => {
      for await (const band of opened.bands()) expect(band.rows).toBeGreaterThan(0);
    })(),
  ).rejects.toMatchObject({ code: 'truncated' });
});

test('a pack of it asks for an elevation of voids, and is proved with one', async () => {
  const source = memorySource('tarn.png', cut(await png(), 0.6));
  const parts = { source: { partial: true }, fit: { size: 253 } };
  expect((await faultOf(() => run(recipeWith(parts), source, new MemoryFolder()))).code).toBe('voids');
  const folder = new MemoryFolder();
  await run(recipeWith({ ...parts, fit: { size: 253, voids: 1310 } }), source, folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
  expect(proof.holds).toBe(true);
});
