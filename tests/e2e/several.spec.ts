/** Meshes, and several files at once: laid out by hand, compared. */
import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { createHash } from 'node:crypto';
import { strFromU8, zipSync } from 'fflate';
import { pngSource } from '../helpers/rasters';
import { groundMesh, joined, objOf } from '../helpers/write-mesh';
import { card, codesOf, downloaded, expect, go, ready, test } from './helpers';

/** Nothing of a sheet is out of reach, in both themes. */
async function findsNothing(page: Page): Promise<void> {
  const before = await page.evaluate(() => document.documentElement.dataset['theme'] ?? '');
  for (const theme of ['night', before]) {
    await page.evaluate((t) => (document.documentElement.dataset['theme'] = t), theme);
    const { violations } = await new AxeBuilder({ page }).include('[role=dialog]').analyze();
    expect(violations).toEqual([]);
  }
}

const SIDE = 64;
const ground = (x: number, y: number): number =>
  Math.round(30000 + 16000 * Math.sin(x / 29) * Math.cos(y / 37) + 3000 * Math.sin((x + 2 * y) / 9));

/** Four quarters of the ground whose names say nothing, from the north-west by rows. */
const NAMES = ['birch.png', 'elm.png', 'ash.png', 'cedar.png'] as const;

async function quarters(): Promise<{ name: string; mimeType: string; buffer: Buffer }[]> {
  return Promise.all(
    NAMES.map(async (name, i) => {
      const [x0, y0] = [(i % 2) * (SIDE - 1), Math.floor(i / 2) * (SIDE - 1)];
      const codes = Uint16Array.from({ length: SIDE * SIDE }, (_, k) =>
        ground(x0 + (k % SIDE), y0 + Math.floor(k / SIDE)),
      );
      const png = await pngSource(codes, SIDE);
      return { name, mimeType: 'image/png', buffer: Buffer.from(await png.read(0, png.size)) };
    }),
  );
}

test('files whose names say nothing are laid out on a board, by mouse and by keys, and proved', async ({ app }) => {
  await app.getByLabel('Heightmap to bring in').setInputFiles(await quarters());
  const sheet = app.getByRole('dialog');
  await expect(sheet).toContainText('4 files at once');
  await expect(sheet).toContainText('neither say where they lie nor are told apart');
  const cell = (column: number, row: number) =>
    sheet.getByRole('button', { name: new RegExp(`^Column ${column}, row ${row}:`) });
  // in the order of their names: ash, birch / cedar, elm
  await expect(cell(1, 1)).toHaveAccessibleName('Column 1, row 1: ash.png');
  await expect(sheet).toContainText('The edges do not fit.');
  await findsNothing(app);
  // by mouse: birch goes to the north-west, ash to where it was
  await cell(2, 1).dragTo(cell(1, 1));
  await expect(cell(1, 1)).toHaveAccessibleName('Column 1, row 1: birch.png');
  // by keys: elm from the south-east to the north-east; ash comes down
  await cell(2, 2).focus();
  await app.keyboard.press('Enter');
  await expect(sheet).toContainText('elm.png is lifted');
  await app.keyboard.press('ArrowUp');
  await app.keyboard.press('Enter');
  await expect(cell(2, 1)).toHaveAccessibleName('Column 2, row 1: elm.png');
  // ash and cedar change places
  await app.keyboard.press('ArrowDown');
  await app.keyboard.press('Enter');
  await app.keyboard.press('ArrowLeft');
  await app.keyboard.press('Enter');
  await expect(cell(1, 2)).toHaveAccessibleName('Column 1, row 2: ash.png');
  await expect(sheet).toContainText('The edges fit. The largest difference, 0,');
  await expect(sheet).toContainText('127 × 127 samples. Laid out by hand; neighbours hold the same edge both.');
  await sheet.getByRole('button', { name: 'Put them together so' }).click();
  await expect(app.getByLabel('What the file holds')).toContainText('4 files');
  await expect(app.getByLabel('What the file holds')).toContainText('127 × 127');
  // read to its end, and kept
  await expect(app.getByLabel('What the file holds')).toContainText(/Different codes\s*\d/);
  await ready(app);
  await app.reload();
  await ready(app);
  await expect(app.getByLabel('What the file holds')).toContainText('127 × 127');
  await expect(app.locator('[data-check=source-mosaic]')).toHaveCount(0);
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  // the recipe names the files with their checksums, where they lie
  await go(app, 'Hand over');
  const pack = await downloaded(app, () =>
    app
      .getByRole('button', { name: /^Download/ })
      .first()
      .click(),
  );
  const { source } = JSON.parse(strFromU8(pack['recipe.json']!)) as {
    source: { files: { name: string; at: number[]; sha256: string }[] };
  };
  const given = new Map((await quarters()).map((q) => [q.name, createHash('sha256').update(q.buffer).digest('hex')]));
  expect(Object.fromEntries(source.files.map((f) => [f.name, f.sha256]))).toEqual(Object.fromEntries(given));
  expect(source.files.find((f) => f.name === 'cedar.png')?.at).toEqual([SIDE - 1, SIDE - 1]);
});

