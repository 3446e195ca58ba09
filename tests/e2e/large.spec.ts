import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { test as plain, type Page } from '@playwright/test';
import sharp from 'sharp';
import { LEAST_FOR_THREAD } from '../../src/core/base';
import { pngSource } from '../helpers/rasters';
import { mirroredCodes, terrainCodes } from '../bench/material';
import { preview, watch, watchMemory } from './measure';
import { Gate } from './gate';
import { codesOf, dieDuring, downloaded, expect, go, link, open, ready, test } from './helpers';

const SIDE = 8129;
// whole packs of that size are written and proved here: minutes on a slow or busy machine
test.setTimeout(300_000);
const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-large-'));
const file = path.join(folder, 'cold-ridge.png');

test.beforeAll(async () => {
  const row = mirroredCodes(terrainCodes(2033), 2033, SIDE);
  const codes = new Uint16Array(SIDE * SIDE);
  for (let y = 0; y < SIDE; y++) codes.set(row(y), y * SIDE);
  const source = await pngSource(codes, SIDE, 'cold-ridge.png', 64);
  writeFileSync(file, await source.read(0, source.size));
});
test.afterAll(() => rmSync(folder, { recursive: true }));

test('a terrain of 8129 samples a side: facts at once, the ground as it is read, then all of it', async ({ app }) => {
  const memory = watchMemory();
  await app.getByRole('navigation', { name: 'Chain' }).getByRole('button', { name: 'Bring in' }).click();
  const watching = watch(app);
  await app.getByLabel('Heightmap to bring in').setInputFiles(file);
  const seen = await watching;
  process.stdout.write(
    `\n${SIDE}² brought in: header ${seen.header.toFixed(0)} ms, first ground ${seen.coarse.toFixed(0)} ms, all of it ${seen.whole.toFixed(0)} ms, counted ${seen.counted.toFixed(0)} ms, map complete ${seen.fine.toFixed(0)} ms, longest frame ${seen.longestFrame.toFixed(0)} ms\n`,
  );
  expect(seen.header).toBeLessThan(seen.coarse);
  expect(seen.coarse).toBeLessThan(seen.counted);
  expect(seen.coarse).toBeLessThanOrEqual(seen.whole);
  expect(seen.whole).toBeLessThanOrEqual(seen.fine);
  // a pack of it, in the same tab, and then another project: what the large one held is given back
  await go(app, 'Hand over');
  await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  await go(app, 'Bring in');
  await app.getByLabel('Heightmap to bring in').setInputFiles(path.resolve('public/demo/kettle-tarn.png'));
  await expect(app.getByRole('button', { name: /kettle-tarn/ })).toBeVisible();
  await expect(status(app)).toHaveCount(0);
  const { start, peak, end } = await memory();
  process.stdout.write(
    `\ntab at ${SIDE}², MB over the page with the demo (${start.toFixed(0)}): ${(peak - start).toFixed(0)} at most, ${(end - start).toFixed(0)} after the job\n`,
  );
});

test('of a terrain of 8129 samples a side another size is previewed, and all of it shows again after a reload', async ({
  app,
}) => {
  await go(app, 'Bring in');
  await app.getByLabel('Heightmap to bring in').setInputFiles(file);
  await expect(app.getByRole('button', { name: /cold-ridge/ })).toBeVisible();
  await expect(status(app)).toHaveCount(0);
  await go(app, 'Fit');
  await app
    .locator('[data-check=clipped]')
    .or(app.getByText(/\d+ hold$/))
    .first()
    .waitFor();
  for (let turn = 1; turn <= 3; turn++) {
    const { card, coarse, fine, longestFrame } = await preview(app, 'ArrowDown');
    process.stdout.write(
      `\n${SIDE}² previewed at another size, turn ${turn}: card ${card.toFixed(0)} ms, coarse ${coarse.toFixed(0)} ms, complete ${fine.toFixed(0)} ms, longest frame ${longestFrame.toFixed(0)} ms\n`,
    );
  }
  // the coarse picture of this source is kept beside its project
  await expect
    .poll(() =>
      app.evaluate(
        () =>
          new Promise<number>((resolve) => {
            const opening = indexedDB.open('level-grid');
            opening.onsuccess = () => {
              const store = opening.result.transaction('projects').objectStore('projects');
              const current = store.get('current') as IDBRequest<string>;
              current.onsuccess = () => {
                const kept = store.count(`overview/${current.result}`);
                kept.onsuccess = () => {
                  opening.result.close();
                  resolve(kept.result);
                };
              };
            };
          }),
      ),
    )
    .toBe(1);
  await app.reload();
  // the southernmost ground is drawn while the file is still being read from the north
  const whole = await app.evaluate(
    () =>
      new Promise<{ at: number; reading: boolean }>((resolve) => {
        const spot = document.createElement('canvas').getContext('2d', { willReadFrequently: true })!;
        const look = (): void => {
          const canvas = document.querySelector<HTMLCanvasElement>('[aria-label^="Terrain map"]');
          if (canvas && canvas.height > 200) {
            spot.drawImage(canvas, canvas.width / 2, canvas.height - 40, 1, 1, 0, 0, 1, 1);
            const [r, g, b, a] = spot.getImageData(0, 0, 1, 1).data;
            if (a === 255 && `${r} ${g} ${b}` !== '233 237 232') {
              const reading = document.querySelector('[role=progressbar]') !== null;
              resolve({ at: performance.now(), reading });
              return;
            }
          }
          requestAnimationFrame(look);
        };
        look();
      }),
  );
  process.stdout.write(
    `\n${SIDE}² opened again: all of it on the map ${whole.at.toFixed(0)} ms after the page was asked for\n`,
  );
  expect(whole.reading).toBe(true);
  await expect(status(app)).toHaveCount(0);
});

