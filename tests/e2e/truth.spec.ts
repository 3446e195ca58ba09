/** What the screen says must be so: sizes, sides, layout, steps, placeholders, ranges, drafts. */
import sharp from 'sharp';
import { hills } from '../helpers/rasters';
import { card, downloaded, expect, go, link, test } from './helpers';
import type { Page } from '@playwright/test';

const picture = async (width: number, height: number, codes = hills(width, height)): Promise<Buffer> =>
  sharp(codes, { raw: { width, height, channels: 1 } })
    .toColourspace('grey16')
    .png()
    .toBuffer();

async function bring(app: Page, name: string, buffer: Buffer): Promise<void> {
  await app.getByLabel('Heightmap to bring in').setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
  await expect(app.getByRole('button', { name: `Project: ${name.replace(/\.\w+$/, '')}` })).toBeVisible();
  await expect(app.getByRole('progressbar')).toHaveCount(0);
}
const type = async (app: Page, label: string, value: string): Promise<void> => {
  const field = app.getByLabel('Bench').getByLabel(label, { exact: true });
  await field.fill(value);
  await field.press('Enter');
};
const target = async (app: Page, name: RegExp): Promise<void> => {
  await app.getByRole('button', { name: /^Target:/ }).click();
  await app.getByRole('option', { name }).click();
};
const check = (app: Page, id: string) => app.locator(`[data-check="${id}"]`);

test('2048 samples fill 2049 vertices of the odd grid, with overshoot held', async ({ app }) => {
  await bring(app, 'far-shore.png', await picture(2048, 2048));
  await target(app, /Odd grid/);
  await expect(link(app, 'Fit')).toContainText('2049²');
  await go(app, 'Fit');
  await expect(app.getByRole('checkbox', { name: 'no overshoot' })).toBeChecked();
  await app.getByRole('slider', { name: 'Vertices per side' }).press('ArrowDown');
  await expect(link(app, 'Fit')).toContainText('1025²');
  await expect(check(app, 'fill')).toContainText('50 % of the source’s samples a side are kept');
  await check(app, 'fill').getByRole('button', { name: 'take 2049' }).click();
  await expect(link(app, 'Fit')).toContainText('2049²');
});

test('a rectangle keeps its shape; where sides must be equal it is cropped in the middle', async ({ app }) => {
  await bring(app, 'long-reach.png', await picture(601, 301));
  await go(app, 'Fit');
  await expect(check(app, 'square')).toHaveCount(0);
  await expect(card(app, 'groundScaleX')).toHaveText((await card(app, 'groundScaleY').textContent()) ?? '');
  await expect(app.getByRole('slider', { name: 'Vertices, east–west' })).toBeVisible();
  // sides apart on purpose: told, with the way back
  await app.getByRole('radio', { name: 'North–south' }).click();
  await app.getByRole('slider', { name: 'Vertices, north–south' }).press('ArrowUp');
  for (let n = 0; n < 40 && (await check(app, 'square').count()) === 0; n++)
    await app.getByRole('slider', { name: 'Vertices, north–south' }).press('ArrowUp');
  await expect(check(app, 'square')).toContainText('the ground is stretched');
  await check(app, 'square').getByRole('button').last().click();
  await expect(check(app, 'square')).toHaveCount(0);
  await target(app, /Odd grid/);
  await expect(link(app, 'Fit')).toContainText('257²');
  await expect(app.getByLabel('First column')).toHaveValue('172');
});

