import AxeBuilder from '@axe-core/playwright';
import { fromArrayBuffer } from 'geotiff';
import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { writeTiff } from '../helpers/write-tiff';
import { card, codesOf, downloaded, expect, go, ready, test } from './helpers';

/* Targets of every kind, and one's own: chosen, typed into, packed, and read back by hand. */

async function choose(app: Page, name: RegExp): Promise<void> {
  await app.getByRole('button', { name: /^Target/ }).click();
  await app.getByRole('option', { name }).click();
}

async function packed(app: Page): Promise<Record<string, Uint8Array>> {
  await go(app, 'Proof');
  await app.getByRole('button', { name: /^Write (the files and prove them|and prove again)$/ }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await go(app, 'Hand over');
  return downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
}

test('a grid of cells: its card, its file, and what the proof says', async ({ app }) => {
  await choose(app, /^Even grid/);
  await expect(card(app, 'samples')).toContainText('1024');
  await expect(card(app, 'topOfRange')).toContainText('830.000');
  // 1535 spacings of 2.5 m on 1024 cells
  await expect(card(app, 'metresPerSample')).toContainText('3.7475');
  const files = await packed(app);
  const [, tiff] = Object.entries(files).find(([name]) => name.endsWith('.tiff'))!;
  const codes = await codesOf(tiff);
  expect(codes).toHaveLength(1024 * 1024);
  const least = codes.reduce((a, c) => Math.min(a, c), 65535);
  const most = codes.reduce((a, c) => Math.max(a, c), 0);
  expect(least).toBe(0);
  expect(most).toBeGreaterThan(64_000);
});

test('a fixed map: what does not fit is a fault, and one click mends it', async ({ app }) => {
  await choose(app, /^Fixed map, fixed steps/);
  await expect(
    app
      .getByText(/This map has 1081 vertices a side/)
      .or(card(app, 'vertices'))
      .first(),
  ).toBeVisible();
  const mend = app.getByRole('button', { name: /^flatten to fit/ });
  await mend.click();
  await expect(mend).toHaveCount(0);
  await packed(app);
});

test('elevations in metres as a TIFF of floats: nothing to type of them, and another reader finds them', async ({
  app,
}) => {
  await choose(app, /^Plain exchange/);
  await expect(card(app, 'highestElevation')).toContainText('2 140.000');
  await go(app, 'Split');
  await app.getByRole('radiogroup', { name: 'Format' }).getByRole('radio', { name: 'TIFF' }).click();
  const stored = app.getByRole('radiogroup', { name: 'Heights are stored as' });
  await stored.getByRole('radio', { name: '0 to 1' }).click();
  await expect(card(app, 'bitDepth')).toContainText('32');
  await expect(card(app, 'highestElevation')).toContainText('2 140.000');
  await stored.getByRole('radio', { name: 'Metres' }).click();
  await expect(card(app, 'highestElevation')).toHaveCount(0);
  await go(app, 'Height');
  await expect(app.getByText('The file holds elevations in metres')).toBeVisible();
  await expect(app.getByRole('radiogroup', { name: 'The range comes from' })).toHaveCount(0);
  const files = await packed(app);
  const [, tiff] = Object.entries(files).find(([name]) => name.endsWith('.tiff'))!;
  const image = await (await fromArrayBuffer(tiff.slice().buffer)).getImage();
  const [heights] = (await image.readRasters()) as unknown as [Float32Array];
  expect(heights).toHaveLength(1536 * 1536);
  expect(heights.reduce((a, h) => Math.min(a, h), Infinity)).toBeCloseTo(1310, 3);
  expect(heights.reduce((a, h) => Math.max(a, h), -Infinity)).toBeCloseTo(2140, 3);
  // a picture of grey can't hold them: they are codes again
  await go(app, 'Split');
  await app.getByRole('radiogroup', { name: 'Format' }).getByRole('radio', { name: 'PNG' }).click();
  await expect(stored.getByRole('radio', { name: '16 bits' })).toBeChecked();
});

test('a file that says where it lies becomes files that do, packed where that is asked for', async ({ app }) => {
  const SIDE = 65;
  const file = writeTiff(
    {
      width: SIDE,
      height: SIDE,
      type: 'float',
      bits: 32,
      tags: [
        [33550, 12, [2.5, 2.5, 0]],
        [33922, 12, [0, 0, 0, 400_000, 5_200_000, 0]],
        [34735, 3, [1, 1, 0, 4, 1024, 0, 1, 1, 1025, 0, 1, 2, 3072, 0, 1, 32733, 3076, 0, 1, 9001]],
      ],
    },
    (x, y) => Math.fround(1310 + 3 * x + 5 * y),
  );
  await app
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'fells.tif', mimeType: 'image/tiff', buffer: file });
  await ready(app);
  await choose(app, /^Plain exchange/);
  await go(app, 'Split');
  const format = app.getByRole('radiogroup', { name: 'Format' });
  await expect(app.getByText('These files can’t; the import page gives the coordinates.')).toBeVisible();
  await format.getByRole('radio', { name: 'TIFF' }).click();
  await expect(app.getByText('The source says where it lies on the map; so do the files.')).toBeVisible();
  await app.getByRole('radiogroup', { name: 'Heights are stored as' }).getByRole('radio', { name: 'Metres' }).click();
  await app
    .getByRole('radiogroup', { name: 'Size of the files' })
    .getByRole('radio', { name: 'Packed', exact: true })
    .click();
  const files = await packed(app);
  const [, tiff] = Object.entries(files).find(([name]) => name.endsWith('.tiff'))!;
  const image = await (await fromArrayBuffer(tiff.slice().buffer)).getImage();
  expect(image.getGeoKeys()).toMatchObject({ ProjectedCSTypeGeoKey: 32733 });
  expect(image.getOrigin().slice(0, 2)).toEqual([400_000, 5_200_000]);
  const [heights] = (await image.readRasters()) as unknown as [Float32Array];
  expect(heights).toHaveLength(SIDE * SIDE);
  expect([...heights]).toEqual(
    Array.from({ length: SIDE * SIDE }, (_, i) => 1310 + 3 * (i % SIDE) + 5 * Math.floor(i / SIDE)),
  );
  expect(new TextDecoder().decode(files['import.md'])).toContain('the files say so themselves');
});

