/** The threads of Node as the command line uses them: real ones, running the bundled scripts. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { concatBytes, piecesOf } from '@/core/base';
import { encodePiece, openHeightFile, type PieceTask } from '@/core/formats';
import { PiecePool } from '@/core/run';
import { fileSource, nodeInflateThread, nodePieceThread } from '@/io/node';
import { faultOf, pngSource } from '../helpers/rasters';

const SIDE = 2100;
const script = (name: string): string => path.resolve('dist', name);
let folder: string;
let codes: Uint16Array;
let file: string;

beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-threads-'));
  // noise does not get smaller, so that the file is one for two threads
  let seed = 1;
  codes = Uint16Array.from(
    { length: SIDE * SIDE },
    () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) >>> 16,
  );
  const source = await pngSource(codes, SIDE, 'noise.png', 100);
  file = path.join(folder, 'noise.png');
  writeFileSync(file, await source.read(0, source.size));
});
afterAll(() => rmSync(folder, { recursive: true }));

const bytesOf = (samples: Uint16Array): Uint8Array => new Uint8Array(samples.buffer);

async function samplesOf(thread: ReturnType<typeof nodeInflateThread>, name = file): Promise<Uint16Array> {
  const source = await fileSource(name, thread);
  expect(source.thread).toBeDefined();
  const opened = await openHeightFile(source);
  const samples = new Uint16Array(opened.info.width * opened.info.height);
  for await (const band of opened.bands()) samples.set(band.data, band.y * opened.info.width);
  return samples;
}

test('one thread inflates for several readers at once', async () => {
  const thread = nodeInflateThread(script('inflate-worker.mjs'));
  const found = await Promise.all([samplesOf(thread), samplesOf(thread)]);
  for (const samples of found) expect(Buffer.compare(bytesOf(samples), bytesOf(codes))).toBe(0);
});

test('blocks of a TIFF are decoded by turns, here and over there', async () => {
  const tiff = path.join(folder, 'noise.tif');
  await sharp(codes, { raw: { width: SIDE, height: SIDE, channels: 1 } })
    .toColourspace('grey16')
    .tiff({ compression: 'deflate', predictor: 'horizontal', tile: true })
    .toFile(tiff);
  const thread = nodeInflateThread(script('inflate-worker.mjs'));
  const found = await Promise.all([samplesOf(thread, tiff), samplesOf(thread)]);
  for (const samples of found) expect(Buffer.compare(bytesOf(samples), bytesOf(codes))).toBe(0);
});

test('a small file is left to one thread', async () => {
  const small = path.join(folder, 'small.png');
  const source = await pngSource(codes.subarray(0, 400), 20);
  writeFileSync(small, await source.read(0, source.size));
  expect((await fileSource(small, nodeInflateThread(script('inflate-worker.mjs')))).thread).toBeUndefined();
});

test('a file that is damaged, cut or gone is told with its name, and the next one is read', async () => {
  const thread = nodeInflateThread(script('inflate-worker.mjs'));
  const parts: Uint8Array[] = [];
  for await (const piece of piecesOf(await fileSource(file))) parts.push(piece.slice());
  const bytes = concatBytes(parts);
  expect(Buffer.compare(bytes, readFileSync(file))).toBe(0);
  const bad = path.join(folder, 'bad.png');
  bytes[bytes.length - 3000]! ^= 1;
  writeFileSync(bad, bytes);
  expect(await faultOf(() => samplesOf(thread, bad))).toMatchObject({ code: 'checksum', file: 'bad.png' });
  writeFileSync(bad, bytes.subarray(0, 8_500_000));
  expect(await faultOf(() => samplesOf(thread, bad))).toMatchObject({ code: 'truncated', file: 'bad.png' });
  const opened = await openHeightFile(await fileSource(bad, thread));
  rmSync(bad);
  expect(await faultOf(() => opened.bands().next())).toMatchObject({ code: 'not-found', file: 'bad.png' });
  expect(Buffer.compare(bytesOf(await samplesOf(thread)), bytesOf(codes))).toBe(0);
});

test('a thread that dies is told; the next reader gets a new one', async () => {
  const crashing = path.join(folder, 'crashing.mjs');
  writeFileSync(
    crashing,
    "import { parentPort } from 'node:worker_threads'; parentPort.on('message', () => { throw new Error('gone'); });",
  );
  const thread = nodeInflateThread(crashing);
  for (let turn = 0; turn < 2; turn++) expect((await faultOf(() => samplesOf(thread))).code).toBe('internal');
});

test('threads encode what this one would', async () => {
  const pool = new PiecePool(nodePieceThread(script('piece-worker.mjs')), 2);
  const task = (seed: number): PieceTask => ({
    codes: Uint16Array.from({ length: 64 * 50 }, (_, i) => i * seed),
    width: 64,
    bytes: 2,
    context: 0,
    fromTop: true,
    first: true,
    last: true,
    preset: 'default',
  });
  const found = await Promise.all([1, 2, 3, 4, 5].map((seed) => pool.encode(task(seed))));
  found.forEach((result, i) => expect(result).toEqual(encodePiece(task(i + 1))));
  await pool.end();
});