/** Cancels what is going on and waits until the page says so no more; how long that took, in milliseconds. */
const cancel = (page: Page): Promise<number> =>
  page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        const button = [...document.querySelectorAll('button')].find((b) => b.textContent === 'cancel')!;
        const start = performance.now();
        button.click();
        const look = (): void => {
          if (document.querySelector('[role=progressbar]')) setTimeout(look, 1);
          else resolve(performance.now() - start);
        };
        look();
      }),
  );

const status = (page: Page) => page.locator('[data-job]');

test('cancelled in the middle of reading, writing or proving, everything is as it was', async ({ app }) => {
  const gate = await Gate.into(app);
  await open(app);
  const took: string[] = [];
  let downloads = 0;
  app.on('download', () => downloads++);
  const name = app.getByRole('button', { name: /Kettle Tarn/ });
  await expect(app.getByText('1 caution, 7 hold')).toBeVisible();
  const shown = () => app.getByRole('complementary', { name: 'Import card' }).textContent();
  const before = await shown();
  await link(app, 'Bring in').click();
  await app.getByLabel('Heightmap to bring in').setInputFiles(file);
  await expect(status(app)).toContainText('Reading cold-ridge.png');
  took.push(`reading ${(await cancel(app)).toFixed(0)}`);
  await expect(name).toBeVisible();
  await expect.poll(shown).toBe(before);
  await name.click();
  await expect(app.getByRole('menuitem', { name: /cold-ridge/ })).toHaveCount(0);
  await app.keyboard.press('Escape');
  // the project that came back works: it is packed and proved
  await go(app, 'Hand over');
  await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  expect(downloads).toBe(1);

  await link(app, 'Bring in').click();
  await app.getByLabel('Heightmap to bring in').setInputFiles(file);
  // the card of the project before says the same words until the reading begins
  await expect(status(app)).toContainText('Reading cold-ridge.png');
  await expect(
    app
      .locator('[data-check=clipped]')
      .or(app.getByText(/\d+ hold$/))
      .first(),
  ).toBeVisible();
  await expect(status(app)).toHaveCount(0);
  await go(app, 'Hand over');
  for (const label of ['Writing the pack', 'Proving the pack']) {
    await gate.armAndClick('Download the pack', { skip: label === 'Writing the pack' ? 0 : 1, after: 40 });
    await gate.reached();
    await expect(status(app)).toContainText(label);
    took.push(`${label.split(' ')[0]!.toLowerCase()} ${(await cancel(app)).toFixed(0)}`);
    await expect(link(app, 'Hand over')).toContainText('not packed');
    await expect(link(app, 'Proof')).toContainText('not proved');
  }
  expect(downloads).toBe(1);
  // no worker is held up: the whole pack is written and proved after that
  await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  await expect(link(app, 'Proof')).toContainText('at most');
  process.stdout.write(`\ncancelled at ${SIDE}², ms until it was over: ${took.join(', ')}\n`);
});

