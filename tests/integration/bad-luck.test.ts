/**
 * The command line under bad luck: ended at any moment, a full disk, a name in the way, two runs at once, a source that
 * changes. After each the folder holds the old pack whole, or the new one whole, and it proves; or it holds none.
 */
import { spawn, spawnSync } from 'node:child_process';
import {
  appendFileSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { hills, pngSource } from '../helpers/rasters';

const CLI = path.resolve('dist/cli.mjs');
const SIDE = 760;
let top: string;
const at = (...parts: string[]): string => path.join(top, ...parts);
const environment = (): NodeJS.ProcessEnv => ({ ...process.env, INIT_CWD: top });

function call(...args: string[]): { code: number; out: string; err: string } {
  const r = spawnSync(process.execPath, [CLI, ...args], {
    cwd: top,
    env: environment(),
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  });
  return { code: r.status ?? -1, out: r.stdout, err: r.stderr };
}
/** Starts a command and hands it to whoever wants to disturb it. */
function started(
  args: readonly string[],
  disturb: (child: ReturnType<typeof spawn>) => void,
): Promise<{ code: number; err: string }> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [CLI, ...args], {
      cwd: top,
      env: environment(),
      stdio: ['ignore', 'ignore', 'pipe'],
    });
    let err = '';
    child.stderr.on('data', (text: Buffer) => (err += text.toString()));
    child.on('close', (code, signal) => resolve({ code: code ?? (signal ? 128 : -1), err }));
    disturb(child);
  });
}

const recipe = (name: string, low: number): void =>
  writeFileSync(
    at(name),
    JSON.stringify({
      version: 2,
      name: 'kettle',
      source: { low, high: 2140, spacing: 2.5 },
      target: 'component-grid',
      fit: { size: 757 },
      split: { across: 2, down: 2 },
    }),
  );
const OLD = ['run', '--recipe', 'old.json', 'hills.png', '--out', 'pack'];
const NEW = ['run', '--recipe', 'new.json', 'hills.png', '--out', 'pack', '--replace'];

/** Which pack the folder holds after `prove` has put in order what was left; fails where it holds a mixture. */
function found(): 'old' | 'new' | 'none' {
  const proved = call('prove', 'pack', '--reference', 'hills.png');
  const names = existsSync(at('pack')) ? readdirSync(at('pack')).filter((n) => !n.startsWith('.level-grid')) : [];
  if (names.length === 0) return 'none';
  if (proved.code !== 0) throw new Error(`a pack that does not hold: ${names.join(' ')}\n${proved.out}${proved.err}`);
  const { source } = JSON.parse(readFileSync(at('pack', 'recipe.json'), 'utf8')) as {
    source: { heights: { low: number } };
  };
  return source.heights.low === 1310 ? 'old' : 'new';
}
const told: string[] = [];

beforeAll(async () => {
  top = mkdtempSync(path.join(os.tmpdir(), 'level-grid-luck-'));
  const source = await pngSource(hills(SIDE, SIDE), SIDE);
  writeFileSync(at('hills.png'), await source.read(0, source.size));
  recipe('old.json', 1310);
  recipe('new.json', 1200);
});
afterAll(() => {
  rmSync(top, { recursive: true, force: true });
  process.stderr.write(`${told.join('\n')}\n`);
});
beforeEach(() => rmSync(at('pack'), { recursive: true, force: true }));

/** From before it has begun to after it is over, the last ones close together where files are exchanged. */
const MOMENTS = [0.25, 0.6, 0.88, 1];
/** Milliseconds that an undisturbed run takes here and now. */
let usual = 0;

