/**
 * What a small file can make the program hold: the worst picture that is taken, and the worst that is refused. Their
 * memory is printed; limits are in bytes of unpacked samples.
 */
import { closeSync, mkdtempSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import zlib from 'node:zlib';
import { measured } from '../helpers/peak';

const CLI = path.resolve('dist/cli.mjs');
/** An interlaced picture is held whole: so much for its samples, and as much again for the program and a band or two. */
const SAMPLES_MB = 512;
const PROGRAM_MB = 300;
let folder: string;
const told: string[] = [];

function chunk(type: string, data: Uint8Array): Buffer {
  const out = Buffer.alloc(12 + data.length);
  out.writeUInt32BE(data.length);
  out.write(type, 4, 'latin1');
  out.set(data, 8);
  out.writeUInt32BE(zlib.crc32(out.subarray(4, 8 + data.length)), 8 + data.length);
  return out;
}

/** Zlib data that unpacks to so many zero bytes, as small as it can be: whole pieces that are all the same (RFC 1950, 1951). */
function zeros(bytes: number): Buffer {
  const PIECE = 1 << 20;
  const packed = (n: number, finishFlush: number): Buffer =>
    zlib.deflateRawSync(Buffer.alloc(n), { level: 9, finishFlush });
  const whole = packed(PIECE, zlib.constants.Z_FULL_FLUSH);
  const sum = Buffer.alloc(4);
  // of zeros the first sum stays 1 and the second counts them
  sum.writeUInt32BE((((bytes % 65521) << 16) | 1) >>> 0);
  return Buffer.concat([
    Buffer.of(0x78, 0xda),
    ...Array.from({ length: Math.floor(bytes / PIECE) }, () => whole),
    packed(bytes % PIECE, zlib.constants.Z_FINISH),
    sum,
  ]);
}

/** A grey picture that claims so many samples; what it holds is given. */
function picture(name: string, side: number, depth: number, data: Uint8Array): string {
  const header = Buffer.alloc(13);
  header.writeUInt32BE(side, 0);
  header.writeUInt32BE(side, 4);
  header.set([depth, 0, 0, 0, 1], 8);
  const file = path.join(folder, name);
  const handle = openSync(file, 'w');
  writeSync(handle, Uint8Array.of(137, 80, 78, 71, 13, 10, 26, 10));
  for (const part of [chunk('IHDR', header), chunk('IDAT', data), chunk('IEND', Buffer.alloc(0))])
    writeSync(handle, part);
  closeSync(handle);
  return file;
}

beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-memory-'));
});
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
  process.stderr.write(`${told.join('\n')}\n`);
});

test('the worst interlaced picture that is accepted stays within the stated memory', async () => {
  // 16 bits, 16384 × 16384: two bytes a sample and a filter byte for each row of each pass
  const side = 16384;
  const rows = (side / 8) * 2 + side / 4 + (side / 4) * 1 + side / 2 + side / 2 + side / 2;
  const file = picture('worst.png', side, 16, zeros(side * side * 2 + rows));
  writeFileSync(
    path.join(folder, 'r.json'),
    JSON.stringify({ version: 2, source: { low: 0, high: 500, spacing: 1 }, target: 'odd-grid', fit: { size: 513 } }),
  );
  const seen = await measured([CLI, 'inspect', file, '--json']);
  expect(seen.err).toBe('');
  expect(JSON.parse(seen.out)).toMatchObject({ files: [{ width: side, height: side, max: 0 }] });
  const planned = await measured([CLI, 'plan', file, '--recipe', path.join(folder, 'r.json'), '--json']);
  expect(planned.code).toBe(0);
  for (const [what, { peak, seconds }] of [
    ['inspected', seen],
    ['planned', planned],
  ] as const) {
    told.push(`accepted, ${what}: 16384 × 16384, 16 bits, interlaced: ${peak?.toFixed(0)} MB, ${seconds.toFixed(1)} s`);
    expect(peak ?? 0).toBeLessThan(SAMPLES_MB + PROGRAM_MB);
  }
}, 180_000);

test('what needs more is refused by both numbers before anything of it is unpacked', async () => {
  const small = picture('small.png', 5, 16, zlib.deflateSync(Buffer.alloc(5 * 11)));
  const base = await measured([CLI, 'inspect', small, '--json']);
  const data = zeros(3 * 2 ** 29);
  const file = picture('refused.png', 39000, 8, data);
  const refused = await measured([CLI, 'inspect', file, '--json']);
  expect(JSON.parse(refused.out)).toMatchObject({
    files: [
      {
        error: {
          code: 'too-large',
          found: expect.stringContaining('1521000000 bytes'),
          expected: expect.stringContaining('536870912'),
        },
      },
    ],
  });
  told.push(
    `refused: 39000 × 39000, interlaced, ${(data.length / 1e6).toFixed(1)} MB: ${refused.peak?.toFixed(0)} MB, where a picture of 5 × 5 takes ${base.peak?.toFixed(0)} MB`,
  );
  if (refused.peak !== null && base.peak !== null) expect(refused.peak).toBeLessThan(base.peak + 60);
}, 60_000);