test('who does not know the name of a target is asked what can be seen of it', async ({ app }) => {
  await app.getByRole('button', { name: 'Which kind of target is mine?' }).click();
  const sheet = app.getByRole('dialog');
  await expect(sheet).toContainText('One of these 8');
  const { violations } = await new AxeBuilder({ page: app }).include('[role=dialog]').analyze();
  expect(violations).toEqual([]);
  const ask = (question: RegExp) => sheet.getByRole('group', { name: question });
  await ask(/about heights/)
    .getByRole('radio', { name: /^metres/ })
    .check();
  await expect(sheet).toContainText('One of 5');
  // what no target that is left would say can't be answered
  await expect(ask(/sizes of picture/).getByRole('radio', { name: /^a list of odd ones/ })).toBeDisabled();
  await ask(/sizes of picture/)
    .getByRole('radio', { name: /513, 1025, 2049/ })
    .check();
  await expect(sheet).toContainText('It is this one');
  await sheet.getByRole('button', { name: 'Take Odd grid, 2ⁿ + 1' }).click();
  await expect(sheet).toHaveCount(0);
  await expect(card(app, 'heightRange')).toContainText('830.00');
});

test('the water is moved: the share under it follows, and one drag is undone at once', async ({ app }) => {
  await go(app, 'Height');
  const level = app.getByLabel('Sea level');
  const before = await level.inputValue();
  const water = app.getByRole('slider', { name: 'Move the water up and down' });
  await water.scrollIntoViewIfNeeded();
  const box = (await water.boundingBox())!;
  const at = (share: number): [number, number] => [box.x + box.width * share, box.y + box.height / 2];
  await app.mouse.move(...at(0.02));
  await app.mouse.down();
  for (const share of [0.1, 0.2, 0.3, 0.5]) await app.mouse.move(...at(share));
  await app.mouse.up();
  await expect.poll(async () => Number(await level.inputValue())).toBeGreaterThan(1700);
  await expect(app.getByText(/^\d+ % under water$/)).toBeVisible();
  await app.keyboard.press('Control+z');
  await expect(level).toHaveValue(before);
  // by keys: each press a round step
  await water.focus();
  await app.keyboard.press('ArrowRight');
  await expect(level).toHaveValue('1315');
});

test('ground that is imported already is put right in place: what to type instead', async ({ app }) => {
  await go(app, 'Height');
  await app.getByRole('button', { name: 'Imported already, and too high or too low' }).click();
  for (const [label, value] of [
    ['Height scale now', '100'],
    ['Height offset now', '25600'],
    ['The place stands at', '38400'],
    ['It should stand at', '78400'],
  ] as const) {
    await app.getByLabel(label).fill(value);
    await app.getByLabel(label).press('Enter');
  }
  // code 49 152: 384 m above code 0, which stays at 0; 784 / 384 = 2.041 667 times as tall
  const told = app.getByRole('status').filter({ hasText: 'The files stay as they are' });
  await expect(told).toContainText('Height offset 65 600.00 cm');
  await expect(told).toContainText('Height scale 204.1667');
  await expect(told).toContainText('Height offset 52 266.67 cm');
  // the project is as it was
  await expect(card(app, 'heightScale')).toContainText('162.1118');
});

test('layers are typed, and the card follows', async ({ app }) => {
  await choose(app, /^Voxel layers/);
  await go(app, 'Height');
  const top = app.getByRole('textbox', { name: 'Top layer' });
  await top.fill('255');
  await top.press('Enter');
  await expect(card(app, 'topLayer')).toContainText('255');
  // 830 m over 319 steps
  await expect(card(app, 'metresPerLayer')).toContainText('2.601881');
});

test('a target of one’s own: saved, changed, opened, packed; a wrong one is told by its path', async ({ app }) => {
  await choose(app, /^Plain exchange/);
  await go(app, 'Fit');
  const [saved] = await Promise.all([
    app.waitForEvent('download'),
    app.getByRole('button', { name: 'Save this one’s description' }).click(),
  ]);
  const described = JSON.parse(readFileSync(await saved.path(), 'utf8')) as Record<string, unknown>;
  const file = (change: object) => ({
    name: 'press.target.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify({ ...described, id: 'terrace-press', name: 'Terrace press', ...change })),
  });
  const field = app.getByLabel('Description of a target');
  await field.setInputFiles(file({ highestCode: 'many' }));
  await expect(app.getByRole('alert').filter({ hasText: 'highestCode' })).toBeVisible();
  await field.setInputFiles(
    file({ grid: { kind: 'multiples', step: 3, plus: 1, min: 4, max: 4000 }, highestCode: 4095 }),
  );
  await expect(app.getByRole('button', { name: /^Target/ })).toContainText('Terrace press');
  await expect(card(app, 'verticesX')).toContainText('1537');
  const files = await packed(app);
  const recipe = JSON.parse(Buffer.from(files['recipe.json']!).toString()) as { target: { id: string } };
  expect(recipe.target.id).toBe('terrace-press');
  // it is kept over a reload
  await app.reload();
  await expect(app.getByRole('button', { name: /^Target/ })).toContainText('Terrace press');
});
