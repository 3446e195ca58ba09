import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { faultOf } from '../../../tests/helpers/rasters';
import { DiskFolder } from './folder';

let top: string;
beforeEach(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'level-grid-folder-'));
});
afterEach(() => rmSync(top, { recursive: true, force: true }));

async function write(folder: DiskFolder, name: string, ...texts: string[]): Promise<void> {
  const sink = await folder.open(name);
  for (const text of texts) await sink.write(new TextEncoder().encode(text));
  await sink.close();
}
const text = (name: string): string => readFileSync(path.join(top, name), 'utf8');

test('nothing bears its final name before all of it does', async () => {
  writeFileSync(path.join(top, 'tarn.png'), 'older');
  const folder = await DiskFolder.open(top);
  await write(folder, 'tarn.png', 'new', 'er');
  await write(folder, 'import.json', '{}');
  expect(text('tarn.png')).toBe('older');
  expect(existsSync(path.join(top, 'import.json'))).toBe(false);
  await folder.commit();
  expect(readdirSync(top).sort()).toEqual(['import.json', 'tarn.png']);
  expect(text('tarn.png')).toBe('newer');
});

test('given up, files that are still open included, the folder is as it was', async () => {
  writeFileSync(path.join(top, 'tarn.png'), 'older');
  const folder = await DiskFolder.open(top);
  await write(folder, 'tarn.png', 'newer');
  await (await folder.open('half.png')).write(new Uint8Array(5));
  await folder.abort();
  expect(readdirSync(top)).toEqual(['tarn.png']);
  expect(text('tarn.png')).toBe('older');
});

test('what one commit made visible a later failure leaves alone', async () => {
  const folder = await DiskFolder.open(top);
  await write(folder, 'tarn.png', 'pack');
  await folder.commit();
  await write(folder, 'pack.zip', 'half');
  await folder.abort();
  expect(readdirSync(top)).toEqual(['tarn.png']);
});

test('folders that were made for it go again with a failed run; those with something in them stay', async () => {
  const deep = path.join(top, 'fells', 'west', 'pack');
  const folder = await DiskFolder.open(deep);
  await write(folder, 'tarn.png', 'x');
  await folder.abort();
  expect(readdirSync(top)).toEqual([]);
  const again = await DiskFolder.open(deep);
  writeFileSync(path.join(top, 'fells', 'notes.txt'), 'mine');
  await again.abort();
  expect(readdirSync(path.join(top, 'fells'))).toEqual(['notes.txt']);
});

test('a folder that was there before stays, even where it is empty', async () => {
  const there = path.join(top, 'pack');
  mkdirSync(there);
  await (await DiskFolder.open(there)).abort();
  expect(existsSync(there)).toBe(true);
});

test('a place that can’t be written is told with its name', async () => {
  const file = path.join(top, 'a-file');
  writeFileSync(file, '');
  expect(await faultOf(() => DiskFolder.open(file))).toMatchObject({ code: 'unwritable', file: 'a-file' });
  expect(await faultOf(() => DiskFolder.open(path.join(file, 'pack')))).toMatchObject({ code: 'unwritable' });
  const folder = await DiskFolder.open(top);
  expect(await faultOf(() => folder.open('west/tarn.png'))).toMatchObject({
    code: 'unwritable',
    file: 'west/tarn.png',
  });
  // a folder has taken the name by the time the files are renamed
  await write(folder, 'tarn.png', 'x');
  mkdirSync(path.join(top, 'tarn.png', 'in-the-way'), { recursive: true });
  expect(await faultOf(() => folder.commit())).toMatchObject({ code: 'unwritable', file: 'tarn.png' });
});
