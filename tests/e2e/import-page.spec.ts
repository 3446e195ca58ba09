import { test, expect, type Page } from '@playwright/test';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import AxeBuilder from '@axe-core/playwright';
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';

/*
 * The import page as a file of its own, without the application: read at a desk, on a phone and on paper.
 */
const source = { low: -20, high: 700, spacing: 2.5 };
const RECIPES = {
  tiles: {
    version: 2,
    name: 'Gullsward',
    source: { ...source, assumed: ['spacing'] },
    target: 'odd-grid',
    fit: { size: 513, origin: 'centre' },
    split: { across: 4, down: 4, rows: 'south' },
    output: { format: 'raw' },
  },
  single: { version: 2, name: 'Port <Quillam> & sons', source, target: 'component-grid', fit: { size: [505, 253] } },
} as const;
type Which = keyof typeof RECIPES;

let folder: string;
const page = (which: Which): string => path.join(folder, which, 'import.html');
const namesOf = (which: Which): string[] =>
  (
    JSON.parse(readFileSync(path.join(folder, which, 'import.json'), 'utf8')) as { files: { name: string }[] }
  ).files.map((f) => f.name);

test.beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-'));
  for (const [name, recipe] of Object.entries(RECIPES)) {
    const file = path.join(folder, `${name}.json`);
    writeFileSync(file, JSON.stringify(recipe));
    const terrain = path.resolve('public/demo/kettle-tarn.png');
    const args = ['dist/cli.mjs', 'run', terrain, '--recipe', file, '--out', path.join(folder, name)];
    const { status, stderr } = spawnSync(process.execPath, name === 'tiles' ? [...args, '--prove'] : args);
    expect(status, String(stderr)).toBe(0);
  }
});
test.afterAll(() => rmSync(folder, { recursive: true }));

/** Opens the page of a pack; whatever it asks for from elsewhere fails the test. */
async function openPage(at: Page, which: Which): Promise<void> {
  const foreign: string[] = [];
  const faults: string[] = [];
  at.on('request', (r) => {
    if (!/^(file|data):/.test(r.url())) foreign.push(r.url());
  });
  at.on('console', (m) => faults.push(m.text()));
  await at.goto(pathToFileURL(page(which)).href);
  expect([foreign, faults]).toEqual([[], []]);
}

/** Text of one cell or line without its spaces: a line may end anywhere between words. */
const dense = (text: string): string => text.replace(/[\s\u00a0]+/g, '').normalize('NFKC');

for (const which of Object.keys(RECIPES) as Which[]) {
  test(`${which}: complete alone, at a desk and at 360 pixels; axe finds nothing`, async ({ page: at }) => {
    await openPage(at, which);
    await expect(at.getByRole('heading', { level: 1 })).toHaveText(`${RECIPES[which].name}: import page`);
    await expect(at.getByText('kettle-tarn.png, 1536 × 1536 samples of 16 bits')).toBeVisible();
    await expect(at.getByRole('img', { name: /^The ground as it is written/ })).toBeVisible();
    const drawn = await at.locator('svg image').evaluate(async (image: SVGImageElement) => {
      const picture = new Image();
      picture.src = image.href.baseVal;
      await picture.decode();
      return [picture.naturalWidth, picture.naturalHeight];
    });
    expect(drawn).toEqual(which === 'tiles' ? [257, 257] : [253, 127]);
    for (const heading of ['Proof', 'Values to type', 'Steps', 'Check spots', 'Files', 'Checks'])
      await expect(at.getByRole('heading', { name: heading, exact: true })).toBeVisible();
    if (which === 'tiles') {
      await expect(at.getByText('The pack holds, read back with the values of this page')).toBeVisible();
      await expect(at.getByText('nobody has said the spacing of the source', { exact: false })).toBeVisible();
      await expect(at.getByText('Placeholder.', { exact: false }).first()).toBeVisible();
      const tiles = at.getByRole('img', { name: '16 tiles by their names, north at the top' });
      // the rows count from the south: the north-west tile stands first in the drawing
      const labels = await tiles.locator('text').allTextContents();
      expect(labels.filter((l) => l.startsWith('r')).sort()).toEqual(
        namesOf('tiles')
          .map((n) => /r\d+c\d+/.exec(n)![0])
          .sort(),
      );
      const y = async (label: string): Promise<number> =>
        Number(await tiles.getByText(label, { exact: true }).getAttribute('y'));
      expect(await y('r03c00')).toBeLessThan(await y('r00c00'));
      await expect(at.locator('ol li')).toHaveCount(6);
      await expect(at.locator('ol li').first()).toContainText('one terrain for each tile');
    } else await expect(at.getByText('Not proved when this page was written.')).toBeVisible();
    const { violations } = await new AxeBuilder({ page: at }).analyze();
    expect(violations.map((v) => `${v.id}: ${v.nodes[0]?.html ?? ''}`)).toEqual([]);
    await at.setViewportSize({ width: 360, height: 640 });
    expect(await at.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(360);
  });

  test(`${which}: printed, no table is cut and no row is torn between pages`, async ({ page: at }) => {
    await openPage(at, which);
    const rows = await at
      .locator('tbody tr')
      .evaluateAll((all) => all.map((tr) => [...tr.children].map((td) => td.textContent ?? '')));
    expect(rows.length).toBeGreaterThan(which === 'tiles' ? 50 : 25);
    const pdf = await getDocument({
      data: new Uint8Array(await at.pdf({ preferCSSPageSize: true })),
      useSystemFonts: true,
      verbosity: 0,
    }).promise;
    const sheets: string[] = [];
    for (let n = 1; n <= pdf.numPages; n++) {
      const sheet = await pdf.getPage(n);
      const [left = 0, bottom = 0, right = 0, top = 0] = sheet.view;
      const margin = (14 / 25.4) * 72 - 1;
      const { items } = await sheet.getTextContent();
      let written = '';
      for (const item of items) {
        if (!('transform' in item)) continue;
        written += item.str;
        if (item.str.trim() === '') continue;
        const [x, y] = [item.transform[4] as number, item.transform[5] as number];
        const where = `${item.str} on page ${n}`;
        expect(x, where).toBeGreaterThanOrEqual(left + margin);
        expect(x + item.width, where).toBeLessThanOrEqual(right - margin);
        expect(y, where).toBeGreaterThanOrEqual(bottom + margin - 12);
        expect(y, where).toBeLessThanOrEqual(top - margin);
      }
      sheets.push(dense(written));
    }
    const torn = rows.filter((cells) => !sheets.some((s) => cells.every((c) => s.includes(dense(c)))));
    expect(torn).toEqual([]);
    process.stdout.write(`  ${which}: ${rows.length} rows on ${pdf.numPages} printed pages, each whole\n`);
  });
}