test('tiles that stand higher or lower, or were normalised each by itself: one click, and heights stay what they were', async ({
  app,
}) => {
  const made = async (value: (code: number, tile: number, y: number) => number) => {
    let top = 0;
    const files = await Promise.all(
      [0, 1, 2, 3].map(async (i) => {
        const [x0, y0] = [(i % 2) * (SIDE - 1), Math.floor(i / 2) * (SIDE - 1)];
        const codes = Uint16Array.from({ length: SIDE * SIDE }, (_, k) => {
          const y = y0 + Math.floor(k / SIDE);
          return Math.round(value(ground(x0 + (k % SIDE), y), i, y));
        });
        top = codes.reduce((a, b) => Math.max(a, b), top);
        const png = await pngSource(codes, SIDE);
        const name = `fells-r${Math.floor(i / 2)}c${i % 2}.png`;
        return { name, mimeType: 'image/png', buffer: Buffer.from(await png.read(0, png.size)) };
      }),
    );
    // until the heights are told, the codes stand for 0 to 500 m
    return { files, highest: (top / 65535) * 500 };
  };
  const sheet = app.getByRole('dialog');
  const check = app.locator('[data-check=source-mosaic]');
  const holds = app.getByLabel('What the file holds');
  /** The ends of the range in metres, as the legend has them. */
  const range = async (): Promise<number[]> =>
    ((await app.getByLabel(/^Legend: Elevation/).getAttribute('aria-label')) ?? '')
      .split('m,')[1]!
      .split(', ')
      .map((t) => Number(t.replaceAll(/\s/g, '')));
  for (const [cure, after, value] of [
    [
      'blend them over 32 samples',
      // a step: the files hold what they held
      'Different codes',
      (v: number, i: number, y: number) => v * 0.6 + 5000 + 4000 * (i % 2) * (1 + Math.sin(y / 9)),
    ],
    ['fit them to the first', 'Different values', (v: number, i: number) => v * (0.5 + 0.1 * i) + 1500 * i],
  ] as const) {
    const { files, highest } = await made(value);
    await app.getByLabel('Heightmap to bring in').setInputFiles(files);
    await sheet.getByRole('button', { name: 'Put them together' }).click();
    await expect(holds).toContainText(/Different codes\s*\d/);
    // read to its end: the legend no longer has the ends of the codes
    await expect.poll(async () => Math.abs((await range())[2]! - highest)).toBeLessThan(1);
    await check.getByRole('button', { name: cure }).click();
    await expect(check).toHaveCount(0);
    await expect(holds).toContainText(new RegExp(`${after}\\s*\\d`));
    await expect(app.locator('[data-check=source-unit]')).toHaveCount(0);
    // codes stand for as many metres as before, fitted or blended
    await expect.poll(async () => (await range())[2]!).toBeGreaterThan(0.4 * highest);
    expect((await range())[2]!).toBeLessThan(1.1 * highest);
    await go(app, 'Proof');
    await app.getByRole('button', { name: 'Write the files and prove them' }).click();
    await expect(app.getByText('The pack holds')).toBeVisible();
    await go(app, 'Bring in');
  }
});

