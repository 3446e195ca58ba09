import { test as plain, type Page } from '@playwright/test';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { MemoryFolder, memorySource } from '../../src/core/base';
import { parseRecipe } from '../../src/core/recipe';
import { run } from '../../src/core/run';
import { pngSource } from '../helpers/rasters';
import { card, codesOf, dieDuring, downloaded, expect, go, link, open, ready, test } from './helpers';

/* What is done to the ground before it is fitted, and what becomes of it when another source comes. */

/** 300 × 200 codes, all different along both axes, with a sea of white in the south-east. */
const [WIDTH, HEIGHT] = [300, 200];
const code = (x: number, y: number): number =>
  x > 220 && y > 150 ? 65535 : 9000 + 90 * x + 70 * y + Math.round(2500 * Math.sin(x / 17) * Math.cos(y / 11));
const made = async (change: (code: number) => number = (c) => c) => {
  const codes = Uint16Array.from({ length: WIDTH * HEIGHT }, (_, i) => change(code(i % WIDTH, Math.floor(i / WIDTH))));
  const png = await pngSource(codes, WIDTH);
  return { name: 'fells.png', mimeType: 'image/png', buffer: Buffer.from(await png.read(0, png.size)) };
};

async function bring(app: Page): Promise<void> {
  await app.getByLabel('Heightmap to bring in').setInputFiles(await made());
  const low = app.getByRole('textbox', { name: 'Code 0 stands for' });
  await expect(low).toBeFocused();
  await low.fill('0');
  await low.press('Enter');
  const high = app.getByRole('textbox', { name: 'Code 65535 stands for' });
  await high.fill('655.35');
  await high.press('Enter');
  await expect(card(app, 'heightScale')).toBeVisible();
}

const button = (app: Page, name: string) => app.getByRole('button', { name, exact: true });
const steps = (app: Page) => app.getByRole('list', { name: 'Steps' }).getByRole('listitem');

