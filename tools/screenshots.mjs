// Takes the pictures of docs/screenshots from the demo data, at 1280 × 800. Builds first where needed.
import { spawn } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { ensureInstalled, root } from './install.mjs';

ensureInstalled();
const { browserPath, FLAGS, ensureChromium } = await import('./chromium.mjs');
const { buildApp } = await import('./build-app.mjs');
const { makeDemoData } = await import('./demo-data.mjs');
const { chromium } = await import('@playwright/test');
const { unzipSync } = await import('fflate');
const { default: sharp } = await import('sharp');
if (!ensureChromium()) process.exit(1);
await makeDemoData();
if (!buildApp()) process.exit(1);

const PORT = 4389;
const server = spawn(
  process.execPath,
  ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(PORT)],
  { cwd: root, stdio: ['ignore', 'pipe', 'inherit'] },
);
await new Promise((resolve) => server.stdout.on('data', (t) => /ready/i.test(String(t)) && resolve()));
const browser = await chromium.launch({ executablePath: browserPath(), args: FLAGS });
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`http://127.0.0.1:${PORT}/`);
  await page.locator('[data-ready=true]').waitFor();
  await page.locator('[data-check=clipped]').waitFor();
  const map = page.getByRole('application');
  const settled = () =>
    page.waitForFunction(
      () => document.querySelector('canvas[role=application]')?.getAttribute('aria-busy') === 'false',
    );
  const shot = async (name) => {
    await page.mouse.move(2, 400);
    await settled();
    await page.screenshot({ path: path.join(root, 'docs/screenshots', `${name}.png`) });
  };
  const go = (name) => page.getByRole('navigation', { name: 'Chain' }).getByRole('button', { name }).click();

  await shot('first-screen');
  await page.getByRole('button', { name: 'Go on with the demo' }).click();
  await shot('fit');
  await page.getByRole('button', { name: 'Which kind of target is mine?' }).click();
  await page.getByRole('radio', { name: /^metres/ }).check();
  await shot('which-target');
  await page.keyboard.press('Escape');
  await go('Bring in');
  await shot('bring-in');
  await go('Clean');
  const steps = page.getByRole('list', { name: 'Steps' }).getByRole('listitem');
  await page.getByRole('button', { name: /^Take out the highest/ }).click();
  await steps
    .first()
    .getByText(/^\d+ sample/)
    .waitFor();
  await page.getByRole('button', { name: 'Fill from the edges' }).click();
  await steps
    .nth(1)
    .getByText(/^\d+ sample/)
    .waitFor();
  await page.getByRole('button', { name: '90° clockwise' }).click();
  await steps.nth(2).waitFor();
  await page.getByRole('heading', { name: 'Clean', level: 2 }).scrollIntoViewIfNeeded();
  await page
    .getByText(/\d+ hold$/)
    .first()
    .waitFor();
  await shot('clean');
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByText('Samples pass through as they came').waitFor();
  await go('Height');
  await page.getByRole('tab', { name: 'Steps' }).click();
  await page.getByRole('tab', { name: 'Elevations' }).click();
  await page.getByRole('img', { name: /^Elevations of the fitted ground/ }).waitFor();
  await shot('height-steps');
  await page.getByRole('tab', { name: 'Relief' }).click();
  await page.getByRole('tab', { name: 'Section A–B' }).click();
  await page.getByRole('button', { name: 'Compare source and result' }).click();
  await map.focus();
  for (let i = 0; i < 3; i++) await map.press('ArrowLeft');
  for (let i = 0; i < 2; i++) await map.press('ArrowUp');
  for (let i = 0; i < 7; i++) await map.press('+');
  await shot('compare-close');
  await map.press('0');
  await page.getByRole('button', { name: 'Compare source and result' }).click();
  await page.getByRole('button', { name: 'hold overshoot within the source' }).click();
  await go('Split');
  await page.getByLabel('Across', { exact: true }).fill('3');
  await page.getByLabel('Across', { exact: true }).press('Enter');
  await page
    .getByRole('navigation', { name: 'Chain' })
    .getByRole('button', { name: 'Split' })
    .filter({ hasText: '3 × 3 of 509²' })
    .waitFor();
  await page.locator('[data-check=clipped]').waitFor({ state: 'detached' });
  await shot('split');
  await go('Proof');
  await page.getByRole('button', { name: 'Write the files and prove them' }).click();
  await page.getByText('The pack holds').waitFor();
  await page.getByRole('tab', { name: 'Difference' }).click();
  await page.getByRole('radio', { name: 'Ground error' }).click();
  await shot('proof-difference');
  await go('Hand over');
  await page.getByRole('tab', { name: 'Relief' }).click();
  await page.getByRole('button', { name: 'Dark theme' }).click();
  await shot('hand-over-dark');
  await page.getByRole('button', { name: 'Light theme' }).click();
  await go('Hand over');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download the pack' }).click(),
  ]);
  const zip = readFileSync(await download.path());
  // saved anew by whoever sculpts it: the summits were worn down, and the lake dug
  const before = await sharp(path.join(root, 'public/demo/kettle-tarn.png'))
    .toColourspace('grey16')
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true });
  const codes = new Uint16Array(before.data.buffer, before.data.byteOffset, before.data.length / 2).map((c) =>
    Math.round(c > 50_000 ? 50_000 + (c - 50_000) * 0.7 : Math.max(0, c - 900)),
  );
  const { width, height } = before.info;
  const sculpted = await sharp(codes, { raw: { width, height, channels: 1 } })
    .toColourspace('grey16')
    .png()
    .toBuffer();
  await go('Bring in');
  await page
    .getByLabel('The same heightmap, saved anew')
    .setInputFiles({ name: 'kettle-tarn.png', mimeType: 'image/png', buffer: sculpted });
  await page.getByRole('list', { name: 'Ways to go on' }).waitFor();
  await shot('new-reading');
  await page.getByRole('button', { name: 'take the old source back' }).click();
  await page.getByRole('list', { name: 'Ways to go on' }).waitFor({ state: 'detached' });
  await page
    .getByLabel('Heightmap to bring in')
    .setInputFiles({ name: 'Kettle-Tarn.zip', mimeType: 'application/zip', buffer: zip });
  await page.getByText('The pack holds').waitFor();
  await page.getByRole('textbox', { name: 'Height scale' }).fill('126.1118');
  await page.getByRole('textbox', { name: 'Height scale' }).press('Enter');
  await page.getByText('The pack does not hold').waitFor();
  await page.screenshot({ path: path.join(root, 'docs/screenshots', 'pack-alone.png') });
  await page.getByRole('button', { name: 'Back to Kettle Tarn' }).click();
  const paper = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await paper.setContent(new TextDecoder().decode(unzipSync(zip)['import.html']));
  await paper.screenshot({ path: path.join(root, 'docs/screenshots', 'import-page.png') });
  // fetched as the artist's own files: tiles whose rows count from the south, two of them with each other's names
  const tiles = path.join(root, 'public/demo/kettle-tarn-tiles');
  const swapped = { 'tarn_1_1.png': 'tarn_2_2.png', 'tarn_2_2.png': 'tarn_1_1.png' };
  await page.getByLabel('Heightmap to bring in').setInputFiles(
    readdirSync(tiles).map((name) => ({
      name: swapped[name] ?? name,
      mimeType: 'image/png',
      buffer: readFileSync(path.join(tiles, name)),
    })),
  );
  await page.getByText('16 files make one terrain').waitFor();
  await shot('together');
  await page.keyboard.press('Escape');
  const words = 'ash birch cedar dogwood elm fir gorse hazel ivy juniper kelp larch maple oak pine rowan'.split(' ');
  await page.getByLabel('Heightmap to bring in').setInputFiles(
    readdirSync(tiles).map((name, i) => ({
      name: `${words[(i * 5) % 16]}.png`,
      mimeType: 'image/png',
      buffer: readFileSync(path.join(tiles, name)),
    })),
  );
  await page.getByText('The edges do not fit.').waitFor();
  await page.locator('[aria-label=Board] canvas').nth(15).waitFor();
  await shot('board');
  await page.keyboard.press('Escape');
  const demo = (name) => path.join(root, 'public/demo', name);
  const sets = ['kettle-tarn.png', 'kettle-tarn-8-bit.png', 'kettle-tarn-metres.exr', 'kettle-tarn-metres.tif'];
  await page.getByLabel('Heightmap to bring in').setInputFiles(sets.map(demo));
  await page.getByRole('list', { name: 'Best first' }).waitFor();
  await shot('candidates');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Project:/ }).click();
  await page.getByRole('menuitem', { name: 'Take ground from the survey desk…' }).click();
  await page.getByLabel('This ground').waitFor();
  await page.waitForLoadState('networkidle');
  await shot('survey-desk');
  await page.keyboard.press('Escape');
  await page.getByLabel('Heightmap to bring in').setInputFiles(demo('wend-arch.ply'));
  await page.locator('[data-check=source-overhang]').waitFor();
  await page.getByRole('button', { name: 'Pin this volume' }).click();
  await page.getByLabel('The pinned volume').waitFor();
  await page
    .getByLabel('What the file holds')
    .filter({ hasText: /Different values\s*\d/ })
    .waitFor();
  await page
    .locator('[data-check=clipped]')
    .or(page.getByText(/\d+ hold$/))
    .first()
    .waitFor();
  await shot('mesh');
  await page.getByRole('button', { name: /^Project:/ }).click();
  await page
    .getByRole('menuitem', { name: /Kettle Tarn/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Project: Kettle Tarn' }).waitFor();
  await page.setViewportSize({ width: 640, height: 400 });
  await go('Fit');
  await shot('fit-640');
} finally {
  await browser.close();
  server.kill('SIGTERM');
}