test('data sets of the same ground are ranked with reasons; one is taken', async ({ app }) => {
  const wide = 200;
  const png = async (name: string, value: (x: number, y: number) => number, side: number) => {
    const source = await pngSource(
      Uint16Array.from({ length: side * side }, (_, k) => value(k % side, Math.floor(k / side))),
      side,
    );
    return { name, mimeType: 'image/png', buffer: Buffer.from(await source.read(0, source.size)) };
  };
  const lifted = (x: number, y: number): number => ground(x, y) + (Math.hypot(x - 40, y - 150) < 12 ? 4000 : 0);
  await app
    .getByLabel('Heightmap to bring in')
    .setInputFiles([await png('survey.png', ground, wide), await png('sculpted.png', lifted, wide)]);
  const sheet = app.getByRole('dialog');
  await expect(sheet).toContainText('2 files at once');
  await sheet.getByRole('radio', { name: 'The same ground: compare' }).click();
  const list = sheet.getByRole('list', { name: 'Best first' });
  await expect(list.getByRole('listitem')).toHaveCount(2);
  await expect(list).toContainText('No voids');
  await findsNothing(app);
  await expect(sheet).toContainText('(laid on it by a factor and a shift)');
  await list
    .getByRole('listitem')
    .filter({ hasText: 'survey.png' })
    .getByRole('button', { name: 'Take this one' })
    .click();
  await expect(sheet).toHaveCount(0);
  await expect(app.getByRole('button', { name: 'Project: survey' })).toBeVisible();
});

test('a mesh: which axis is up, how fine, its overhang, a pinned volume, and the proof', async ({ app }) => {
  const arch = joined(
    groundMesh(61, 61, 2, (x, y) => 40 + 9 * Math.sin(x / 7) * Math.cos(y / 9)),
    {
      vertices: [90, 84].flatMap(
        (z) =>
          [
            [40, 50, z],
            [80, 50, z],
            [80, 70, z],
            [40, 70, z],
          ] as [number, number, number][],
      ),
      faces: [
        [0, 1, 2, 3],
        [7, 6, 5, 4],
      ],
    },
  );
  await app.getByLabel('Heightmap to bring in').setInputFiles({
    name: 'wend-arch.obj',
    mimeType: 'text/plain',
    buffer: Buffer.from(objOf(arch, 'y')),
  });
  const holds = app.getByLabel('What the file holds');
  await expect(holds).toContainText('OBJ, 7 204 triangles');
  await expect(holds).toContainText('over 200 samples');
  await expect(app.getByRole('radio', { name: 'Y is up' })).toBeChecked();
  await expect(app.getByText('Guessed: ground is lower than it is wide')).toBeVisible();
  await expect(app.locator('[data-check=source-overhang]')).toContainText('Under 200 samples');
  const spacing = app.getByRole('textbox', { name: 'Sample to sample' });
  await expect(spacing).toHaveValue('2');
  await spacing.fill('1');
  await spacing.press('Enter');
  await expect(app.getByText('The highest surface is taken at each of 14 641 places.')).toBeVisible();
  await app.getByRole('button', { name: 'Pin this volume' }).click();
  await expect(app.getByLabel('The pinned volume')).toContainText('0 to 120 m');
  await expect(holds).toContainText('0 triangles');
  await expect(holds).toContainText(/Different values\s*\d/);
  await ready(app);
  await app.reload();
  await ready(app);
  await expect(app.getByLabel('The pinned volume')).toContainText('0 to 120 m');
  // room to sculpt in: as much as the artist wants
  const highest = app.getByRole('textbox', { name: 'Highest height' });
  const before = await highest.inputValue();
  await highest.fill('260');
  await highest.press('Enter');
  await expect(app.getByLabel('The pinned volume')).toContainText('to 260 m');
  await expect(holds).toContainText('0 triangles');
  await app.getByRole('button', { name: 'Undo' }).click();
  await expect(highest).toHaveValue(before);
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await expect(card(app, 'heightScale')).toBeVisible();
});