async function pack(app: Page): Promise<{ codes: Uint16Array; width: number; height: number }> {
  await go(app, 'Proof');
  await app.getByRole('button', { name: /^Write (the files and prove them|and prove again)$/ }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  const [, png] = Object.entries(files).find(([name]) => name.endsWith('.png'))!;
  const { width, height } = await sharp(png).metadata();
  return { codes: await codesOf(png), width: width, height: height };
}

test('a quarter turn turns the map, its arrow, the grid and the pack, and nothing else', async ({ app }) => {
  await bring(app);
  const plain = await pack(app);
  const east = await card(app, 'verticesX').textContent();
  const north = await card(app, 'verticesY').textContent();
  expect(east).not.toBe(north);
  await go(app, 'Clean');
  await button(app, '90° clockwise').click();
  await expect(steps(app)).toHaveCount(1);
  // the pack that was written is not this ground's any more
  await expect(link(app, 'Hand over')).not.toContainText(/^\D*\d+ files$/);
  await expect(card(app, 'verticesX')).toHaveText(north!);
  await expect(card(app, 'verticesY')).toHaveText(east!);
  await expect(app.getByRole('application', { name: /north is right/ })).toBeVisible();
  const turned = await pack(app);
  expect([turned.width, turned.height]).toEqual([plain.height, plain.width]);
  let [largest, others] = [0, 0];
  for (let y = 0; y < plain.height; y++)
    for (let x = 0; x < plain.width; x++) {
      const off = Math.abs(
        plain.codes[y * plain.width + x]! - turned.codes[x * turned.width + (turned.width - 1 - y)]!,
      );
      largest = Math.max(largest, off);
      if (off > 0) others++;
    }
  // rows are summed up before columns: a sum half way between two codes may fall either way
  expect(largest).toBeLessThanOrEqual(1);
  expect(others).toBeLessThan(20);
  // four quarters are none
  await go(app, 'Clean');
  for (let i = 0; i < 3; i++) await button(app, '90° clockwise').click();
  await expect(app.getByText('as it lies', { exact: true })).toBeVisible();
  await expect(card(app, 'verticesX')).toHaveText(east!);
});

test('a sea of white is taken out by value: told, filled, switched off, undone and kept over a reload', async ({
  app,
}) => {
  await bring(app);
  await go(app, 'Clean');
  await button(app, 'Take out the highest, 65 535').click();
  await expect(steps(app)).toHaveCount(1);
  let white = 0;
  for (let i = 0; i < WIDTH * HEIGHT; i++) if (code(i % WIDTH, Math.floor(i / WIDTH)) === 65535) white++;
  await expect(steps(app).first().locator('[data-changed]')).toContainText(
    white.toLocaleString('en').replace(',', ' '),
  );
  // voids want an elevation before anything is written
  await expect(app.locator('[data-check=voids]')).toBeVisible();
  await app.getByRole('textbox', { name: 'Voids get' }).fill('150');
  await app.getByRole('textbox', { name: 'Voids get' }).press('Enter');
  await expect(app.locator('[data-check=voids]')).toHaveCount(0);
  const { codes } = await pack(app);
  // the white spends no codes: what is left of the ground fills them
  expect(Math.max(...codes)).toBeGreaterThan(64_000);
  await go(app, 'Clean');
  const scale = await card(app, 'heightScale').textContent();
  await steps(app).first().getByRole('checkbox', { name: 'on' }).click();
  await expect(card(app, 'heightScale')).not.toHaveText(scale!);
  await button(app, 'Undo').click();
  await expect(card(app, 'heightScale')).toHaveText(scale!);
  await app.reload();
  await ready(app);
  await go(app, 'Clean');
  await expect(steps(app)).toHaveCount(1);
  await expect(card(app, 'heightScale')).toHaveText(scale!);
});

test('a sea is taken out, filled and given a bed, by keys alone: told, changed, undone, proved, with the samples of the command line', async ({
  app,
}) => {
  await bring(app);
  await go(app, 'Clean');
  const press = async (name: string | RegExp) => {
    await app.getByRole('button', { name }).focus();
    await app.keyboard.press('Enter');
  };
  await press('Take out the highest, 65 535');
  await expect(steps(app).nth(0)).toContainText('3 871 samples');
  // what the heights have no ground for stands above all else
  await expect(app.getByRole('heading', { name: '3 871 voids' })).toBeVisible();
  await press('Fill from the edges');
  await expect(steps(app).nth(1)).toContainText('voids filled smoothly from their edges');
  await expect(steps(app).nth(1)).toContainText('3 871 samples');
  await expect(app.getByRole('heading', { name: '3 871 voids' })).toHaveCount(0);
  await app.getByRole('button', { name: /^Each void is filled/ }).focus();
  await app.keyboard.press('ArrowDown');
  await expect(app.getByRole('option', { name: /^An elevation/ })).toBeVisible();
  await app.keyboard.press('End');
  await app.keyboard.press('Enter');
  const elevation = steps(app).nth(1).getByRole('textbox', { name: 'Elevation' });
  await elevation.fill('90');
  await elevation.press('Enter');
  await expect(steps(app).nth(1)).toContainText('voids become 90 m');
  await press('Water');
  const level = steps(app).nth(2).getByRole('textbox', { name: 'Level' });
  await level.fill('95');
  await level.press('Enter');
  await expect(steps(app).nth(2)).toContainText('the sea at 95 m and below gets a bed');
  const depth = steps(app).nth(2).getByRole('textbox', { name: 'down to a depth of' });
  await depth.fill('4');
  await depth.press('Enter');
  await expect(steps(app).nth(2)).toContainText('gets a bed down to 4 m');
  await press('Smooth');
  await expect(steps(app)).toHaveCount(4);
  await expect(steps(app).nth(3)).toContainText(/[\d ]+ samples, .* at most/);
  await app.getByRole('button', { name: 'Undo' }).click();
  await expect(steps(app)).toHaveCount(3);
  await go(app, 'Proof');
  await app.getByRole('button', { name: /^Write (the files and prove them|and prove again)$/ }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  // the same samples from the command line, by the recipe that was handed over
  const folder = new MemoryFolder();
  const { buffer } = await made();
  const recipe = parseRecipe(JSON.parse(new TextDecoder().decode(files['recipe.json'])));
  expect(recipe.steps.map((s) => s.op)).toEqual(['values', 'fill-voids', 'sea']);
  await run(recipe, memorySource('fells.png', buffer), folder);
  const [name] = Object.keys(files).filter((n) => n.endsWith('.png'));
  expect(Buffer.compare(folder.files.get(name!)!, files[name!]!)).toBe(0);
});

test('a new reading whose heights move the range: what changed is listed, and three ways stand side by side', async ({
  app,
}) => {
  await bring(app);
  await pack(app);
  await go(app, 'Bring in');
  const scale = await card(app, 'heightScale').textContent();
  // the ground has sunk, and a lake was dug
  await app.getByLabel('The same heightmap, saved anew').setInputFiles(await made((c) => (c === 65535 ? c : c - 3000)));
  const ways = app.getByRole('list', { name: 'Ways to go on' });
  await expect(ways.getByRole('listitem')).toHaveCount(3);
  await expect(app.getByRole('list', { name: 'Changed on the card' })).toContainText('Height scale');
  // the pack holds other ground by now
  await expect(link(app, 'Hand over')).not.toContainText(/^\D*\d+ files$/);
  await ways.getByRole('button', { name: 'Hold them' }).click();
  await expect(card(app, 'heightScale')).toHaveText(scale!);
  await expect(ways.getByRole('listitem').first()).toContainText('as it is now');
  await ways.getByRole('button', { name: 'Follow it' }).click();
  await expect(card(app, 'heightScale')).not.toHaveText(scale!);
  await ways.getByRole('button', { name: 'Keep the codes' }).click();
  await go(app, 'Height');
  await go(app, 'Bring in');
  await button(app, 'Undo').click();
  await expect(card(app, 'heightScale')).not.toHaveText(scale!);
});

/** Ground in degrees, 47° south: its samples lie nearer to each other east–west than north–south. */
function degrees() {
  const rows = Array.from({ length: 121 }, (_, y) =>
    Array.from({ length: 151 }, (_v, x) => (900 + 200 * Math.sin(x / 21) * Math.cos(y / 17)).toFixed(2)).join(' '),
  );
  const text = `ncols 151\nnrows 121\nxllcenter 80.1\nyllcenter -47.4\ncellsize 0.00027777\n${rows.join('\n')}\n`;
  return { name: 'fells.asc', mimeType: 'text/plain', buffer: Buffer.from(text) };
}
/** What the card says of place and size. */
const CARDS = ['verticesX', 'verticesY', 'heightScale'] as const;
const makeMetric = (app: Page) =>
  app.locator('[data-check=source-degrees]').getByRole('button', { name: 'make square metres' }).click();

test('ground in degrees goes straight to the vertices of the fit, and is proved', async ({ app }) => {
  await app.getByLabel('Heightmap to bring in').setInputFiles(degrees());
  await makeMetric(app);
  const once = app.getByRole('checkbox', { name: 'Straight to the vertices of the fit' });
  await once.click();
  await expect(once).toBeChecked();
  await expect(app.getByRole('textbox', { name: 'Sample to sample' })).toHaveCount(0);
  const { width, height } = await pack(app);
  expect(height).toBeGreaterThan(width);
  await go(app, 'Proof');
  await expect(app.getByText('It is sampled at the vertices of the fit')).toBeVisible();
  await open(app);
  await go(app, 'Bring in');
  await expect(once).toBeChecked();
});

plain('a worker that dies while ground in degrees is written opens it again as it was read', async ({ page: app }) => {
  await open(app);
  await app.getByLabel('Heightmap to bring in').setInputFiles(degrees());
  await makeMetric(app);
  await expect(card(app, 'verticesX')).toBeVisible();
  const before = await pack(app);
  const said = await Promise.all(CARDS.map((id) => card(app, id).textContent()));
  await go(app, 'Proof');
  await dieDuring(app, () => app.getByRole('button', { name: 'Write and prove again' }).click());
  expect(await Promise.all(CARDS.map((id) => card(app, id).textContent()))).toEqual(said);
  const after = await pack(app);
  expect([after.width, after.height]).toEqual([before.width, before.height]);
  expect(Buffer.compare(Buffer.from(after.codes.buffer), Buffer.from(before.codes.buffer))).toBe(0);
});

test('four tiles given again are four tiles, and an archive is what is in it', async ({ app }) => {
  const side = 65;
  const tiles = (lift: number) =>
    Promise.all(
      [0, 1, 2, 3].map(async (i) => {
        const [x0, y0] = [(i % 2) * (side - 1), Math.floor(i / 2) * (side - 1)];
        const codes = Uint16Array.from(
          { length: side * side },
          (_, k) => code(x0 + (k % side), y0 + Math.floor(k / side)) + lift,
        );
        const name = `fells-r${Math.floor(i / 2)}c${i % 2}.png`;
        const png = await pngSource(codes, side);
        return { name, mimeType: 'image/png', buffer: Buffer.from(await png.read(0, png.size)) };
      }),
    );
  await app.getByLabel('Heightmap to bring in').setInputFiles(await tiles(0));
  await app.getByRole('dialog').getByRole('button', { name: 'Put them together' }).click();
  const holds = app.getByLabel('What the file holds');
  await expect(holds).toContainText('4 files');
  const lowest = holds.getByText(/^[\d ]+, [\d ]+$/);
  const before = await lowest.textContent();
  const again = app.getByLabel('The same heightmap, saved anew');
  await again.setInputFiles(await tiles(700));
  await expect(lowest).not.toHaveText(before ?? '');
  await expect(holds).toContainText('4 files');
  await expect(holds).toContainText('129 × 129');
  const between = await lowest.textContent();
  const archive = zipSync(Object.fromEntries((await tiles(0)).map((f) => [f.name, new Uint8Array(f.buffer)])));
  await again.setInputFiles({ name: 'fells.zip', mimeType: 'application/zip', buffer: Buffer.from(archive) });
  await expect(lowest).not.toHaveText(between ?? '');
  await expect(holds).toContainText('4 files');
  await expect(lowest).toHaveText(before ?? '');
});
