/** The command line as other programs call it: spawned, JSON on stdout, exit codes. */
import { spawnSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { hills, pngSource, rawBytes } from '../helpers/rasters';

const CLI = path.resolve('dist/cli.mjs');
const SIDE = 300;
let folder: string;
const inFolder = (name: string): string => path.join(folder, name);

function call(...args: string[]): { code: number; out: string; err: string; json: () => Record<string, unknown> } {
  const result = spawnSync(process.execPath, [CLI, ...args], {
    cwd: os.tmpdir(),
    env: { ...process.env, INIT_CWD: folder },
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  });
  return {
    code: result.status ?? -1,
    out: result.stdout,
    err: result.stderr,
    json: () => JSON.parse(result.stdout) as Record<string, unknown>,
  };
}
const recipe = (name: string, parts: object = {}): string => {
  writeFileSync(
    inFolder(name),
    JSON.stringify({
      version: 1,
      name: 'kettle',
      source: { low: 1310, high: 2140, spacing: 2.5 },
      target: 'component-grid',
      fit: { size: 253 },
      ...parts,
    }),
  );
  return name;
};

beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-'));
  const source = await pngSource(hills(SIDE, SIDE), SIDE);
  const bytes = await source.read(0, source.size);
  writeFileSync(inFolder('hills.png'), bytes);
  writeFileSync(inFolder('hills.raw'), rawBytes(hills(SIDE, SIDE), 'big'));
  writeFileSync(inFolder('cut.png'), bytes.subarray(0, 4000));
  writeFileSync(inFolder('words.png'), 'The tarn lies below the fells.\n');
  writeFileSync(inFolder('empty.png'), '');
  mkdirSync(inFolder('a-folder.png'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('usage', () => {
  test('help exits 0, nothing at all 2, an unknown command 2 with its name', () => {
    expect(call('--help')).toMatchObject({ code: 0, out: expect.stringContaining('inspect') });
    expect(call('plan', '--help').code).toBe(0);
    expect(call().code).toBe(2);
    expect(call('frobnicate')).toMatchObject({ code: 2, err: expect.stringContaining('unknown command') });
    expect(call('layouts', '--samples', '1536').code).toBe(2);
    expect(call('layouts', '--samples', 'many', '--target', 'odd-grid').code).toBe(2);
    expect(call('inspect', 'hills.png', '--raw', '1,2').code).toBe(2);
  });
});

describe('inspect', () => {
  test('tells what files hold, in the order given', () => {
    const { code, json } = call('inspect', 'hills.raw', 'hills.png', '--json');
    expect(code).toBe(0);
    expect(json()).toEqual({
      files: [
        {
          file: 'hills.raw',
          format: 'raw',
          width: SIDE,
          height: SIDE,
          channels: 1,
          bitDepth: 16,
          sampleType: 'uint',
          byteOrder: 'big',
          noData: { value: null, count: 0 },
          min: 0,
          max: 65535,
          mean: expect.any(Number),
          distinctCodes: expect.any(Number),
          codeStep: 1,
          spacing: null,
          crs: null,
          unit: null,
          registration: null,
          pages: 1,
          channel: null,
          warnings: [{ code: 'raw-guessed', message: expect.stringContaining('big-endian') }],
          guess: {
            lead: expect.any(Number),
            next: expect.arrayContaining([
              {
                width: expect.any(Number),
                height: expect.any(Number),
                type: 'u16',
                byteOrder: expect.any(String),
                skip: 0,
              },
            ]),
          },
        },
        expect.objectContaining({ file: 'hills.png', format: 'png', byteOrder: null, warnings: [] }),
      ],
    });
  });
  test('tries every file; bad ones carry a typed error in plain words', () => {
    const { code, json, out } = call(
      'inspect',
      'empty.png',
      'words.png',
      'cut.png',
      'hills.png',
      'absent.png',
      'a-folder.png',
      '--json',
    );
    expect(code).toBe(1);
    const { files } = json() as {
      files: {
        file: string;
        error?: { code: string; file: string; found: string; expected: string; remedy: string };
      }[];
    };
    expect(files.map((f) => f.error?.code ?? 'fine')).toEqual([
      'empty-file',
      'unknown-format',
      'truncated',
      'fine',
      'not-found',
      'unreadable',
    ]);
    for (const f of files) {
      if (!f.error) continue;
      expect(f.error.file).toBe(f.file);
      for (const key of ['found', 'expected', 'remedy'] as const) expect(f.error[key]).toBeTruthy();
    }
    expect(out).not.toMatch(/TypeError|ENOENT|at \w+ \(/);
  });
  test('a layout can be stated', () => {
    const { json } = call('inspect', 'hills.raw', '--raw', '600,150,u16,little', '--json');
    expect(json()).toMatchObject({
      // it is believed, and doubted
      files: [{ width: 600, height: 150, byteOrder: 'little', warnings: [{ code: 'byte-order' }] }],
    });
    const right = call('inspect', 'hills.raw', '--raw', '600,150,u16,big', '--json');
    expect(right.json()).toMatchObject({ files: [{ byteOrder: 'big', warnings: [] }] });
  });
});

test('layouts lists every rung', () => {
  const { code, json } = call('layouts', '--samples', '1536', '--target', 'component-grid', '--json');
  expect(code).toBe(0);
  const { rungs, samples, target } = json() as {
    rungs: { vertices: number; rim: number; cut: number }[];
    samples: number;
    target: string;
  };
  expect([samples, target, rungs.length]).toEqual([1536, 'component-grid', 272]);
  expect(rungs.find((r) => r.vertices === 1652)?.rim).toBe(116);
  expect(rungs.find((r) => r.vertices === 1398)?.cut).toBe(138);
  expect(call('layouts', '--samples', '1536', '--target', 'moon', '--json')).toMatchObject({
    code: 1,
    out: expect.stringContaining('unknown-target'),
  });
});

describe('plan, run and prove', () => {
  test('from a file to a proved pack', () => {
    recipe('r.json', { split: { across: 2, down: 2 }, fit: { size: 253 } });
    const planned = call('plan', '--recipe', 'r.json', 'hills.png', '--json');
    expect(planned.code).toBe(0);
    expect(planned.json()).toMatchObject({
      version: 1,
      target: 'component-grid',
      fit: { width: 253, height: 253 },
      layout: { quads: 63, patches: 2, componentsX: 1, componentsY: 1 },
    });
    const ran = call('run', '--recipe', 'r.json', 'hills.png', '--out', 'deep/pack', '--zip', '--json');
    expect(ran.code).toBe(0);
    expect(readdirSync(inFolder('deep/pack')).sort()).toEqual([
      'import.html',
      'import.json',
      'import.md',
      'kettle-r00c00.png',
      'kettle-r00c01.png',
      'kettle-r01c00.png',
      'kettle-r01c01.png',
      'kettle.zip',
      'recipe.json',
    ]);
    const written = JSON.parse(readFileSync(inFolder('deep/pack/import.json'), 'utf8')) as {
      files: { sha256: string }[];
      card: unknown;
    };
    expect(written.files.every((f) => /^[0-9a-f]{64}$/.test(f.sha256))).toBe(true);
    expect(written.card).toEqual(planned.json()['card']);
    const proved = call('prove', 'deep/pack', '--reference', 'hills.png', '--json');
    expect(proved).toMatchObject({ code: 0 });
    expect(proved.json()).toMatchObject({
      holds: true,
      clipped: planned.json()['height'] && (planned.json()['height'] as { clipped: object }).clipped,
      groundError: { max: expect.any(Number) },
    });
    expect(call('prove', 'deep/pack').out).toContain('The pack holds');
    expect(call('prove', 'deep/pack', '--typed', 'heightScale=99', '--json')).toMatchObject({ code: 1 });
    expect(call('prove', 'deep/pack', '--typed', 'heightScale').code).toBe(2);
    // the same again gives the same bytes
    call('run', '--recipe', 'r.json', 'hills.png', '--out', 'again', '--zip');
    for (const name of readdirSync(inFolder('again')))
      expect(readFileSync(inFolder(`again/${name}`)).equals(readFileSync(inFolder(`deep/pack/${name}`)))).toBe(true);
    // two files exchanged
    renameSync(inFolder('again/kettle-r00c00.png'), inFolder('again/x'));
    renameSync(inFolder('again/kettle-r01c01.png'), inFolder('again/kettle-r00c00.png'));
    renameSync(inFolder('again/x'), inFolder('again/kettle-r01c01.png'));
    expect(call('prove', 'again', '--reference', 'hills.png', '--json')).toMatchObject({ code: 1 });
  });
  test('a draft at a low rung', () => {
    recipe('d.json');
    const { json, code } = call('run', '--recipe', 'd.json', 'hills.png', '--out', 'draft', '--draft', '127', '--json');
    expect(code).toBe(0);
    expect(json()).toMatchObject({ fit: { width: 127 } });
  });
  test('a failed run leaves no file and no folder, and an older pack as it was', () => {
    recipe('r.json');
    expect(call('run', '--recipe', 'r.json', 'cut.png', '--out', 'new/place')).toMatchObject({
      code: 1,
      err: expect.stringContaining('cut.png'),
    });
    expect(existsSync(inFolder('new'))).toBe(false);
    call('run', '--recipe', 'r.json', 'hills.png', '--out', 'kept');
    const before = readFileSync(inFolder('kept/kettle.png'));
    expect(call('run', '--recipe', 'r.json', 'cut.png', '--out', 'kept').code).toBe(1);
    expect(readdirSync(inFolder('kept')).sort()).toEqual([
      'import.html',
      'import.json',
      'import.md',
      'kettle.png',
      'recipe.json',
    ]);
    expect(readFileSync(inFolder('kept/kettle.png')).equals(before)).toBe(true);
  });
  test('recipes that can’t be used are refused with the key and no file written', () => {
    recipe('typo.json', { colour: 1 });
    expect(call('plan', '--recipe', 'typo.json', 'hills.png', '--json')).toMatchObject({
      code: 1,
      err: expect.stringContaining('unknown key "colour"'),
    });
    recipe('version.json', { version: 5 });
    expect(call('plan', '--recipe', 'version.json', 'hills.png')).toMatchObject({
      code: 1,
      err: expect.stringContaining('unknown recipe version 5'),
    });
    writeFileSync(inFolder('nan.json'), '{"version":1,"source":{"low":NaN}}');
    expect(call('run', '--recipe', 'nan.json', 'hills.png', '--out', 'never')).toMatchObject({
      code: 1,
      err: expect.stringContaining('NaN'),
    });
    recipe('off.json', { fit: { size: 250 } });
    const off = call('run', '--recipe', 'off.json', 'hills.png', '--out', 'never', '--json');
    expect(off).toMatchObject({ code: 1 });
    expect(off.json()).toMatchObject({ error: { code: 'size-not-on-ladder' } });
    expect(existsSync(inFolder('never'))).toBe(false);
  });
  test('an error about the recipe names the recipe’s file, one about the source the source’s', () => {
    const fileOf = (name: string, parts: object, source = 'hills.png') => {
      recipe(name, parts);
      return ['plan', 'run'].map((command) => {
        const more = command === 'run' ? ['--out', 'never'] : [];
        const { error } = call(command, '--recipe', name, source, ...more, '--json').json() as {
          error: { file: string };
        };
        return error.file;
      });
    };
    const both = (name: string) => [name, name];
    expect(fileOf('ladder.json', { fit: { size: 250 } })).toEqual(both('ladder.json'));
    expect(fileOf('target.json', { target: 'nowhere' })).toEqual(both('target.json'));
    expect(fileOf('layout.json', { fit: { size: 127, layout: { quads: 9, patches: 1 } } })).toEqual(
      both('layout.json'),
    );
    expect(fileOf('pattern.json', { fit: { size: 253 }, split: { across: 2, down: 1, pattern: '{nme}' } })).toEqual(
      both('pattern.json'),
    );
    expect(fileOf('unit.json', { version: 3, source: { heights: { as: 'elevations' }, spacing: 1 } })).toEqual(
      both('unit.json'),
    );
    expect(fileOf('fine.json', {}, 'cut.png')).toEqual(both('cut.png'));
  });
  test('edit changes a recipe by name, to standard output or into a file, and reads no source', () => {
    const name = recipe('before.json');
    const printed = call('edit', name, 'add-step', 'step={"op":"turn","quarters":1}');
    expect(printed).toMatchObject({ code: 0, err: '' });
    const turned = JSON.parse(printed.out) as { version: number; steps: object[] };
    expect(turned).toMatchObject({ version: 4, steps: [{ op: 'turn', quarters: 1 }] });
    expect(call('edit', name, 'clamp', 'clamp=true', '--out', 'after.json').code).toBe(0);
    expect(JSON.parse(readFileSync(inFolder('after.json'), 'utf8'))).toMatchObject({ fit: { clamp: true } });
    // a word that is no JSON is taken as it stands
    expect(call('edit', name, 'rename', 'name=Port Quillam', '--json').json()).toMatchObject({ name: 'Port Quillam' });
    expect(call('edit', name, 'explode')).toMatchObject({ code: 2, err: expect.stringContaining('add-step') });
    expect(call('edit', name, 'clamp', 'clamp')).toMatchObject({ code: 2 });
    const refused = call('edit', name, 'exaggeration', 'exaggeration=0', '--json');
    expect(refused.json()).toMatchObject({ error: { code: 'recipe-value', file: 'before.json' } });
    // what a check offers can be done as it is printed
    recipe('wild.json', { fit: { size: 250 } });
    expect(call('edit', 'wild.json', 'size', 'size=253', '--out', 'tame.json').code).toBe(0);
    expect(call('plan', 'hills.png', '--recipe', 'tame.json').code).toBe(0);
  });
  test('steps are told as documents: what each changed, or that it is off', () => {
    recipe('steps.json', {
      version: 4,
      source: { heights: { as: 'ends', low: 1310, high: 2140 }, spacing: 2.5 },
      steps: [
        { op: 'values', from: 65535, become: 1310 },
        { op: 'turn', quarters: 3 },
        { op: 'mirror', axis: 'x', off: true },
      ],
    });
    const planned = call('plan', '--recipe', 'steps.json', 'hills.png', '--json').json();
    expect(planned['steps']).toEqual([
      {
        op: 'values',
        samples: expect.any(Number) as number,
        largest: expect.closeTo(830, 6) as number,
        mean: expect.closeTo(830, 6) as number,
      },
      { op: 'turn', samples: 0, largest: 0, mean: 0 },
      { op: 'mirror', off: true },
    ]);
    const made = call('run', '--recipe', 'steps.json', 'hills.png', '--out', 'stepped', '--prove', '--json').json();
    expect(made['steps']).toEqual(planned['steps']);
    expect(made['proof']).toMatchObject({ holds: true });
    const checks = (made['proof'] as { checks: { id: string; step?: string }[] }).checks;
    expect(checks.filter((c) => c.step?.startsWith('steps.')).map((c) => [c.id, c.step])).toEqual([
      ['values', 'steps.0'],
      ['values-change', 'steps.0'],
      ['turn', 'steps.1'],
    ]);
    // what enters the fit, as plain floats in metres
    const brought = call('bring-in', 'hills.png', '--recipe', 'steps.json', '--out', 'stepped.r32', '--json').json();
    expect(brought).toMatchObject({ width: (planned['entering'] as { width: number }).width, spacing: 2.5 });
  });
  test('a folder that holds no pack', () => {
    mkdirSync(inFolder('none'), { recursive: true });
    expect(call('prove', 'none', '--json')).toMatchObject({ code: 1, out: expect.stringContaining('not-found') });
    expect(call('prove', 'absent').code).toBe(1);
  });
});

test('what steers a terminal never reaches one: names, documents and wrong options are written out', () => {
  const steering = 'ta\u001b[2Jrn\u009b\u202e.png';
  writeFileSync(inFolder(steering), 'no picture');
  recipe('steering.json', { [`\u001b[2J${'k'.repeat(500)}`]: 1, a: 2, b: 3, c: 4 });
  const calls = [
    call('inspect', steering),
    call('inspect', steering, '--json'),
    call('plan', steering, '--recipe', recipe('terminal.json')),
    call('plan', 'hills.png', '--recipe', 'steering.json'),
    call('plan', 'hills.png', '--recipe', recipe('name.json', { name: 'ta\u001b[2Jrn' })),
    call('plan', '--\u001b[2J'),
    call('prove', 'no\u001bfolder'),
  ];
  for (const { out, err } of calls) {
    expect(`${out}${err}`).not.toBe('');
    // eslint-disable-next-line no-control-regex -- this is what is looked for
    expect(`${out}${err}`).not.toMatch(/[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u202e]/);
  }
  expect(calls[0]!.out).toContain('ta\\u001b[2Jrn');
  expect((calls[1]!.json()['files'] as { file: string }[])[0]!.file).toBe(steering);
  // and no document is echoed whole
  expect(calls[3]!.err).toContain('and 1 more');
  expect(calls[3]!.err.length).toBeLessThan(400);
});

test('a document that is too long or too deep is refused before it is read', () => {
  writeFileSync(inFolder('long.json'), ' '.repeat(2 ** 20 + 1));
  expect(call('plan', 'hills.png', '--recipe', 'long.json')).toMatchObject({
    code: 1,
    err: expect.stringContaining('found a file of 1 MB; expected a recipe: at most 1 MB'),
  });
  writeFileSync(inFolder('deep.json'), '['.repeat(2 ** 18 - 1));
  expect(call('plan', 'hills.png', '--recipe', 'deep.json').err).toContain('more than 16 deep in one another');
});

test('with --verbose a fault says what it came from; without it the system’s own words stay away', () => {
  const args = ['plan', 'hills.png', '--recipe', 'nowhere.json'];
  expect(call(...args).err).not.toContain('ENOENT');
  expect(call(...args, '--verbose').err).toMatch(/Details: Error: ENOENT/);
  expect(call(...args, '--json').json()).toEqual({
    error: expect.not.objectContaining({ details: expect.anything() }),
  });
  expect(call(...args, '--json', '--verbose').json()).toMatchObject({
    error: { code: 'not-found', details: expect.stringContaining('ENOENT') },
  });
});