test('files that do not belong together, a mesh with a hole, an archive of nothing: each says what it is', async ({
  app,
}) => {
  const asc = (name: string, x: number, cell: number) => ({
    name,
    mimeType: 'text/plain',
    buffer: Buffer.from(
      `ncols 40\nnrows 40\nxllcorner ${x}\nyllcorner 0\ncellsize ${cell}\n${Array.from({ length: 40 }, (_, j) => Array.from({ length: 40 }, (_v, i) => ground(i, j) / 50).join(' ')).join('\n')}`,
    ),
  });
  const bringIn = app.getByLabel('Heightmap to bring in');
  const sheet = app.getByRole('dialog');
  for (const [files, words] of [
    [[asc('north.asc', 0, 2), asc('copy.asc', 0, 2)], 'copy.asc: found the place of north.asc'],
    [[asc('north.asc', 0, 2), asc('coarse.asc', 80, 5)], 'coarse.asc: found samples 5 × 5 apart'],
  ] as const) {
    await bringIn.setInputFiles([...files]);
    await expect(sheet).toContainText(words);
    await app.keyboard.press('Escape');
    await expect(sheet).toHaveCount(0);
  }
  await bringIn.setInputFiles({
    name: 'notes.zip',
    mimeType: 'application/zip',
    buffer: Buffer.from(zipSync({ 'notes.txt': Buffer.from('no heights') })),
  });
  const alert = app.getByRole('alert').filter({ hasText: 'notes.zip' });
  await expect(alert).toBeVisible();
  await app.keyboard.press('Escape');
  await expect(app.getByRole('button', { name: 'Project: Kettle Tarn' })).toBeVisible();
  const whole = groundMesh(41, 41, 2, (x, y) => 20 + 5 * Math.sin(x / 6) * Math.cos(y / 7));
  const holed = {
    ...whole,
    faces: whole.faces.filter((_, i) => Math.floor(i / 40) % 40 < 20 || i % 40 < 20 || i % 40 > 24),
  };
  await bringIn.setInputFiles({ name: 'holed.obj', mimeType: 'text/plain', buffer: Buffer.from(objOf(holed, 'z')) });
  await expect(app.locator('[data-check=source-voids]')).toBeVisible();
  await expect(app.getByLabel('What the file holds')).toContainText('Voids');
});

test('a broken mesh says where, and what stands there', async ({ app }) => {
  await app.getByLabel('Heightmap to bring in').setInputFiles({
    name: 'broken.obj',
    mimeType: 'text/plain',
    buffer: Buffer.from('v 0 0 0\nv 1 0 0\nv 0 one 0\nf 1 2 3\n'),
  });
  const alert = app.getByRole('alert').filter({ hasText: 'broken.obj' });
  await expect(alert).toContainText('"v 0 one 0" in line 3');
});

