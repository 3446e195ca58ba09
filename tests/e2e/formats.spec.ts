/** Files of every family, as an artist drops them: what the page says of them, and what becomes of their numbers. */
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { pngSource } from '../helpers/rasters';
import { writeExr } from '../helpers/write-exr';
import { writeTiff } from '../helpers/write-tiff';
import { card, expect, go, ready, test } from './helpers';

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
  // one click makes squares of them, another leaves them in degrees; both can be undone
  await app.locator('[data-check=source-degrees]').getByRole('button', { name: 'make square metres' }).click();
  await expect(app.getByText('zone 32 north', { exact: true })).toBeVisible();
  await expect(app.locator('[data-check=source-degrees]')).toHaveCount(0);
  await expect(card(app, 'groundScaleX')).toHaveText('6 279.0000');
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await expect(app.getByText(/squares were projected and worked out a second time/)).toBeVisible();
  await go(app, 'Bring in');
  await app.getByRole('button', { name: 'Leave it as it lies' }).click();
  await expect(app.locator('[data-check=source-degrees]')).toBeVisible();
  await app.getByRole('button', { name: 'Undo' }).click();
  await expect(app.getByText('zone 32 north', { exact: true })).toBeVisible();
});

test('a map that stretches the ground is told, and its metres become those of the ground', async ({ app }) => {
  // the north-west at 80.3° and −47.2°, on the usual map of the world
  const buffer = writeTiff(
    {
      width: SIDE,
      height: SIDE,
      type: 'float',
      bits: 32,
      tags: [
        [33550, 12, [20, 20, 0]],
        [33922, 12, [0, 0, 0, 8_938_955.11, -5_974_127.77, 0]],
        [34735, 3, [1, 1, 0, 3, 1024, 0, 1, 1, 1025, 0, 1, 2, 3072, 0, 1, 3857]],
      ],
    },
    ground,
  );
  await app
    .getByLabel('Heightmap to bring in')
    .setInputFiles({ name: 'fells.tif', mimeType: 'application/octet-stream', buffer });
  const check = app.locator('[data-check=source-degrees]');
  await expect(check).toContainText('20 m of it are 13.61 m east–west and 13.57 m north–south');
  await expect(app.getByText('A map that stretches the ground')).toBeVisible();
  await check.getByRole('button', { name: 'make square metres' }).click();
  await expect(app.getByText('zone 44 south', { exact: true })).toBeVisible();
  await expect(check).toHaveCount(0);
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await expect(app.getByText(/squares were projected and worked out a second time/)).toBeVisible();
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

test('a grid with the header and coordinates beside it is one source, also after a reload', async ({ app }) => {
  const bytes = Buffer.alloc(SIDE * SIDE * 2);
  for (let i = 0; i < SIDE * SIDE; i++)
    bytes.writeInt16BE(i === 3 ? -9999 : Math.round(ground(i % SIDE, Math.floor(i / SIDE))), i * 2);
  const text = (name: string, words: string) => ({ name, mimeType: '', buffer: Buffer.from(words) });
  const header = `NROWS ${SIDE}\nNCOLS ${SIDE}\nNBITS 16\nPIXELTYPE SIGNEDINT\nBYTEORDER M\nNODATA -9999\nXDIM 2.5\nYDIM 2.5\nULXMAP 0\nULYMAP 0\n`;
  await app
    .getByLabel('Heightmap to bring in')
    .setInputFiles([
      text('fells.hdr', header),
      { name: 'fells.bil', mimeType: '', buffer: bytes },
      text('fells.prj', 'PROJCS["Fells_Grid",GEOGCS["Fells",UNIT["Degree",0.017]],UNIT["Metre",1.0]]'),
    ]);
  const held = app.getByLabel('What the file holds');
  for (const words of ['BIL', '129 × 129', '16 bit signed', 'Fells Grid', '1, stored as −9999', 'fells.hdr, fells.prj'])
    await expect(held).toContainText(words);
  await expect(app.getByText('One number the file can’t say')).toBeVisible();
  await app.getByRole('button', { name: 'They are metres' }).click();
  await expect(card(app, 'groundScaleX')).toHaveText(/^2\d\d\.\d+$/);
  await app.reload();
  await ready(app);
  await expect(app.getByLabel('What the file holds')).toContainText('fells.hdr, fells.prj');
});

test('a known spot moves the heights, a second one lays them out; Escape leaves the choosing', async ({ app }) => {
  await go(app, 'Bring in');
  const low = app.getByRole('textbox', { name: 'Code 0 stands for' });
  await app.getByRole('button', { name: 'Known spots' }).click();
  await app.getByRole('button', { name: 'Choose a spot on the map' }).click();
  await app.keyboard.press('Escape');
  await app.getByRole('button', { name: 'Choose a spot on the map' }).click();
  const map = app.getByRole('application');
  // the middle of the map by keys alone
  await map.focus();
  await app.keyboard.press('Enter');
  const first = app.getByRole('textbox', { name: 'Spot 1: elevation' });
  const told = await app.getByText(/^Column \d+, row \d+; stored/).textContent();
  const [, stored, so] = /stored ([\d ]+), ([\d ,.]+) m so far/.exec(told ?? '') ?? [];
  const number = (text = '') => Number(text.replace(/[^\d.]/g, ''));
  // 1310 to 2140 m over 65535 codes
  expect(number(so)).toBeCloseTo(1310 + (830 * number(stored)) / 65535, 1);
  await first.fill(String(1310 + (830 * number(stored)) / 65535 + 25));
  await first.press('Enter');
  await expect(low).toHaveValue('1335');
  await expect(app.getByRole('textbox', { name: 'Code 65535 stands for' })).toHaveValue('2165');

  await app.getByRole('button', { name: 'Choose a second spot' }).click();
  const box = (await map.boundingBox())!;
  await map.click({ position: { x: box.width * 0.38, y: box.height * 0.28 } });
  const second = app.getByRole('textbox', { name: 'Spot 2: elevation' });
  const other = number(/stored ([\d ]+),/.exec((await app.getByText(/m so far/).textContent()) ?? '')?.[1]);
  expect(Math.abs(other - number(stored))).toBeGreaterThan(500);
  // two metres for every thousand codes, 500 m at code 0
  await second.fill(String(500 + other * 0.002));
  await second.press('Enter');
  await first.fill(String(500 + number(stored) * 0.002));
  await first.press('Enter');
  await expect(low).toHaveValue('500');
  await expect(app.getByRole('textbox', { name: 'Code 65535 stands for' })).toHaveValue('631.07');
  // one that turns the ground upside down is refused where it stands
  await second.fill(other > number(stored) ? '-5000' : '9000');
  await second.press('Enter');
  await expect(app.getByText('Found the higher value on the lower ground')).toBeVisible();
});

test('a file saved anew is read again with every choice kept; the same bytes are unchanged', async ({ app }) => {
  const codes = (lift: number): Buffer => {
    const out = pgm();
    for (let i = out.length - SIDE * SIDE * 2; i < out.length; i += 2) out.writeUInt16BE(out.readUInt16BE(i) + lift, i);
    return out;
  };
  const again = (buffer: Buffer) =>
    app.getByLabel('The same heightmap, saved anew').setInputFiles({ name: 'fells.pgm', mimeType: '', buffer });
  await app.getByLabel('Heightmap to bring in').setInputFiles({ name: 'fells.pgm', mimeType: '', buffer: codes(0) });
  const low = app.getByRole('textbox', { name: 'Code 0 stands for' });
  await expect(low).toBeFocused();
  await app.keyboard.type('1310');
  await app.keyboard.press('Enter');
  const lowest = app.getByLabel('What the file holds').getByText(/^[\d ]+, [\d ]+$/);
  await expect(lowest).toBeVisible();
  const before = await lowest.textContent();
  await again(codes(0));
  await expect(app.getByText('fells.pgm is unchanged: it holds the very bytes')).toBeVisible();
  await again(codes(100));
  await expect(lowest).not.toHaveText(before ?? '');
  await expect(low).toHaveValue('1310');
});

test('of a file that is cut short the rows that can be read are kept, where that is asked for', async ({ app }) => {
  const whole = writeTiff(
    { width: 600, height: 600, type: 'uint', bits: 16, compression: 8, rowsPerStrip: 8 },
    (x, y) => Math.round((ground(x, y) - 1310) * 70),
  );
  const at = Math.floor(whole.length * 0.8);
  const torn = Buffer.from(whole).fill(0xaa, at, at + 2000);
  await app.getByLabel('Heightmap to bring in').setInputFiles({ name: 'torn.tif', mimeType: '', buffer: torn });
  const alert = app.getByRole('alert').filter({ hasText: 'torn.tif' });
  await alert.getByRole('button', { name: 'Keep the rows that can be read' }).click();
  await expect(app.getByRole('button', { name: 'Project: torn' })).toBeVisible();
  await expect(app.getByLabel('What the file holds')).toContainText('Voids');
  await app.getByRole('button', { name: 'Warnings about the file' }).click();
  await expect(app.getByText(/^Rows 4\d\d to 599 can’t be read/).first()).toBeVisible();
  // nothing is written in silence
  await expect(app.locator('[data-check=voids]').or(app.getByText('vertices without a height')).first()).toBeVisible();
});

test('a lossy picture is named as one, and opened as the 8 bits it has only when that is asked for', async ({
  app,
}) => {
  const picture = await sharp({ create: { width: 96, height: 80, channels: 3, background: '#5a5a5a' } })
    .jpeg()
    .toBuffer();
  await app.getByLabel('Heightmap to bring in').setInputFiles({ name: 'fells.jpg', mimeType: '', buffer: picture });
  const alert = app.getByRole('alert').filter({ hasText: 'fells.jpg' });
  await expect(alert).toContainText('keeps 8 bits at most and loses heights');
  await alert.getByRole('button', { name: 'Open its 8 bits all the same' }).click();
  await expect(app.getByRole('button', { name: 'Project: fells.jpg' })).toBeVisible();
  await expect(app.getByLabel('What the file holds')).toContainText('96 × 80');
  await expect(app.getByLabel('What the file holds')).toContainText('8 bit unsigned');
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

test('tiles dropped together are asked about, put together the right way up, and proved', async ({ app }) => {
  const side = 96;
  const tiles = await Promise.all(
    Array.from({ length: 16 }, async (_, i) => {
      const [column, row] = [i % 4, Math.floor(i / 4)];
      const codes = Uint16Array.from({ length: side * side }, (_, k) => {
        const [x, y] = [column * side + (k % side), row * side + Math.floor(k / side)];
        return Math.round((ground(x / 3, y / 3) - 1300) * 70);
      });
      const png = await pngSource(codes, side);
      // rows count from the south; two tiles bear each other's names
      const named = i === 5 ? 2 : i === 6 ? 1 : column;
      const buffer = Buffer.from(await png.read(0, png.size));
      return { name: `fells_${named}_${3 - row}.png`, mimeType: 'image/png', buffer };
    }),
  );
  const bringIn = app.getByLabel('Heightmap to bring in');
  await bringIn.setInputFiles(tiles);
  const sheet = app.getByRole('dialog');
  await expect(sheet).toContainText('16 files make one terrain');
  await expect(sheet).toContainText('384 × 384 samples');
  await expect(sheet).toContainText('rows counted from the south; edges abut');
  await expect(sheet).toContainText('fells_1_2.png and fells_2_2.png seem to have each other’s names');
  await app.keyboard.press('Escape');
  await expect(sheet).toHaveCount(0);
  await expect(app.getByRole('button', { name: 'Project: Kettle Tarn' })).toBeVisible();

  // four to an archive
  const zips = [0, 1, 2, 3].map((row) => ({
    name: `row-${row}.zip`,
    mimeType: 'application/zip',
    buffer: Buffer.from(
      zipSync(Object.fromEntries(tiles.slice(4 * row, 4 * row + 4).map((t) => [`north/${t.name}`, t.buffer]))),
    ),
  }));
  await bringIn.setInputFiles(zips);
  await sheet.getByRole('button', { name: 'Put them together' }).click();
  await expect(app.getByRole('button', { name: 'Project: fells' })).toBeVisible();
  await expect(app.getByLabel('What the file holds')).toContainText('16 files');
  const check = app.locator('[data-check=source-mosaic]');
  await check.getByRole('button', { name: 'let them change places' }).click();
  await expect(check).toHaveCount(0);
  // the files have been read again to their end, and nothing is doubtful any more
  await expect(app.getByLabel('What the file holds')).toContainText(/Different codes\s*\d/);
  await expect(check).toHaveCount(0);
  await ready(app);
  await app.reload();
  await ready(app);
  await expect(app.getByLabel('What the file holds')).toContainText('16 files');
  await expect(check).toHaveCount(0);
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
});

test('a note in an archive: its numbers go into the calibration, marked with where they come from', async ({ app }) => {
  const codes = Uint16Array.from({ length: SIDE * SIDE }, (_, i) =>
    Math.round((ground(i % SIDE, Math.floor(i / SIDE)) - 1300) * 70),
  );
  const png = await pngSource(codes, SIDE);
  const note = 'Wend Fells, autumn.\nLowest elevation 1310 m, highest 1640 m.\n4 m per sample.\n';
  const bytes = zipSync({ 'data/fells.png': await png.read(0, png.size), 'notes.txt': Buffer.from(note) });
  await app
    .getByLabel('Heightmap to bring in')
    .setInputFiles({ name: 'fells.zip', mimeType: 'application/zip', buffer: Buffer.from(bytes) });
  const held = app.getByLabel('What the file holds');
  await expect(held).toContainText('1 310 to 1 640 m');
  await expect(held).toContainText('notes.txt');
  // the samples don't reach both ends: what is meant is asked, the spacing is said
  const check = app.locator('[data-check=source-noted]');
  await expect(check).toContainText('notes.txt says “Lowest elevation 1310 m, highest 1640 m” “4 m per sample”');
  await expect(app.locator('[data-check=source-assumed]')).toContainText('the elevation of the lowest code');
  await expect(app.getByRole('textbox', { name: 'Spacing' })).toHaveValue('4');
  await check.getByRole('button', { name: 'take them for those of the samples' }).click();
  await expect(app.locator('[data-check=source-assumed]')).toHaveCount(0);
  const [low, high] = [Math.min(...codes), Math.max(...codes)];
  const base = 1310 - (330 * low) / (high - low);
  await expect
    .poll(async () =>
      Number((await app.getByLabel('Code 0 stands for').inputValue()).replace(/\s/g, '').replace('−', '-')),
    )
    .toBeCloseTo(base, 2);
  await app.getByRole('button', { name: 'Undo' }).click();
  await expect(app.locator('[data-check=source-assumed]')).toBeVisible();
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
  // they don't say how they would belong together: what they are is asked
  const sheet = app.getByRole('dialog');
  await expect(sheet).toContainText('2 files at once');
  await sheet.getByRole('button', { name: 'A project each' }).click();
  await expect(app.getByText('2 of 2 files became projects, each its own')).toBeVisible();
  await expect(app.getByLabel('What the file holds')).toContainText('PGM or PFM');
  await app.getByRole('button', { name: /^Project: / }).click();
  await expect(app.getByRole('menuitem', { name: 'tarn', exact: true })).toBeVisible();
});
