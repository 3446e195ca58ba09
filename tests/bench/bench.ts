import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { MemoryFolder } from '../../src/core/base';
import { openHeightFile, PngWriter } from '../../src/core/formats';
import { quantise } from '../../src/core/height';
import { heightsOf, resample } from '../../src/core/raster';
import { parseRecipe } from '../../src/core/recipe';
import { PiecePool, run } from '../../src/core/run';
import { fileSource, nodeInflateThread, nodePieceThread, nodeSha256 } from '../../src/io/node';
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

const pool = new PiecePool(nodePieceThread(path.join(import.meta.dirname, 'piece-worker.mjs')), 2);
const inflateThread = nodeInflateThread(path.join(import.meta.dirname, 'inflate-worker.mjs'));
const pieces = { encode: pool.encode, inFlight: 4 };

async function encode(codes: Uint16Array, side: number, preset: 'fast' | 'default'): Promise<Uint8Array> {
  const folder = new MemoryFolder();
  const writer = await PngWriter.open(await folder.open('o'), side, side, { preset, ...pieces });
  for (let at = 0; at < codes.length; at += side * 128) await writer.write(codes.subarray(at, at + side * 128));
  await writer.close();
  await folder.commit();
  return folder.files.get('o')!;
}

async function decode(file: string, side: number): Promise<Uint16Array> {
  const out = new Uint16Array(side * side);
  const raster = await openHeightFile(await fileSource(file, inflateThread));
  for await (const band of raster.bands()) out.set(band.data, band.y * side);
  return out;
}

const rawGrey = async (bytes: Uint8Array | string): Promise<Uint16Array> => {
  const raw = await sharp(bytes).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer();
  return new Uint16Array(raw.buffer, raw.byteOffset, raw.length / 2);
};
const input = (codes: Uint16Array, side: number) =>
  sharp(codes, { raw: { width: side, height: side, channels: 1 } }).toColourspace('grey16');

function same(a: Uint16Array, b: Uint16Array, what: string): void {
  if (a.length !== b.length) throw new Error(`${what}: ${a.length} samples, not ${b.length}`);
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) throw new Error(`${what}: sample ${i} differs`);
}

/** The picture of one size that the jobs read: adaptive row filters, level 6. */
export async function benchFile(side: number): Promise<Uint8Array> {
  return new Uint8Array(
    await input(terrainCodes(side), side).png({ adaptiveFiltering: true, compressionLevel: 6 }).toBuffer(),
  );
}

/** Every job at one size, ours and sharp's by turns. Decoded bytes are compared in every run. */
export async function benchSize(side: number, runs: number): Promise<Row[]> {
  sharp.concurrency(2);
  sharp.cache(false);
  const codes = terrainCodes(side);
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-bench-'));
  const file = path.join(folder, 'o.png');
  writeFileSync(file, await input(codes, side).png({ adaptiveFiltering: true, compressionLevel: 6 }).toBuffer());
  const tiff = path.join(folder, 'o.tif');
  await input(codes, side).tiff({ compression: 'deflate', predictor: 'horizontal' }).toFile(tiff);
  try {
    return await benchFileOf(file, tiff, codes, side, runs);
  } finally {
    rmSync(folder, { recursive: true });
  }
}

async function benchFileOf(file: string, tiff: string, codes: Uint16Array, side: number, runs: number): Promise<Row[]> {
  const to = 2033;
  const recipe = parseRecipe({
    version: 1,
    name: 'b',
    source: { low: 0, high: 800, spacing: 1 },
    target: 'component-grid',
    fit: { size: to, clamp: true },
  });
  const rows: Row[] = [];
  /** `ours` and `theirs` are timed; what they give is checked afterwards, in every run. */
  const bench = async <T, U>(
    job: string,
    ours: () => Promise<T>,
    theirs: () => Promise<U>,
    check: (a: T, b: U) => Promise<[number, number] | null>,
  ): Promise<void> => {
    const a: number[] = [];
    const b: number[] = [];
    let sizes: [number, number] | null = null;
    for (let i = 0; i < runs + 1; i++) {
      const x = await timed(ours);
      const y = await timed(theirs);
      sizes = await check(x.value, y.value);
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
      bytes: sizes?.[0] ?? null,
      sharpBytes: sizes?.[1] ?? null,
    });
  };
  await bench(
    'decode PNG',
    () => decode(file, side),
    () => rawGrey(file),
    async (a, b) => {
      same(a, codes, 'decode');
      same(b, codes, 'sharp decode');
      return null;
    },
  );
  const opened = await openHeightFile(await fileSource(file));
  const held = {
    ...opened,
    bands: async function* () {
      for (let y = 0; y < side; y += 128)
        yield { y, rows: Math.min(128, side - y), data: codes.subarray(y * side, Math.min(side, y + 128) * side) };
    },
  };
  await bench(
    'decode TIFF (deflate, predictor)',
    () => decode(tiff, side),
    () => rawGrey(tiff),
    async (a, b) => {
      same(a, codes, 'decode');
      same(b, codes, 'sharp decode');
      return null;
    },
  );
  await bench(
    `resample Lanczos-3 → ${to}`,
    async () => {
      const out = new Uint16Array(to * to);
      const q = { stores: 'codes', scale: 1, offset: 0, highest: 65535 } as const;
      for await (const band of resample(heightsOf(held, 0), {
        width: to,
        height: to,
        filter: 'lanczos3',
        clamp: null,
        voids: false,
      }).bands()) {
        quantise(out.subarray(band.y * to, (band.y + band.rows) * to), band.place ?? band.data, q, {
          below: 0,
          above: 0,
          voids: 0,
        });
      }
      return out;
    },
    () => input(codes, side).resize(to, to, { kernel: 'lanczos3', fit: 'fill' }).raw({ depth: 'ushort' }).toBuffer(),
    async () => null,
  );
  const checked = async (a: Uint8Array, b: Uint8Array): Promise<[number, number]> => {
    same(await rawGrey(a), codes, 'encode');
    return [a.length, b.length];
  };
  await bench(
    'encode, fast preset (sharp default)',
    () => encode(codes, side, 'fast'),
    () => input(codes, side).png().toBuffer(),
    checked,
  );
  await bench(
    'encode, default (sharp adaptive, level 6)',
    () => encode(codes, side, 'default'),
    () => input(codes, side).png({ adaptiveFiltering: true, compressionLevel: 6 }).toBuffer(),
    checked,
  );
  const whole = async (): Promise<Uint8Array> => {
    const folder = new MemoryFolder();
    await run(recipe, await fileSource(file, inflateThread), folder, { hasher: nodeSha256, pieces });
    return folder.files.get('b.png')!;
  };
  const theirs = () => sharp(file).toColourspace('grey16').resize(to, to, { kernel: 'lanczos3', fit: 'fill' });
  const read = async (a: Uint8Array, b: Uint8Array): Promise<[number, number]> => {
    if ((await rawGrey(a)).length !== to * to) throw new Error('whole job: wrong size');
    return [a.length, b.length];
  };
  await bench(`whole job → ${to} PNG (sharp default)`, whole, () => theirs().png().toBuffer(), read);
  await bench(
    `whole job → ${to} PNG (sharp adaptive, level 6)`,
    whole,
    () => theirs().png({ adaptiveFiltering: true, compressionLevel: 6 }).toBuffer(),
    read,
  );
  return rows;
}
export { benchMemory } from './memory';
export { benchProcesses } from './processes';
export { benchOthers } from './others';