test.each([
  ['SIGINT', 130],
  ['SIGTERM', 143],
  ['SIGKILL', 128],
] as const)(
  'ended by %s at any moment, the old pack is whole, or the new one',
  async (signal, code) => {
    const counts = { old: 0, new: 0, none: 0, ended: 0 };
    for (const [moment, share] of MOMENTS.entries()) {
      if (moment === 0 || found() !== 'old') {
        rmSync(at('pack'), { recursive: true, force: true });
        const begun = performance.now();
        expect(call(...OLD).code).toBe(0);
        usual = performance.now() - begun;
      }
      const ended = await started(NEW, (child) => setTimeout(() => child.kill(signal), usual * share));
      if (ended.code !== 0) {
        counts.ended++;
        // before the program hears of signals the system itself ends it
        expect([code, 128]).toContain(ended.code);
        if (ended.code === code && signal !== 'SIGKILL') expect(ended.err).toContain(signal);
      }
      counts[found()]++;
      if (signal !== 'SIGKILL') expect(readdirSync(at('pack')).filter((n) => n.startsWith('.level-grid'))).toEqual([]);
    }
    expect(counts.none).toBe(0);
    expect(counts.ended).toBeGreaterThan(0);
    // and the next run is not hindered by what was left
    expect(call(...NEW).code).toBe(0);
    expect(readdirSync(at('pack')).filter((n) => n.startsWith('.level-grid'))).toEqual([]);
    told.push(
      `${signal} at ${MOMENTS.length} moments: ${counts.ended} ended, old pack ${counts.old}, new pack ${counts.new}, none ${counts.none}, a mixture 0`,
    );
  },
  180_000,
);

test('a source is never written over, and older files only when that is said', async () => {
  mkdirSync(at('pack'));
  copyFileSync(at('hills.png'), at('pack', 'kettle-r00c00.png'));
  const before = readFileSync(at('hills.png'));
  for (const spelled of ['pack/kettle-r00c00.png', 'pack/../pack/kettle-r00c00.png']) {
    const r = call('run', '--recipe', 'new.json', spelled, '--out', 'pack', '--replace');
    expect(r).toMatchObject({ code: 1, err: expect.stringContaining('the source itself') });
  }
  symlinkSync(at('pack', 'kettle-r00c00.png'), at('by-link.png'));
  expect(call('run', '--recipe', 'new.json', 'by-link.png', '--out', 'pack', '--replace').code).toBe(1);
  expect(readFileSync(at('pack', 'kettle-r00c00.png')).equals(before)).toBe(true);
  const foreign = call('run', '--recipe', 'new.json', 'hills.png', '--out', 'pack');
  expect(foreign).toMatchObject({ code: 1, err: expect.stringContaining('--replace') });
  expect(readdirSync(at('pack'))).toEqual(['kettle-r00c00.png']);
  rmSync(at('pack'), { recursive: true });
  // what a pack of the same recipe left is replaced, that of another only on request; the zip belongs to it
  expect(call(...OLD, '--zip').code).toBe(0);
  expect(call(...OLD, '--zip').code).toBe(0);
  expect(call(...NEW.filter((a) => a !== '--replace')).code).toBe(1);
  expect(found()).toBe('old');
  expect(call(...NEW, '--zip').code).toBe(0);
  expect(found()).toBe('new');
});

test('a name in the way is found before the first byte; the old pack stays', () => {
  expect(call(...OLD).code).toBe(0);
  for (const name of ['import.md', 'kettle-r01c01.png']) {
    rmSync(at('pack', name));
    mkdirSync(at('pack', name));
    expect(call(...NEW)).toMatchObject({
      code: 1,
      err: expect.stringContaining('a folder where the pack should be written'),
    });
    const { source } = JSON.parse(readFileSync(at('pack', 'recipe.json'), 'utf8')) as {
      source: { heights: { low: number } };
    };
    expect(source.heights.low).toBe(1310);
    rmSync(at('pack', name), { recursive: true });
    expect(call(...OLD).code).toBe(0);
    expect(found()).toBe('old');
  }
});

test('of two runs into one folder one writes and the other is told; the pack is that of one of them', async () => {
  const counts = { both: 0, one: 0 };
  for (let turn = 0; turn < 3; turn++) {
    rmSync(at('pack'), { recursive: true, force: true });
    const [a, b] = await Promise.all([
      started(['run', '--recipe', 'old.json', 'hills.png', '--out', 'pack', '--replace'], () => undefined),
      started(NEW, () => undefined),
    ]);
    for (const r of [a, b]) if (r.code !== 0) expect(r.err).toMatch(/a folder that process \d+ .* is writing/);
    expect([a.code, b.code]).toContain(0);
    counts[a.code === 0 && b.code === 0 ? 'both' : 'one']++;
    expect(['old', 'new']).toContain(found());
  }
  told.push(
    `two runs at once, 3 times: ${counts.one} with one told to wait, ${counts.both} one after the other; never a mixture`,
  );
}, 60_000);

