import sharp from 'sharp';
import { MemoryFolder, memorySource } from '../../src/core/base';
import { openHeightFile, PngWriter } from '../../src/core/formats';
import { heightsOf, resample } from '../../src/core/raster';
import { parseRecipe } from '../../src/core/recipe';
import { run } from '../../src/core/run';
import { terrainCodes } from './material';

export interface Row {
  readonly job: string;
  readonly side: number;
  /** Medians of the interleaved runs, milliseconds. */
  readonly ours: number;
  readonly sharp: number;
  readonly ratio: number;
  readonly bytes: number | null;
  readonly sharpBytes: number | null;
}

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;

async function timed<T>(work: () => Promise<T>): Promise<{ ms: number; value: T }> {
  const start = performance.now();
  const value = await work();
  return { ms: performance.now() - start, value };
}

async function encode(codes: Uint16Array, side: number): Promise<Uint8Array> {
  const folder = new MemoryFolder();
  const writer = await PngWriter.open(await folder.open('o'), side, side);
  for (let at = 0; at < codes.length; at += side * 128) await writer.write(codes.subarray(at, at + side * 128));
  await writer.close();
  await folder.commit();
  return folder.files.get('o')!;
}

async function decode(bytes: Uint8Array, side: number): Promise<Uint16Array> {
  const out = new Uint16Array(side * side);
  const raster = await openHeightFile(memorySource('o.png', bytes));
  for await (const band of raster.bands()) out.set(band.data, band.y * side);
  return out;
}

const rawGrey = async (bytes: Uint8Array): Promise<Uint16Array> => {
  const raw = await sharp(bytes).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer();
  return new Uint16Array(raw.buffer, raw.byteOffset, raw.length / 2);
};
const input = (codes: Uint16Array, side: number) =>
  sharp(codes, { raw: { width: side, height: side, channels: 1 } }).toColourspace('grey16');

function same(a: Uint16Array, b: Uint16Array, what: string): void {
  if (a.length !== b.length) throw new Error(`${what}: ${a.length} samples, not ${b.length}`);
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) throw new Error(`${what}: sample ${i} differs`);
}

/** Every job at one size, ours and sharp's by turns. Decoded bytes are compared in every run. */
export async function benchSize(side: number, runs: number): Promise<Row[]> {
  sharp.concurrency(2);
  sharp.cache(false);
  const codes = terrainCodes(side);
  const file = new Uint8Array(
    await input(codes, side).png({ adaptiveFiltering: true, compressionLevel: 6 }).toBuffer(),
  );
  const to = 2033;
  const recipe = parseRecipe({
    version: 1,
    name: 'b',
    source: { low: 0, high: 800, spacing: 1 },
    target: 'component-grid',
    fit: { size: to, clamp: true },
  });
  const rows: Row[] = [];
  const bench = async (
    job: string,
    ours: () => Promise<number | null>,
    theirs: () => Promise<number | null>,
  ): Promise<void> => {
    const a: number[] = [];
    const b: number[] = [];
    let bytes: number | null = null;
    let sharpBytes: number | null = null;
    for (let i = 0; i < runs + 1; i++) {
      const x = await timed(ours);
      const y = await timed(theirs);
      bytes = x.value;
      sharpBytes = y.value;
      // the first turn warms both up
      if (i === 0) continue;
      a.push(x.ms);
      b.push(y.ms);
    }
    rows.push({
      job,
      side,
      ours: median(a),
      sharp: median(b),
      ratio: median(a.map((v, i) => v / b[i]!)),
      bytes,
      sharpBytes,
    });
  };
  await bench(
    'decode PNG',
    async () => (same(await decode(file, side), codes, 'decode'), null),
    async () => (same(await rawGrey(file), codes, 'sharp decode'), null),
  );
  const opened = await openHeightFile(memorySource('o.png', file));
  const held = {
    ...opened,
    bands: async function* () {
      yield { y: 0, rows: side, data: codes };
    },
  };
  await bench(
    `resample Lanczos-3 → ${to}`,
    async () => {
      for await (const band of resample(heightsOf(held, 0), {
        width: to,
        height: to,
        filter: 'lanczos3',
        clamp: null,
        voids: false,
      }).bands())
        if (band.data[0] === undefined) throw new Error('empty');
      return null;
    },
    async () => {
      await input(codes, side).resize(to, to, { kernel: 'lanczos3', fit: 'fill' }).raw({ depth: 'ushort' }).toBuffer();
      return null;
    },
  );
  await bench(
    'encode PNG (against adaptive, level 6)',
    async () => {
      const bytes = await encode(codes, side);
      same(await rawGrey(bytes), codes, 'encode');
      return bytes.length;
    },
    async () => {
      const bytes = await input(codes, side).png({ adaptiveFiltering: true, compressionLevel: 6 }).toBuffer();
      same(await rawGrey(bytes), codes, 'sharp encode');
      return bytes.length;
    },
  );
  await bench(
    `whole job: PNG → ${to} PNG (against adaptive, level 6)`,
    async () => {
      const folder = new MemoryFolder();
      await run(recipe, memorySource('o.png', file), folder);
      return folder.files.get('b.png')!.length;
    },
    async () =>
      (
        await sharp(file)
          .toColourspace('grey16')
          .resize(to, to, { kernel: 'lanczos3', fit: 'fill' })
          .png({ adaptiveFiltering: true, compressionLevel: 6 })
          .toBuffer()
      ).length,
  );
  return rows;
}
