import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Page } from '@playwright/test';
import { expect, link, open, ready, test } from './helpers';

/*
 * A recipe, an import page or a pack that is dropped: what a colleague has who was given nothing else.
 */
const SOURCE = path.resolve('public/demo/kettle-tarn.png');
const base = { version: 2, source: { low: -20, high: 700, spacing: 2.5 } };
const RECIPES = {
  'component-grid': { ...base, name: 'Port Quillam', target: 'component-grid', fit: { size: 505, origin: 'centre' } },
  'odd-grid': { ...base, name: 'Gullsward', target: 'odd-grid', fit: { size: 513 }, output: { format: 'raw' } },
} as const;
type Target = keyof typeof RECIPES;

let folder: string;
const pack = (target: Target): string => path.join(folder, target);
const zip = (target: Target): string =>
  path.join(
    pack(target),
    readdirSync(pack(target)).find((n) => n.endsWith('.zip'))!,
  );

interface Row {
  readonly digits: number;
  readonly id: string;
  readonly label: string;
  readonly value: number | string;
}
const rowsOf = (target: Target): Row[] =>
  (JSON.parse(readFileSync(path.join(pack(target), 'import.json'), 'utf8')) as { card: Row[] }).card;

test.beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-'));
  for (const target of Object.keys(RECIPES) as Target[]) {
    const recipe = path.join(folder, `${target}.json`);
    writeFileSync(recipe, JSON.stringify(RECIPES[target]));
    const args = ['dist/cli.mjs', 'run', SOURCE, '--recipe', recipe, '--out', pack(target), '--zip'];
    const { status, stderr } = spawnSync(process.execPath, args);
    expect(status, String(stderr)).toBe(0);
  }
});
test.afterAll(() => rmSync(folder, { recursive: true }));

/** Drops files onto the page. */
async function drop(page: Page, paths: readonly string[]): Promise<void> {
  const files = paths.map((p) => ({ name: path.basename(p), base64: readFileSync(p).toString('base64') }));
  const transfer = await page.evaluateHandle((given) => {
    const data = new DataTransfer();
    for (const { name, base64 } of given) {
      const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
      data.items.add(new File([bytes], name));
    }
    return data;
  }, files);
  for (const kind of ['dragenter', 'dragover', 'drop'])
    await page.dispatchEvent('[data-ready=true]', kind, { dataTransfer: transfer });
}

const desk = (page: Page) => page.getByRole('main', { name: 'What was dropped' });

for (const target of Object.keys(RECIPES) as Target[]) {
  test(`a pack for ${target}, alone: it is proved, and each value typed wrongly is named`, async ({ app }) => {
    await drop(app, [zip(target)]);
    await expect(desk(app).getByText('The pack holds')).toBeVisible();
    await expect(desk(app).getByText('Held against its own page only', { exact: false })).toBeVisible();
    const named: string[] = [];
    const rows = rowsOf(target);
    const type = async ({ label, value }: Row, off: number): Promise<void> => {
      if (typeof value === 'number') {
        const field = desk(app).getByLabel(label, { exact: true });
        await field.fill(String(value + off));
        await field.press('Enter');
        return;
      }
      await desk(app)
        .getByRole('button', { name: `${label}, as typed` })
        .click();
      await app.getByRole('option', { selected: false }).first().click();
    };
    for (const row of rows) {
      const { label, digits } = row;
      // one too many; of what is measured, more than the fiftieth of a quad that a target may round away
      await type(row, digits === 0 ? 1 : 25);
      await expect(desk(app).getByText('The pack does not hold')).toBeVisible();
      await expect(
        desk(app)
          .locator('[data-proof=fault]')
          .filter({ hasText: `${label} is typed as` }),
      ).toBeVisible();
      named.push(label);
      await type(row, 0);
      await expect(desk(app).getByText('The pack holds')).toBeVisible();
    }
    process.stdout.write(`  ${target}: ${named.length} of ${rows.length} values typed wrongly, each named\n`);
    await desk(app).getByRole('button', { name: 'Back to Kettle Tarn' }).click();
    await expect(link(app, 'Fit')).toContainText('1525²');
  });
}

test('a pack with its source beside it is a project: proved sample by sample, and kept', async ({ app }) => {
  const all = readdirSync(pack('odd-grid')).filter((n) => !n.endsWith('.zip'));
  await drop(app, [...all.map((n) => path.join(pack('odd-grid'), n)), SOURCE]);
  await expect(app.getByText('The pack holds')).toBeVisible();
  await expect(app.getByText('All 263 169 samples', { exact: false })).toBeVisible();
  await expect(app.getByRole('button', { name: 'Project: Gullsward' })).toBeVisible();
  await expect(link(app, 'Fit')).toContainText('513²');
  await app.reload();
  await ready(app);
  await expect(app.getByRole('button', { name: 'Project: Gullsward' })).toBeVisible();
  await expect(link(app, 'Fit')).toContainText('513²');
});