test('at 2017 samples a side: the same bytes from the page with two threads and with one, and from the command line', async ({
  app,
}) => {
  const side = 2017;
  const smaller = path.join(folder, 'mid-ridge.png');
  const source = await pngSource(terrainCodes(side), side, 'mid-ridge.png', 64);
  writeFileSync(smaller, await source.read(0, source.size));
  await go(app, 'Bring in');
  const start = performance.now();
  await app.getByLabel('Heightmap to bring in').setInputFiles(smaller);
  await expect(app.getByRole('button', { name: /mid-ridge/ })).toBeVisible();
  await expect(status(app)).toHaveCount(0);
  const there = performance.now();
  await expect(link(app, 'Fit')).toContainText(`${side}²`);
  const packed = async (): Promise<Record<string, Uint8Array>> => {
    await go(app, 'Hand over');
    return downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  };
  const oneThread = async (): Promise<Record<string, Uint8Array>> => {
    await app.goto('/?workers=1');
    await ready(app);
    return packed();
  };
  const byCommand = (recipe: Uint8Array, out: string): ((name: string) => Buffer) => {
    writeFileSync(path.join(folder, 'recipe.json'), recipe);
    const call = [
      'dist/cli.mjs',
      'run',
      '--recipe',
      path.join(folder, 'recipe.json'),
      smaller,
      '--out',
      out,
      '--prove',
    ];
    expect(spawnSync(process.execPath, call).status).toBe(0);
    return (name) => readFileSync(path.join(out, name));
  };
  // every sample as it is, then one size down, where every sample is made anew
  for (const step of ['as it is', 'resampled'] as const) {
    if (step === 'resampled') {
      await app.goto('/');
      await ready(app);
      await go(app, 'Fit');
      await app.getByRole('slider', { name: 'Vertices per side' }).press('ArrowDown');
      await expect(link(app, 'Fit')).not.toContainText(`${side}²`);
    }
    const click = performance.now();
    const two = await packed();
    process.stdout.write(
      `\nin the browser at ${side}², ${step}: brought in ${(there - start).toFixed(0)} ms, pack written, proved, zipped and downloaded ${(performance.now() - click).toFixed(0)} ms\n`,
    );
    const one = await oneThread();
    const command = byCommand(two['recipe.json']!, path.join(folder, `pack ${step}`));
    expect(Object.keys(two).sort()).toEqual([
      'import.html',
      'import.json',
      'import.md',
      'mid-ridge.png',
      'recipe.json',
    ]);
    for (const [name, bytes] of Object.entries(two)) {
      expect(Buffer.compare(one[name]!, bytes), name).toBe(0);
      expect(Buffer.compare(command(name), bytes), name).toBe(0);
    }
  }
});

test('a large TIFF, which two threads decode by turns, comes out as it went in', async ({ app }) => {
  const side = 2551;
  const codes = terrainCodes(side);
  const tiff = path.join(folder, 'mid-ridge.tif');
  await sharp(codes, { raw: { width: side, height: side, channels: 1 } })
    .toColourspace('grey16')
    .tiff({ compression: 'deflate', predictor: 'horizontal', tile: true })
    .toFile(tiff);
  expect(statSync(tiff).size).toBeGreaterThan(LEAST_FOR_THREAD);
  await go(app, 'Bring in');
  await app.getByLabel('Heightmap to bring in').setInputFiles(tiff);
  await expect(app.getByLabel('What the file holds')).toContainText('TIFF, 2551 × 2551');
  await expect(status(app)).toHaveCount(0);
  await expect(link(app, 'Fit')).toContainText(`${side}²`);
  await go(app, 'Hand over');
  const pack = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  const found = await codesOf(pack['mid-ridge.png']!);
  expect(Buffer.compare(Buffer.from(found.buffer, found.byteOffset, found.byteLength), Buffer.from(codes.buffer))).toBe(
    0,
  );
});

plain('a worker that dies is reported; recipe and history stay, and the work goes on', async ({ page }) => {
  await open(page);
  await go(page, 'Fit');
  await page.getByRole('slider', { name: 'Vertices per side' }).press('ArrowUp');
  await expect(link(page, 'Fit')).toContainText('1531²');
  await go(page, 'Hand over');
  await dieDuring(page, () => page.getByRole('button', { name: 'Download the pack' }).click());
  await expect(link(page, 'Fit')).toContainText('1531²');
  await downloaded(page, () => page.getByRole('button', { name: 'Download the pack' }).click());
  await expect(link(page, 'Proof')).toContainText('at most');
  await page.keyboard.press('Control+z');
  await expect(link(page, 'Fit')).toContainText('1525²');
});
