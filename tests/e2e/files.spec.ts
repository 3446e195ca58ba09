import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { Gate } from './gate';
import { card, codesOf, downloaded, expect, go, link, open, ready, test } from './helpers';

const DEMO = path.resolve('public/demo');

test('the pack: files that an independent reader agrees with, the same as the command line writes', async ({ app }) => {
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  expect(Object.keys(files).sort()).toEqual([
    'Kettle-Tarn.png',
    'import.html',
    'import.json',
    'import.md',
    'recipe.json',
  ]);
  expect(await sharp(files['Kettle-Tarn.png']).metadata()).toMatchObject({
    width: 1525,
    height: 1525,
    channels: 1,
    depth: 'ushort',
  });
  await expect(link(app, 'Proof')).toContainText('6.5 mm at most');
  await expect(link(app, 'Hand over')).toContainText('5 files');
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-'));
  try {
    writeFileSync(path.join(folder, 'recipe.json'), files['recipe.json']!);
    const { status } = spawnSync(process.execPath, [
      'dist/cli.mjs',
      'run',
      '--recipe',
      path.join(folder, 'recipe.json'),
      path.join(DEMO, 'kettle-tarn.png'),
      '--out',
      path.join(folder, 'pack'),
      // a pack of the page is proved as it is made, and says so
      '--prove',
    ]);
    expect(status).toBe(0);
    for (const name of Object.keys(files))
      expect(readFileSync(path.join(folder, 'pack', name)).equals(files[name]!), name).toBe(true);
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test('one encoding thread writes the same bytes as two', async ({ app }) => {
  const packed = async (): Promise<Record<string, Uint8Array>> => {
    await go(app, 'Hand over');
    return downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  };
  const several = await packed();
  await app.goto('/?workers=1');
  await ready(app);
  const one = await packed();
  for (const [name, bytes] of Object.entries(several)) expect(Buffer.compare(one[name]!, bytes), name).toBe(0);
});

test('with the range of the ground the lowest code is 0 and the highest 65535', async ({ app }) => {
  await go(app, 'Height');
  await app.getByRole('radio', { name: 'Ground' }).click();
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  const codes = await codesOf(files['Kettle-Tarn.png']!);
  let low = 65535;
  let high = 0;
  for (const c of codes) {
    low = Math.min(low, c);
    high = Math.max(high, c);
  }
  expect([low, high, codes.length]).toEqual([0, 65535, 1525 * 1525]);
});

test('a draft is small and has the same ground', async ({ app }) => {
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the draft' }).click());
  const plan = JSON.parse(Buffer.from(files['import.json']!).toString()) as {
    fit: { width: number; extent: { x: number } };
  };
  expect(plan.fit).toMatchObject({ width: 505, extent: { x: 3837.5 } });
});

test('saving straight into a folder writes the same names', async ({ app }) => {
  await app.evaluate(() => {
    // the browser's own picker can't be clicked by a test: a folder of the origin stands in for the picked one
    Object.assign(window, { showDirectoryPicker: () => navigator.storage.getDirectory() });
  });
  await go(app, 'Hand over');
  await app.getByRole('button', { name: 'Save into a folder…' }).click();
  await expect(link(app, 'Hand over')).toContainText('5 files');
  await expect
    .poll(() =>
      app.evaluate(async () => {
        const names: string[] = [];
        const directory = await navigator.storage.getDirectory();
        for await (const [name, handle] of directory as unknown as AsyncIterable<[string, FileSystemFileHandle]>) {
          // a file that is being put in its place can't be read for a moment
          const file = await handle.getFile().catch(() => null);
          names.push(`${name} ${file !== null && file.size > 100}`);
        }
        return names.sort();
      }),
    )
    .toEqual(['Kettle-Tarn.png true', 'import.html true', 'import.json true', 'import.md true', 'recipe.json true']);
  // the same pack again asks nothing; another one names what it would replace
  await app.getByRole('button', { name: 'Save into a folder…' }).click();
  await expect(app.getByRole('dialog')).toHaveCount(0);
  await go(app, 'Fit');
  await app.getByRole('slider', { name: 'Vertices per side' }).press('ArrowDown');
  await go(app, 'Hand over');
  await app.getByRole('button', { name: 'Save into a folder…' }).click();
  const question = app.getByRole('dialog', { name: 'Replace older files?' });
  await expect(question).toContainText('Kettle-Tarn.png');
  const recipe = () =>
    app.evaluate(async () => {
      const directory = await navigator.storage.getDirectory();
      return (await (await directory.getFileHandle('recipe.json')).getFile()).text();
    });
  await question.getByRole('button', { name: 'Keep them' }).click();
  expect(await recipe()).toContain('"size": 1525');
  await app.getByRole('button', { name: 'Save into a folder…' }).click();
  await question.getByRole('button', { name: 'Replace them' }).click();
  await expect.poll(recipe).not.toContain('"size": 1525');
});

test('a headerless RAW becomes a project of its own; its layout is guessed and can be overruled', async ({ app }) => {
  await app.getByLabel('Heightmap to bring in').setInputFiles(path.join(DEMO, 'kettle-tarn-big-endian.raw'));
  await expect(app.getByRole('button', { name: 'Project: kettle-tarn-big-endian' })).toBeVisible();
  await expect(app.getByText('RAW, 1536 × 1536')).toBeVisible();
  await expect(app.getByLabel('What the file holds')).toContainText(/Byte order\s*big-endian/);
  await expect(app.locator('[data-check=source-assumed]')).toBeVisible();
  await app.getByLabel('Code 0 stands for').fill('1310');
  await app.getByLabel('Code 0 stands for').press('Enter');
  await app.getByLabel('Code 65535 stands for').fill('2140');
  await app.getByLabel('Code 65535 stands for').press('Enter');
  await app.getByLabel('Spacing').fill('2.5');
  await app.getByLabel('Spacing').press('Enter');
  await expect(app.locator('[data-check=source-assumed]')).toHaveCount(0);
  await expect(card(app, 'heightScale')).toHaveText('162.1118');
  // wrong on purpose, by one click on another reading, then back by undo
  await app.getByRole('button', { name: 'Read it as 1536 × 1536, 16 bits unsigned, little-endian' }).click();
  await expect(app.getByLabel('What the file holds')).toContainText(/Byte order\s*little-endian/);
  await expect(card(app, 'heightScale')).toHaveText('162.1118');
  await app.getByRole('button', { name: 'Undo' }).click();
  await expect(app.getByLabel('What the file holds')).toContainText(/Byte order\s*big-endian/);
  // and typed
  await app.getByRole('button', { name: 'type another layout' }).click();
  await app.getByLabel('Width').fill('3072');
  await app.getByLabel('Width').press('Enter');
  await expect(app.getByLabel('Height', { exact: true })).toHaveValue('768');
  await app.getByRole('button', { name: 'Read it this way' }).click();
  await expect(app.getByText('RAW, 3072 × 768')).toBeVisible();
});

test('a layout that is typed while the file is being read stays typed', async ({ app }) => {
  const gate = await Gate.into(app);
  await open(app);
  await go(app, 'Bring in');
  await app.getByLabel('Heightmap to bring in').setInputFiles(path.join(DEMO, 'kettle-tarn-big-endian.raw'));
  await expect(app.getByRole('button', { name: 'Project: kettle-tarn-big-endian' })).toBeVisible();
  await expect(app.getByRole('progressbar')).toHaveCount(0);
  await gate.armAndClick('Read it as 1536 × 1536, 16 bits unsigned, little-endian');
  await gate.reached();
  await app.getByRole('button', { name: 'type another layout' }).click();
  await app.getByLabel('Width').fill('3072');
  await app.getByLabel('Width').press('Enter');
  await gate.open();
  await expect(app.getByRole('progressbar')).toHaveCount(0);
  await expect(app.getByLabel('What the file holds')).toContainText(/Byte order\s*little-endian/);
  await expect(app.getByLabel('Width')).toHaveValue('3072');
  // and while what comes after it is taken back
  await gate.armAndClick('Undo');
  await gate.reached();
  await app.getByLabel('Bytes to skip').fill('16');
  await app.getByLabel('Bytes to skip').press('Enter');
  await gate.open();
  await expect(app.getByRole('progressbar')).toHaveCount(0);
  await expect(app.getByLabel('What the file holds')).toContainText(/Byte order\s*big-endian/);
  await expect(app.getByLabel('Width')).toHaveValue('3072');
  await expect(app.getByLabel('Bytes to skip')).toHaveValue('16');
  // another reading that is taken from the list is what the fields start from again
  await app.getByRole('button', { name: 'Read it as 3072 × 768, 16 bits unsigned, big-endian' }).click();
  await expect(app.getByText('RAW, 3072 × 768')).toBeVisible();
  await expect(app.getByLabel('Height', { exact: true })).toHaveValue('768');
  await expect(app.getByLabel('Bytes to skip')).toHaveValue('0');
});

for (const [name, bytes, found] of [
  ['words.png', Buffer.from('only words about the fells'), 'plain text'],
  ['empty.png', Buffer.alloc(0), 'a file of 0 bytes'],
  ['odd.raw', Buffer.alloc(100003), '100003 bytes'],
] as const) {
  test(`a bad file (${name}) is told, and the open project stays`, async ({ app }) => {
    await app
      .getByLabel('Heightmap to bring in')
      .setInputFiles({ name, mimeType: 'application/octet-stream', buffer: bytes });
    const alert = app.getByRole('alert').filter({ hasText: name });
    await expect(alert).toContainText(found);
    await expect(alert).toContainText('The open project is unchanged.');
    await alert.getByRole('button', { name: 'Close' }).click();
    await expect(app.getByRole('button', { name: 'Project: Kettle Tarn' })).toBeVisible();
    await expect(card(app, 'heightScale')).toHaveText('162.1118');
  });
}

test('a truncated picture dropped on the page leaves everything as it was', async ({ app }) => {
  const cut = readFileSync(path.join(DEMO, 'kettle-tarn.png')).subarray(0, 900000);
  const data = await app.evaluateHandle((base64) => {
    const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
    const transfer = new DataTransfer();
    transfer.items.add(new File([bytes], 'cut.png', { type: 'image/png' }));
    return transfer;
  }, cut.toString('base64'));
  await app.dispatchEvent('[data-ready]', 'drop', { dataTransfer: data });
  await expect(app.getByRole('alert').filter({ hasText: 'cut.png' })).toContainText('cut short');
  await expect(card(app, 'heightScale')).toHaveText('162.1118');
});

test('projects: rename, switch, delete with confirmation', async ({ app }) => {
  await app.getByLabel('Heightmap to bring in').setInputFiles(path.join(DEMO, 'kettle-tarn-8-bit.png'));
  await expect(app.getByRole('button', { name: 'Project: kettle-tarn-8-bit' })).toBeVisible();
  await expect(app.locator('[data-check=source-depth]')).toContainText('8 bits');
  await app.getByRole('button', { name: /^Project:/ }).click();
  await app.getByRole('menuitem', { name: 'Rename this project…' }).click();
  await app.getByRole('textbox', { name: 'Name' }).fill('Sluice Delta');
  await app.getByRole('button', { name: 'Rename', exact: true }).click();
  await expect(app.getByRole('button', { name: 'Project: Sluice Delta' })).toBeVisible();
  await app.getByRole('button', { name: /^Project:/ }).click();
  await app.getByRole('menuitem', { name: 'Kettle Tarn' }).click();
  await expect(app.getByRole('button', { name: 'Project: Kettle Tarn' })).toBeVisible();
  await expect(card(app, 'heightScale')).toHaveText('162.1118');
  await app.getByRole('button', { name: /^Project:/ }).click();
  await app.getByRole('menuitem', { name: 'Sluice Delta' }).click();
  await expect(app.getByRole('button', { name: 'Project: Sluice Delta' })).toBeVisible();
  await app.getByRole('button', { name: /^Project:/ }).click();
  await app.getByRole('menuitem', { name: 'Delete this project…' }).click();
  await app.getByRole('button', { name: 'Keep it' }).click();
  await expect(app.getByRole('button', { name: 'Project: Sluice Delta' })).toBeVisible();
  await app.getByRole('button', { name: /^Project:/ }).click();
  await app.getByRole('menuitem', { name: 'Delete this project…' }).click();
  await app.getByRole('button', { name: 'Delete project' }).click();
  await expect(app.getByRole('button', { name: 'Project: Kettle Tarn' })).toBeVisible();
  await app.reload();
  await ready(app);
  await app.getByRole('button', { name: /^Project:/ }).click();
  await expect(app.getByRole('menuitem', { name: 'Sluice Delta' })).toHaveCount(0);
});

test('several files become a project each, said in one line', async ({ app }) => {
  const picture = await sharp({ create: { width: 300, height: 300, channels: 3, background: '#446' } })
    .png()
    .toBuffer();
  const files = [
    { name: 'sluice-delta.png', mimeType: 'image/png', buffer: picture },
    { name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('the tarn lies below the fells') },
    { name: 'damaged.png', mimeType: 'image/png', buffer: picture.subarray(0, 60) },
    { name: 'cold-ridge.png', mimeType: 'image/png', buffer: picture },
  ];
  // dropped on the page, as from a folder
  const held = await app.evaluateHandle(
    (all) => {
      const transfer = new DataTransfer();
      for (const { name, type, bytes } of all)
        transfer.items.add(new File([Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0))], name, { type }));
      return transfer;
    },
    files.map((f) => ({ name: f.name, type: f.mimeType, bytes: f.buffer.toString('base64') })),
  );
  await app.locator('[data-ready=true]').dispatchEvent('drop', { dataTransfer: held });
  const said = app.getByText('2 of 4 files became projects, each its own; cold-ridge is open');
  await expect(said).toContainText('Not read: damaged.png');
  await expect(said).toContainText('1 with other endings was left alone');
  await app.getByRole('button', { name: 'Project: cold-ridge' }).click();
  for (const name of ['cold-ridge', 'Kettle Tarn', 'sluice-delta'])
    await expect(app.getByRole('menuitem', { name })).toBeVisible();
  await app.getByRole('menuitem', { name: 'sluice-delta' }).click();
  await expect(app.getByText('PNG, 300 × 300')).toBeVisible();
});