test('the survey desk: numbers before, in the record and on the card agree; stretched ground comes back true', async ({
  app,
}) => {
  await app.getByRole('button', { name: 'or take surveyed ground' }).click();
  const desk = app.getByRole('dialog');
  const sheet = desk.getByRole('group', { name: 'Index sheet' });
  await sheet.getByRole('button', { name: 'Block B2' }).click();
  await expect(sheet.getByRole('button', { name: 'Block B2' })).toHaveAttribute('aria-pressed', 'true');
  await desk.getByRole('textbox', { name: 'East' }).fill('80.35');
  await desk.getByRole('textbox', { name: 'East' }).press('Enter');
  const stretch = desk.getByRole('textbox', { name: 'Vertical stretch' });
  await stretch.fill('1.8');
  await stretch.press('Enter');
  const facts = desk.getByLabel('This ground');
  await expect(facts).toContainText('181 × 361');
  await findsNothing(app);
  const told = async (name: string) =>
    (await facts
      .locator('div', { has: app.getByText(name, { exact: true }) })
      .getByRole('definition')
      .textContent()) ?? '';
  const [heights, codes] = [await told('True heights'), await told('Codes stand for')];
  // the bundle can be kept, and holds what the project is made of
  const bundle = await downloaded(app, () => desk.getByRole('button', { name: 'Save it as a zip' }).click());
  expect(Object.keys(bundle).sort()).toEqual([
    'tarrowen-fells.png',
    'tarrowen-fells.record.json',
    'tarrowen-fells.survey-map.png',
  ]);
  const record = JSON.parse(strFromU8(bundle['tarrowen-fells.record.json']!)) as Record<string, unknown>;
  expect(record).toMatchObject({ width: 181, height: 361, stretch: 1.8 });
  expect(await codesOf(bundle['tarrowen-fells.png']!)).toHaveLength(181 * 361);
  await desk.getByRole('button', { name: 'Take this ground' }).click();
  await expect(desk).toHaveCount(0);
  const holds = app.getByLabel('What the file holds');
  await expect(holds).toContainText('tarrowen-fells.record.json, tarrowen-fells.survey-map.png');
  await expect(holds).toContainText(codes);
  await expect(holds).toContainText('× 1.8, undone');
  // the true heights are what the ground has, stretched or not
  const [low = '', high = ''] = heights.replaceAll('\u00a0', ' ').replace(' m', '').split(' to ');
  const stretched = app.locator('[data-check=source-stretch]');
  await expect(stretched).toContainText('A stretch of 1.8 is divided out');
  const number = (text: string): number => Number(text.replaceAll(/\s/g, ''));
  await app.getByRole('button', { name: /^Make squares of/ }).click();
  await expect(app.getByText(/^zone 44 south$/)).toBeVisible();
  await go(app, 'Clean');
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  const legend = app.getByLabel(/^Legend: Elevation/);
  const range = ((await legend.getAttribute('aria-label')) ?? '').split('m,')[1]!.split(', ').map(number);
  expect(Math.abs(range[0]! - number(low))).toBeLessThan(30);
  expect(Math.abs(range[2]! - number(high))).toBeLessThan(30);
});

test('a service with faults leaves what came: try again, or take it with voids', async ({ page }) => {
  // answers that fail are what is asked for here: the console may tell of them
  await page.goto('/');
  await ready(page);
  await page.getByRole('button', { name: /^Project:/ }).click();
  await page.getByRole('menuitem', { name: 'Take ground from the survey desk…' }).click();
  const desk = page.getByRole('dialog');
  const sheet = desk.getByRole('group', { name: 'Index sheet' });
  // an outline across six blocks
  const box = (await sheet.boundingBox())!;
  await page.mouse.move(box.x + 80, box.y + 80);
  await page.mouse.down();
  await page.mouse.move(box.x + 290, box.y + 215, { steps: 4 });
  await page.mouse.up();
  const facts = desk.getByLabel('This ground');
  await expect(facts).toContainText('Blocks6');
  await desk.getByRole('button', { name: 'Try a fault of the service' }).click();
  const fault = async (name: string): Promise<void> => {
    await desk.getByRole('button', { name: /^Fault/ }).click();
    await page.getByRole('option', { name }).click();
  };
  await fault('breaks off half-way');
  const take = desk.getByRole('button', { name: 'Take this ground' });
  await take.click();
  const status = desk.getByRole('status');
  await expect(status).toContainText('2 of 6 blocks did not come: D2, D3');
  await expect(status).toContainText('of 521284 bytes');
  await expect(sheet.getByRole('button', { name: 'Block C3, has come' })).toBeVisible();
  // what is asked again is what did not come
  await fault('some blocks missing');
  await desk.getByRole('button', { name: 'Try the others again' }).click();
  await expect(status).toContainText('1 of 6 blocks did not come: D3');
  await desk.getByRole('button', { name: 'Take what came, voids for the rest' }).click();
  await expect(desk).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Project: tarrowen-fells' })).toBeVisible();
  await expect(page.getByLabel('What the file holds')).toContainText('Voids');
  await expect(page.locator('[data-check=source-voids]')).toBeVisible();
});
