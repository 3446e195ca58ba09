import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Page } from '@playwright/test';
import { hills, pngSource } from '../helpers/rasters';
import { card, codesOf, downloaded, expect, link, test } from './helpers';

const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-first-'));
const file = path.join(folder, 'sluice-delta.png');
const SIDE = 505;

test.beforeAll(async () => {
  const source = await pngSource(hills(SIDE, SIDE), SIDE, 'sluice-delta.png');
  writeFileSync(file, await source.read(0, source.size));
});
test.afterAll(() => rmSync(folder, { recursive: true }));

/** A page that is used by keys alone, and how many it took. */
class Keys {
  count = 0;
  constructor(private readonly page: Page) {}
  async press(key: string): Promise<void> {
    this.count++;
    await this.page.keyboard.press(key);
  }
  async type(text: string): Promise<void> {
    this.count += text.length;
    await this.page.keyboard.type(text);
  }
  /** Tab until the focus is on the control of that name. */
  async tabTo(name: string, key = 'Tab'): Promise<void> {
    const focused = (): Promise<string> =>
      this.page.evaluate(() => {
        const at = document.activeElement as HTMLInputElement | null;
        if (!at?.matches('button, input, a, [tabindex]')) return '';
        return (at.ariaLabel ?? at.labels?.[0]?.textContent ?? at.textContent ?? '').trim();
      });
    for (let i = 0; i < 80; i++) {
      if ((await focused()).includes(name)) return;
      await this.press(key);
    }
    throw new Error(`"${name}" was not reached by ${key}`);
  }
}

test('the first minute by keys alone: own file, three numbers, the pack', async ({ app }) => {
  const keys = new Keys(app);
  await expect(app.getByRole('region', { name: 'Your own heightmap' })).toContainText('What you see is a demo.');
  await keys.tabTo('Choose a file…');
  const asked = app.waitForEvent('filechooser');
  // a key is faster than the browser is told to listen for the chooser: one way there and back
  await app.evaluate(() => null);
  await keys.press('Enter');
  const chooser = await asked;
  await chooser.setFiles(file);
  // the first of three questions has the focus
  await expect(app.getByLabel('Code 0 stands for')).toBeFocused();
  await expect(app.getByText('3 numbers the file can’t say')).toBeVisible();
  await expect(app.getByRole('region', { name: 'Your own heightmap' })).toHaveCount(0);
  const placeholders = app.getByLabel('Import card').getByText('placeholder', { exact: true });
  await expect(placeholders).toHaveCount(4);
  await keys.type('0');
  await keys.press('Enter');
  await expect(app.getByLabel('Code 65535 stands for')).toBeFocused();
  await keys.type('1.8 km');
  await keys.press('Enter');
  await expect(app.getByLabel('Spacing')).toBeFocused();
  await expect(placeholders).toHaveCount(2);
  await keys.type('1');
  await keys.press('Enter');
  await expect(placeholders).toHaveCount(0);
  await expect(app.getByText('Heights and ground are known.')).toBeVisible();
  // 1800 m · 12 800 / 65 535, and 256 times that
  await expect(card(app, 'heightScale')).toHaveText('351.5679');
  await expect(card(app, 'heightOffset')).toHaveText(/90.001\.37/);
  await expect(card(app, 'groundScaleX')).toHaveText('100.0000');
  await keys.tabTo('Hand over', 'Shift+Tab');
  await keys.press('Enter');
  await keys.tabTo('Download the pack');
  const files = await downloaded(app, () => keys.press('Enter'));
  expect((await codesOf(files['sluice-delta.png']!)).length).toBe(SIDE * SIDE);
  await expect(link(app, 'Proof')).toContainText('at most');
  const page = Buffer.from(files['import.md']!).toString();
  expect(page).toContain('| Height scale | 351.5679 |');
  expect(page).toContain('spans 1 800 m');
  process.stdout.write(`\nthe first minute took ${keys.count} keys, most of them on the way to a control\n`);
});

test('a typed size that the target does not take is refused with those next to it; one it takes is taken', async ({
  app,
}) => {
  const field = app.getByLabel('Vertices', { exact: true });
  await field.fill('1600');
  await expect(app.getByText('not taken by the target; next to it 1576 and 1613')).toBeVisible();
  await field.press('Enter');
  await expect(app.getByRole('alert').filter({ hasText: 'Next to it: 1576 and 1613.' })).toBeVisible();
  await expect(link(app, 'Fit')).toContainText('1525²');
  await field.press('Escape');
  await expect(field).toHaveValue('1525');
  await app.getByLabel('Components', { exact: true }).fill('8');
  await expect(app.getByText('2033 vertices: invents')).toBeVisible();
  await app.getByLabel('Components', { exact: true }).press('Enter');
  await expect(link(app, 'Fit')).toContainText('2033²');
  await expect(card(app, 'layout')).toHaveText('8 × 8 components, each 2 × 2 patches of 127 quads');
  const ladder = app.getByRole('slider', { name: 'Vertices per side' });
  await ladder.press('Home');
  await expect(field).toHaveValue('8');
  await app.getByRole('button', { name: 'Undo' }).click();
  await expect(field).toHaveValue('2033');
});