test('an import page and a recipe open with the source that is open, or with a file', async ({ app }) => {
  const chooser = app.getByLabel('Heightmap to bring in');
  await chooser.setInputFiles(path.join(pack('component-grid'), 'import.json'));
  await expect(desk(app).getByRole('heading', { name: 'Port Quillam' })).toBeVisible();
  await expect(desk(app)).toContainText('kettle-tarn.png, 1536 × 1536 samples of 16 bits');
  await expect(desk(app).getByText('Ground scale east')).toBeVisible();
  await desk(app).getByRole('button', { name: 'Use kettle-tarn.png, which is open' }).click();
  await expect(link(app, 'Fit')).toContainText('505²');

  await chooser.setInputFiles(path.join(pack('odd-grid'), 'recipe.json'));
  await expect(desk(app).getByRole('heading', { name: 'Gullsward' })).toBeVisible();
  await desk(app).getByLabel('Source of the pack').setInputFiles(SOURCE);
  await expect(link(app, 'Fit')).toContainText('513²');
  // both are projects of their own, beside the demo
  await app.getByRole('button', { name: 'Project: Gullsward' }).click();
  for (const name of [/Kettle Tarn · demo/, /Port Quillam/, /Gullsward · open/])
    await expect(app.getByRole('menuitem', { name })).toBeVisible();
});

test('a pack whose file was changed, or lost, does not hold, and says so without its source', async ({ app }) => {
  const all = readdirSync(pack('odd-grid')).filter((n) => !n.endsWith('.zip'));
  const raw = all.find((n) => n.endsWith('.raw'))!;
  const bent = path.join(folder, raw);
  const bytes = readFileSync(path.join(pack('odd-grid'), raw));
  bytes[5001]! ^= 1;
  writeFileSync(bent, bytes);
  const documents = all.filter((n) => n !== raw).map((n) => path.join(pack('odd-grid'), n));
  await drop(app, [...documents, bent]);
  await expect(desk(app).getByText('The pack does not hold')).toBeVisible();
  await expect(desk(app).getByText(`${raw} is not as written: the checksum differs.`)).toBeVisible();
});

test('what can’t be opened is refused, and the open project stays', async ({ app }) => {
  const chooser = app.getByLabel('Heightmap to bring in');
  const error = app.getByRole('alert').filter({ hasText: 'Found' });
  const bytes = readFileSync(zip('odd-grid'));
  const cases: readonly [string, Buffer, RegExp][] = [
    ['cut.zip', bytes.subarray(0, bytes.length / 2), /a zip without its end/],
    // the shortest zip there is: an end record and nothing before it
    ['empty.zip', Buffer.concat([Buffer.from('PK\x05\x06'), Buffer.alloc(18)]), /neither a pack nor a height file/],
    ['note.json', Buffer.from('{"hello": 1}'), /neither a recipe nor an import page/],
    ['torn.json', Buffer.from('{"version": 2,'), /text that is not JSON/],
    ['old.json', Buffer.from('{"card": [], "source": {}}'), /an import page without its recipe/],
    ['bad.json', Buffer.from(JSON.stringify({ ...RECIPES['odd-grid'], fit: { size: 1 } })), /1 as/],
  ];
  for (const [name, buffer, found] of cases) {
    await chooser.setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
    await expect(error, name).toContainText(found);
    await app.keyboard.press('Escape');
    await expect(error).toHaveCount(0);
  }
  // one pack at a time, and a project from the menu takes the place of what was only looked at
  await chooser.setInputFiles(path.join(pack('odd-grid'), 'recipe.json'));
  await expect(desk(app)).toBeVisible();
  await app.getByRole('button', { name: 'Project: Kettle Tarn' }).click();
  await app.getByRole('menuitem', { name: /Kettle Tarn · demo/ }).click();
  await expect(desk(app)).toHaveCount(0);
  await drop(app, [path.join(pack('odd-grid'), 'recipe.json'), path.join(pack('component-grid'), 'recipe.json')]);
  await expect(error).toContainText('2 packs or documents at once');
  await app.keyboard.press('Escape');
  await chooser.setInputFiles([zip('odd-grid'), zip('component-grid')]);
  await expect(error).toContainText('2 packs or documents at once');
  await expect(link(app, 'Fit')).toContainText('1525²');
  await open(app);
  await expect(app.getByRole('button', { name: 'Project: Kettle Tarn' })).toBeVisible();
});
