/** Files of every family, as an artist drops them: what the page says of them, and what becomes of their numbers. */
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { writeExr } from '../helpers/write-exr';
import { writeTiff } from '../helpers/write-tiff';
import { card, expect, go, test } from './helpers';

const SIDE = 129;
const ground = (x: number, y: number): number =>
  Math.fround(1725 + 280 * Math.sin(x / 19) * Math.cos(y / 23) + 135 * Math.sin((x + y * 2) / 7.3));

const hgt = (): Buffer => {
  const bytes = Buffer.alloc(1201 * 1201 * 2);
  for (let i = 0; i < 1201 * 1201; i++) bytes.writeInt16BE(Math.round(ground(i % 1201, Math.floor(i / 1201))), i * 2);
  return bytes;
};
const asc = (): Buffer =>
  Buffer.from(
    `ncols ${SIDE}\r\nnrows ${SIDE}\r\nxllcorner 0\r\nyllcorner 0\r\ncellsize 2.5\r\n` +
      Array.from({ length: SIDE }, (_, y) => Array.from({ length: SIDE }, (_v, x) => ground(x, y)).join(' ')).join(
        '\r\n',
      ),
  );
const pgm = (): Buffer => {
  const codes = Buffer.alloc(SIDE * SIDE * 2);
  for (let i = 0; i < SIDE * SIDE; i++)
    codes.writeUInt16BE(Math.round((ground(i % SIDE, Math.floor(i / SIDE)) - 1310) * 70), i * 2);
  return Buffer.concat([Buffer.from(`P5\n${SIDE} ${SIDE}\n65535\n`), codes]);
};
const exr = (value: (x: number, y: number) => number, name = 'height'): Buffer =>
  writeExr([
    [{ width: SIDE, height: SIDE, channels: [{ name, type: 'float' }], compression: 'PIZ' }, (_, x, y) => value(x, y)],
  ]);

const FAMILIES: readonly { name: string; make: () => Buffer; says: readonly string[] }[] = [
  {
    name: 'fells.tif',
    make: () =>
      writeTiff(
        {
          width: SIDE,
          height: SIDE,
          type: 'float',
          bits: 32,
          compression: 8,
          predictor: 3,
          tile: [64, 64],
          tags: [
            [33550, 12, [2.5, 2.5, 0]],
            [33922, 12, [0, 0, 0, 400000, 5200000, 0]],
            [34735, 3, [1, 1, 0, 4, 1024, 0, 1, 1, 1025, 0, 1, 1, 3072, 0, 1, 32632, 3076, 0, 1, 9001]],
            [42113, 2, '-9999'],
          ],
        },
        (x, y) => (x === 3 && y < 2 ? -9999 : ground(x, y)),
      ),
    says: ['TIFF', '32 bit float', '2.5 m', 'cells', 'EPSG:32632', '2, stored as −9999'],
  },
  { name: 'fells.exr', make: () => exr(ground), says: ['EXR', '129 × 129', '32 bit float', 'height'] },
  { name: 'S12W071.hgt', make: hgt, says: ['HGT', '1201 × 1201', '16 bit signed', 'metres', 'EPSG:4326'] },
  { name: 'fells.asc', make: asc, says: ['ASCII grid', '129 × 129', '2.5 m', 'cells'] },
  { name: 'fells.pgm', make: pgm, says: ['PGM or PFM', '16 bit unsigned', 'big-endian'] },
];

for (const { name, make, says } of FAMILIES)
  test(`${name} opens and says what it holds`, async ({ app }) => {
    await app
      .getByLabel('Heightmap to bring in')
      .setInputFiles({ name, mimeType: 'application/octet-stream', buffer: make() });
    await expect(app.getByRole('button', { name: `Project: ${name.replace(/\.[^.]*$/, '')}` })).toBeVisible();
    await expect(app.getByRole('progressbar')).toHaveCount(0);
    const held = app.getByLabel('What the file holds');
    for (const words of says) await expect(held).toContainText(words);
  });

