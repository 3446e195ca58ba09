/** A note in plain words that lies beside height files, in an archive or a folder, from the command line. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { zipSync } from 'fflate';
import { callIn } from '../helpers/cli';
import { pngSource } from '../helpers/rasters';

const SIDE = 33;
const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-notes-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const codes = Uint16Array.from({ length: SIDE * SIDE }, (_, i) => Math.round((i * 65535) / (SIDE * SIDE - 1)));
const NOTE =
  'Wend Fells, taken in autumn.\nLowest elevation 1310 m, highest 1640 m.\nOne sample every 4 m: 4 m per sample.\n';

beforeAll(async () => {
  const bytes = async (values: Uint16Array): Promise<Uint8Array> => {
    const png = await pngSource(values, SIDE);
    return png.read(0, png.size);
  };
  const text = new TextEncoder().encode(NOTE);
  writeFileSync(path.join(folder, 'fells.zip'), zipSync({ 'data/fells.png': await bytes(codes), 'notes.txt': text }));
  writeFileSync(
    path.join(folder, 'narrow.zip'),
    zipSync({ 'narrow.png': await bytes(codes.map((c) => 10_000 + (c >> 1))), 'notes.txt': text }),
  );
  writeFileSync(path.join(folder, 'loose.png'), await bytes(codes));
  writeFileSync(path.join(folder, 'loose.txt'), NOTE);
  writeFileSync(path.join(folder, 'other.png'), await bytes(codes));
});

test.each([['fells.zip'], ['loose.png']])('%s: the heights are metres, as the note says', (file) => {
  const { code, json } = callIn(folder, 'bring-in', file, '--out', 'fells.r32');
  expect(code).toBe(0);
  expect(json).toMatchObject({
    spacing: 4,
    warnings: [],
    noted: {
      low: 1310,
      high: 1640,
      lines: ['Lowest elevation 1310 m, highest 1640 m.', 'One sample every 4 m: 4 m per sample.'],
    },
  });
  const found = readFileSync(path.join(folder, 'fells.r32'));
  for (const i of [0, 1, 500, SIDE * SIDE - 1])
    expect(found.readFloatLE(i * 4)).toBe(Math.fround(1310 + (codes[i]! * 330) / 65535));
});

test('inspect tells the note and its lines; the spacing is that of the note', () => {
  const { json } = callIn(folder, 'inspect', 'fells.zip');
  expect(json.files).toMatchObject([
    { members: [{ file: 'data/fells.png', spacing: 4, noted: { from: 'notes.txt' } }] },
  ]);
});

test('samples that don’t reach both ends: it is told that the note may mean these', () => {
  const { json } = callIn(folder, 'bring-in', 'narrow.zip', '--out', 'narrow.r32');
  const warnings = json.warnings as { code: string; message: string }[];
  expect(warnings.map((w) => w.code)).toEqual(['noted']);
  expect(warnings[0]!.message).toContain('from 10000 to 42767');
});

test('a note that bears another name is not taken for a loose file', () => {
  const { json } = callIn(folder, 'bring-in', 'other.png', '--out', 'other.r32');
  expect(json.spacing).toBeNull();
  expect(json.noted).toBeUndefined();
});
