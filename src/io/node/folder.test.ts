import {
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { faultOf } from '../../../tests/helpers/rasters';
import { DiskFolder, settleFolder } from './folder';
import { LOCK, takeLock } from './lock';

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
const ours = (...names: string[]) => ({ ours: async () => new Set(names) });

test('nothing bears its final name before all of it does', async () => {
  writeFileSync(path.join(top, 'tarn.png'), 'older');
  const folder = await DiskFolder.open(top, ours('tarn.png'));
  await folder.prepare(['tarn.png', 'import.json']);
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
  const folder = await DiskFolder.open(top, ours('tarn.png'));
  await write(folder, 'tarn.png', 'newer');
  await (await folder.open('half.png')).write(new Uint8Array(5));
  await folder.abort();
  expect(readdirSync(top)).toEqual(['tarn.png']);
  expect(text('tarn.png')).toBe('older');
});

describe('what is in the way is found before the first byte', () => {
  test('older files of somebody else, unless they may be replaced', async () => {
    writeFileSync(path.join(top, 'tarn.png'), 'mine');
    writeFileSync(path.join(top, 'notes.txt'), 'mine');
    const folder = await DiskFolder.open(top, ours('import.json'));
    expect(await faultOf(() => folder.prepare(['tarn.png', 'import.json']))).toMatchObject({
      code: 'in-the-way',
      file: 'tarn.png',
      remedy: expect.stringContaining('--replace'),
    });
    // what came into the way while it was written is seen too
    await write(folder, 'tarn.png', 'new');
    expect((await faultOf(() => folder.commit())).code).toBe('in-the-way');
    await folder.abort();
    expect(text('tarn.png')).toBe('mine');
    const bold = await DiskFolder.open(top, { replace: true });
    await bold.prepare(['tarn.png']);
    await write(bold, 'tarn.png', 'new');
    await bold.commit();
    expect(text('tarn.png')).toBe('new');
    expect(text('notes.txt')).toBe('mine');
  });
  test('folders and links, which are never followed', async () => {
    mkdirSync(path.join(top, 'tarn.png'));
    writeFileSync(path.join(top, 'elsewhere'), 'mine');
    symlinkSync(path.join(top, 'elsewhere'), path.join(top, 'import.json'));
    const folder = await DiskFolder.open(top, { replace: true });
    expect(await faultOf(() => folder.prepare(['tarn.png']))).toMatchObject({
      found: expect.stringContaining('a folder'),
    });
    expect(await faultOf(() => folder.prepare(['import.json']))).toMatchObject({
      found: expect.stringContaining('a link'),
    });
    await folder.abort();
    expect(text('elsewhere')).toBe('mine');
  });
  test('the source itself, however its path is spelled', async () => {
    const source = path.join(top, 'tarn.png');
    writeFileSync(source, 'the only one');
    const spellings = [
      source,
      path.join(top, '.', 'x', '..', 'tarn.png'),
      path.join(top, 'by-link'),
      path.join(top, 'second-name'),
    ];
    symlinkSync(source, spellings[2]!);
    linkSync(source, spellings[3]!);
    for (const spelled of spellings) {
      const folder = await DiskFolder.open(top, { sources: [spelled], replace: true });
      expect(await faultOf(() => folder.prepare(['tarn.png']))).toMatchObject({
        code: 'in-the-way',
        found: expect.stringContaining('the source itself'),
      });
      await folder.abort();
    }
    expect(text('tarn.png')).toBe('the only one');
  });
});

describe('a run that was ended in the middle', () => {
  const WORK = '.level-grid-work-0123';
  /** A folder as it stands after so many of the files were exchanged. */
  function half(done: number): void {
    const names = ['a.png', 'b.png', 'import.json'];
    mkdirSync(path.join(top, WORK));
    names.forEach((name, i) => {
      writeFileSync(path.join(top, name), i < done ? 'new' : 'old');
      if (i >= done) writeFileSync(path.join(top, WORK, name), 'new');
    });
    writeFileSync(path.join(top, '.level-grid-journal.json'), JSON.stringify({ version: 1, work: WORK, names }));
  }
  test.each([0, 1, 2, 3])('is finished by whoever comes next (%d of 3 files exchanged)', async (done) => {
    half(done);
    await settleFolder(top);
    expect(readdirSync(top).sort()).toEqual(['a.png', 'b.png', 'import.json']);
    for (const name of ['a.png', 'b.png', 'import.json']) expect(text(name)).toBe('new');
  });
  test('leaves unfinished work that the next run clears away; other things stay', async () => {
    mkdirSync(path.join(top, WORK));
    writeFileSync(path.join(top, WORK, 'a.png'), 'half');
    writeFileSync(path.join(top, 'a.png'), 'old');
    const folder = await DiskFolder.open(top, ours('a.png'));
    expect(existsSync(path.join(top, WORK))).toBe(false);
    expect(text('a.png')).toBe('old');
    await folder.abort();
  });
  test('a note that leads elsewhere is not followed', async () => {
    for (const names of [['../a.png'], ['/etc/passwd'], ['x/y']]) {
      writeFileSync(path.join(top, '.level-grid-journal.json'), JSON.stringify({ version: 1, work: WORK, names }));
      expect((await faultOf(() => settleFolder(top))).code).toBe('unwritable');
    }
    expect(readdirSync(top)).toEqual(['.level-grid-journal.json']);
  });
});

describe('one run at a time', () => {
  test('the second is told who is there; afterwards it may', async () => {
    const first = await DiskFolder.open(top);
    const fault = await faultOf(() => DiskFolder.open(top));
    expect(fault).toMatchObject({ code: 'busy', found: expect.stringContaining(`process ${process.pid}`) });
    await first.abort();
    await (await DiskFolder.open(top)).abort();
    expect(readdirSync(top)).toEqual([]);
  });
  test.each([
    ['of a process that is gone', { token: 't', pid: 2 ** 22 - 3, host: os.hostname(), began: '1', since: '' }],
    [
      'of another process under the same number',
      { token: 't', pid: process.pid, host: os.hostname(), began: '1', since: '' },
    ],
    ['that was never finished', null],
  ])('a lock %s is taken over', async (_, holder) => {
    writeFileSync(path.join(top, LOCK), holder === null ? '{"tok' : JSON.stringify(holder));
    const lock = await takeLock(top);
    expect(JSON.parse(text(LOCK))).toMatchObject({ token: lock.token, pid: process.pid });
    await lock.release();
    expect(readdirSync(top)).toEqual([]);
  });
  test('of many that see a dead lock one takes it over', async () => {
    writeFileSync(
      path.join(top, LOCK),
      JSON.stringify({ token: 't', pid: 2 ** 22 - 3, host: os.hostname(), began: '', since: '' }),
    );
    const all = await Promise.allSettled(Array.from({ length: 12 }, () => takeLock(top)));
    const held = all.filter((r) => r.status === 'fulfilled');
    expect(held).toHaveLength(1);
    for (const r of all) if (r.status === 'rejected') expect(r.reason).toMatchObject({ code: 'busy' });
  });
  test('a lock on another machine is never taken', async () => {
    writeFileSync(path.join(top, LOCK), JSON.stringify({ token: 't', pid: 1, host: 'far-away', began: '', since: '' }));
    expect(await faultOf(() => takeLock(top))).toMatchObject({
      code: 'busy',
      found: expect.stringContaining('far-away'),
    });
  });
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
  const folder = await DiskFolder.open(path.join(top, 'pack'));
  expect(await faultOf(() => folder.open('west/tarn.png'))).toMatchObject({
    code: 'unwritable',
    file: 'west/tarn.png',
  });
  await folder.abort();
});

test('given up at the last moment of a process, nothing unfinished stays', async () => {
  writeFileSync(path.join(top, 'tarn.png'), 'older');
  const folder = await DiskFolder.open(top, ours('tarn.png'));
  await write(folder, 'tarn.png', 'newer');
  folder.abortNow();
  expect(readdirSync(top)).toEqual(['tarn.png']);
  expect(text('tarn.png')).toBe('older');
});