test('degrees are told, with the metres that they are both ways', async ({ app }) => {
  await app
    .getByLabel('Heightmap to bring in')
    .setInputFiles({ name: 'N47E011.hgt', mimeType: 'application/octet-stream', buffer: hgt() });
  await expect(app.locator('[data-check=source-degrees]')).toContainText(
    '62.79 m east–west and 92.65 m north–south. They are read as squares: everything looks 1.48 times too wide.',
  );
});

test('floats of 0 to 1 are no metres: low, high and spacing are asked, and the pack is proved', async ({ app }) => {
  await app.getByLabel('Heightmap to bring in').setInputFiles({
    name: 'fells.exr',
    mimeType: 'image/x-exr',
    buffer: exr((x, y) => Math.fround((ground(x, y) - 1310) / 830), 'Y'),
  });
  const low = app.getByRole('textbox', { name: 'Code 0 stands for' });
  await expect(low).toBeFocused();
  await app.keyboard.type('1310');
  await app.keyboard.press('Enter');
  await expect(app.getByRole('textbox', { name: 'Code 1 stands for' })).toBeFocused();
  await app.keyboard.type('2140');
  await app.keyboard.press('Enter');
  await app.keyboard.type('2.5');
  await app.keyboard.press('Enter');
  await expect(app.getByText('Heights and ground are known.')).toBeVisible();
  await expect(app.locator('[data-check=source-unit]')).toHaveCount(0);
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
});

test('metres read as 0 to 1 are noticed, and one click puts them right', async ({ app }) => {
  await app
    .getByLabel('Heightmap to bring in')
    .setInputFiles({ name: 'fells.exr', mimeType: 'image/x-exr', buffer: exr(ground) });
  await expect(card(app, 'heightScale')).toHaveText(/^1[56]\d\.\d+$/);
  await app.getByRole('button', { name: 'They run from 0 to 1 instead' }).click();
  const check = app.locator('[data-check=source-unit]');
  await expect(check).toContainText('looks like metres');
  await check.getByRole('button', { name: 'they are metres' }).click();
  await expect(check).toHaveCount(0);
  await expect(card(app, 'heightScale')).toHaveText(/^1[56]\d\.\d+$/);
});

test('what loses heights, or holds none, is refused with a way round; the open project stays', async ({ app }) => {
  const project = app.getByRole('button', { name: 'Project: Kettle Tarn' });
  const lossy = exr(ground);
  lossy[lossy.indexOf('compression\0compression\0', 0, 'latin1') + 28] = 8;
  const jpeg = await sharp({ create: { width: 16, height: 16, channels: 3, background: '#777' } })
    .jpeg()
    .toBuffer();
  for (const [name, buffer, words] of [
    ['fells.exr', lossy, 'packed with DWAA, which loses heights'],
    ['fells.jpg', jpeg, 'a JPEG picture, which keeps 8 bits at most and loses heights'],
    ['cut.tif', writeTiff({ width: SIDE, height: SIDE, type: 'uint', bits: 16 }, (x) => x).subarray(0, 400), ''],
  ] as const) {
    await app.getByLabel('Heightmap to bring in').setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
    const alert = app.getByRole('alert').filter({ hasText: name });
    await expect(alert).toContainText(words);
    await app.keyboard.press('Escape');
    await expect(alert).toHaveCount(0);
    await expect(project).toBeVisible();
  }
});

test('a zip that is no pack: its height files become projects', async ({ app }) => {
  const bytes = zipSync({
    'fells/tarn.exr': exr(ground),
    'fells/notes.txt': Buffer.from('made by hand'),
    'delta.pgm': pgm(),
  });
  await app
    .getByLabel('Heightmap to bring in')
    .setInputFiles({ name: 'fells.zip', mimeType: 'application/zip', buffer: Buffer.from(bytes) });
  await expect(app.getByText('2 of 2 files became projects, each its own')).toBeVisible();
  await expect(app.getByLabel('What the file holds')).toContainText('PGM or PFM');
  await app.getByRole('button', { name: /^Project: / }).click();
  await expect(app.getByRole('menuitem', { name: 'tarn', exact: true })).toBeVisible();
});