test('each placeholder is marked where it shows and cleared alone', async ({ app }) => {
  await bring(app, 'sluice-delta.png', await picture(300, 300));
  const rows = app.getByLabel('Import card').getByText('placeholder', { exact: true });
  await expect(rows).toHaveCount(4);
  await expect(link(app, 'Fit')).toContainText('?');
  await type(app, 'Spacing', '2');
  await expect(rows).toHaveCount(2);
  await expect(link(app, 'Fit')).not.toContainText('?');
  await expect(check(app, 'source-assumed')).toContainText('elevation of the lowest code');
  // confirmed as it stands, and typed as it stands
  await app.getByRole('button', { name: 'Confirm this placeholder' }).first().click();
  await type(app, 'Code 65535 stands for', '500');
  await expect(rows).toHaveCount(0);
  await expect(check(app, 'source-assumed')).toHaveCount(0);
});

test('a file of 16 bits with 8-bit content states its true step everywhere', async ({ app }) => {
  await bring(
    app,
    'old-mill.png',
    await picture(
      256,
      256,
      hills(256, 256).map((c) => (c >> 8) * 257),
    ),
  );
  await type(app, 'Code 65535 stands for', '510');
  await expect(link(app, 'Height')).toContainText('2 m ? a step');
  await expect(check(app, 'precision')).toContainText('One height step is 2 m, the source’s own');
  await expect(check(app, 'source-eight-bit-content')).toContainText('made from 8 bits');
  await go(app, 'Height');
  await expect(app.getByLabel('Bench')).toContainText('the source’s own');
  await expect(app.getByLabel('Section and elevations')).toContainText('steps 2 m');
});

test('a fixed scale flattens to fit or clips, and says how much', async ({ app }) => {
  await go(app, 'Height');
  await app.getByRole('radio', { name: 'Fixed scale' }).click();
  await expect(check(app, 'clipped')).toContainText('The ground does not fit the fixed scale');
  await expect(app.getByLabel('Bench')).toContainText('of the ground is clipped');
  await app.getByRole('radio', { name: 'Flatten to fit' }).click();
  await expect(check(app, 'clipped')).toHaveCount(0);
  await expect(check(app, 'exaggeration')).toContainText('Heights are multiplied by 0.61');
  const files = await downloaded(app, async () => {
    await go(app, 'Hand over');
    await app.getByRole('button', { name: 'Download the pack' }).click();
  });
  expect(Buffer.from(files['import.md']!).toString()).toMatch(/Exaggeration: heights multiplied by 0\.61/);
  await go(app, 'Proof');
  await expect(app.getByText('The pack holds')).toBeVisible();
});

test('tiles change no vertex; where the whole can’t be divided so, a click takes one that can', async ({ app }) => {
  await go(app, 'Split');
  await type(app, 'Across', '7');
  await expect(link(app, 'Fit')).toContainText('1525²');
  const refusal = app.getByLabel('Bench').getByRole('alert');
  await expect(refusal).toContainText('1525 vertices for 7 tiles across');
  await refusal.getByRole('button', { name: 'take 1324 in all' }).click();
  await expect(link(app, 'Split')).toContainText('7 × 7 of 190²');
  await app.getByRole('radio', { name: /^Tiles of 249,/ }).click();
  await expect(link(app, 'Fit')).toContainText('1737²');
  // an underline before the numbers is misread by importers of tiles
  await app.getByLabel('Name pattern').fill('{name}_{col}_{row}');
  await app.getByLabel('Name pattern').press('Enter');
  await expect(refusal).toContainText('"_" before the column and row part');
  await refusal.getByRole('button', { name: 'write {name}-{col}_{row}' }).click();
  await expect(refusal).toHaveCount(0);
});

test('a draft has a state of its own and never proves the pack', async ({ app }) => {
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the draft' }).click());
  expect(Object.keys(files)).toContain('Kettle-Tarn-draft505.png');
  expect(Buffer.from(files['import.md']!).toString()).toContain('a draft on 505 vertices');
  await expect(app.getByText('The draft holds')).toBeVisible();
  await expect(link(app, 'Proof')).toContainText('not proved');
  await expect(link(app, 'Hand over')).toContainText('not packed');
});