test('a source that changes while it is read stops the run; the old pack stays', async () => {
  const counts = { stopped: 0, finished: 0 };
  for (let moment = 0; moment < 4; moment++) {
    rmSync(at('pack'), { recursive: true, force: true });
    copyFileSync(at('hills.png'), at('changing.png'));
    const args = (r: string) => ['run', '--recipe', r, 'changing.png', '--out', 'pack', '--replace'];
    expect(call(...args('old.json')).code).toBe(0);
    let later: ReturnType<typeof setTimeout> | undefined;
    const ended = await started(args('new.json'), () => {
      later = setTimeout(
        () => {
          // the same size, the same time: only the file itself knows
          if (moment % 2 === 0) {
            const bytes = readFileSync(at('hills.png'));
            bytes[bytes.length - 40] = bytes[bytes.length - 40]! ^ 1;
            writeFileSync(at('changing.png'), bytes);
            utimesSync(at('changing.png'), 1, 1);
          } else appendFileSync(at('changing.png'), 'x');
        },
        40 + moment * 120,
      );
    });
    clearTimeout(later);
    if (ended.code === 0) counts.finished++;
    else {
      counts.stopped++;
      expect(ended.err).toMatch(/changed while it was read|damaged|checksum|unexpected/);
      expect(JSON.parse(readFileSync(at('pack', 'recipe.json'), 'utf8'))).toMatchObject({
        source: { heights: { low: 1310 } },
      });
    }
    expect(['old', 'new']).toContain(found());
  }
  expect(counts.stopped).toBeGreaterThan(0);
  told.push(
    `a source changed at 4 moments: ${counts.stopped} runs stopped with the old pack whole, ${counts.finished} were done before`,
  );
}, 90_000);

test('a pipe that nobody reads ends the command without harm', async () => {
  expect(call(...OLD).code).toBe(0);
  const r = spawnSync(
    'bash',
    ['-c', `node ${CLI} run --recipe new.json hills.png --out pack --replace --json | true; echo \${PIPESTATUS[0]}`],
    {
      cwd: top,
      env: environment(),
      encoding: 'utf8',
    },
  );
  expect(r.stdout.trim()).toMatch(/^(0|141)$/);
  expect(['old', 'new']).toContain(found());
});

const SMALL = at_small();
function at_small(): string | null {
  if (process.platform !== 'linux' || process.getuid?.() !== 0) return null;
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-small-'));
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=8m', 'tmpfs', folder]).status === 0;
  if (!mounted) rmSync(folder, { recursive: true });
  return mounted ? folder : null;
}
afterAll(() => {
  if (!SMALL) return;
  spawnSync('umount', [SMALL]);
  rmSync(SMALL, { recursive: true, force: true });
});

// where no small disk can be made there is nothing to fill up
(SMALL ? test : test.skip)(
  'a full disk, at any file: no room is told, and the old pack stays',
  () => {
    const out = path.join(SMALL!, 'pack');
    const args = (r: string) => ['run', '--recipe', r, 'hills.png', '--out', out, '--replace'];
    expect(call(...args('old.json')).code).toBe(0);
    const size = readdirSync(out).reduce((sum, n) => sum + readFileSync(path.join(out, n)).length, 0);
    let refused = 0;
    for (let part = 1; part <= 6; part++) {
      // leaves room for some more of the new pack each time
      const room = Math.floor((size * part) / 7);
      const free = Number(
        spawnSync('df', ['--output=avail', '-B1', SMALL!], { encoding: 'utf8' }).stdout.split('\n')[1],
      );
      writeFileSync(path.join(SMALL!, 'ballast'), Buffer.alloc(Math.max(0, free - room)));
      const r = call(...args('new.json'));
      rmSync(path.join(SMALL!, 'ballast'));
      if (r.code === 0) {
        expect(call(...args('old.json')).code).toBe(0);
        continue;
      }
      refused++;
      expect(r.err).toContain('no room left on the disk');
      expect(JSON.parse(readFileSync(path.join(out, 'recipe.json'), 'utf8'))).toMatchObject({
        source: { heights: { low: 1310 } },
      });
      expect(readdirSync(out).filter((n) => n.startsWith('.level-grid'))).toEqual([]);
      expect(call('prove', out, '--reference', 'hills.png').code).toBe(0);
    }
    expect(refused).toBeGreaterThan(3);
    told.push(`a disk that fills up, at 6 sizes: ${refused} refused with the old pack whole and proving`);
  },
  90_000,
);