test('a replaced source keeps the extent or the spacing, and can be taken back', async ({ app }) => {
  await go(app, 'Bring in');
  await app
    .getByLabel('Replacing heightmap')
    .setInputFiles({ name: 'kettle-tarn-fine.png', mimeType: 'image/png', buffer: await picture(1025, 1025) });
  const note = app.getByLabel('Bench');
  await expect(note).toContainText('1025 × 1025 samples instead of 1536 × 1536');
  await expect(app.getByLabel('Spacing', { exact: true })).toHaveValue('3.747559');
  await app.getByRole('radio', { name: 'Keep the spacing' }).click();
  await expect(app.getByLabel('Spacing', { exact: true })).toHaveValue('2.5');
  await app.getByRole('radio', { name: 'Keep the extent' }).click();
  await app.getByRole('button', { name: /^Take \d+, which fits it best/ }).click();
  await expect(link(app, 'Fit')).toContainText('1021²');
  for (let n = 0; n < 4; n++) await app.getByRole('button', { name: 'Undo' }).click();
  await expect(app.getByText('PNG, 1536 × 1536')).toBeVisible();
  await expect(link(app, 'Fit')).toContainText('1525²');
});

test('a refused file can be read as RAW; a wrong length is told and what was typed stays', async ({ app }) => {
  const codes = hills(100, 60);
  const buffer = Buffer.concat([Buffer.alloc(16, 1), Buffer.from(codes.buffer)]);
  await app
    .getByLabel('Heightmap to bring in')
    .setInputFiles({ name: 'strange.dem', mimeType: 'application/octet-stream', buffer });
  const alert = app.getByRole('alert').filter({ hasText: 'strange.dem' });
  await alert.getByRole('button', { name: 'Read as RAW…' }).click();
  const field = alert.getByLabel('Bytes to skip');
  await field.fill('16');
  await field.press('Enter');
  const width = alert.getByLabel('Width');
  await width.fill('101');
  await width.press('Enter');
  await expect(alert.getByText(/Needs \d+ bytes; the file has 12016/)).toBeVisible();
  await width.fill('100');
  await width.press('Enter');
  await expect(alert.getByLabel('Height', { exact: true })).toHaveValue('60');
  await alert.getByRole('button', { name: 'Read it this way' }).click();
  await expect(app.getByText('RAW, 100 × 60')).toBeVisible();
});

test('voids ask for an elevation before anything is written', async ({ app }) => {
  const heights = Float32Array.from(hills(300, 300), (c) => 1310 + (c / 65535) * 830);
  heights.fill(NaN, 9000, 9400);
  await bring(app, 'torn-sheet.raw', Buffer.from(heights.buffer));
  await expect(check(app, 'voids')).toContainText('without a height');
  await go(app, 'Hand over');
  await expect(app.getByRole('button', { name: 'Download the pack' })).toBeDisabled();
  await check(app, 'voids')
    .getByRole('button', { name: /^give voids/ })
    .click();
  await expect(check(app, 'voids')).toHaveCount(0);
  await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  await go(app, 'Proof');
  await expect(app.getByText('The pack holds')).toBeVisible();
});

test('every row of the odd grid’s card can be typed wrong and is named', async ({ app }) => {
  await target(app, /Odd grid/);
  for (const id of ['bitDepth', 'fileSize', 'eastOffset', 'northOffset']) await expect(card(app, id)).toBeVisible();
  await expect(card(app, 'byteOrder')).toHaveText('little-endian');
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await app.getByRole('button', { name: /^Byte order, as typed/ }).click();
  await app.getByRole('option', { name: 'big-endian' }).click();
  await expect(app.getByText('Byte order is typed as big; it should be little.')).toBeVisible();
  await expect(app.getByText(/its byte order is wrong/)).toBeVisible();
  await app.getByRole('button', { name: 'as on the card' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await type(app, 'Vertices per side', '513');
  await expect(app.getByText('Vertices per side is typed as 513; it should be 1 025.')).toBeVisible();
});
