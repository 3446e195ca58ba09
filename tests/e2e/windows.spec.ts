import AxeBuilder from '@axe-core/playwright';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Page } from '@playwright/test';
import { expect, go, open, test } from './helpers';

let folder: string;
test.beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-'));
  const recipe = path.join(folder, 'recipe.json');
  const source = { low: -20, high: 700, spacing: 2.5 };
  writeFileSync(
    recipe,
    JSON.stringify({ version: 2, name: 'Gullsward', source, target: 'component-grid', fit: { size: 505 } }),
  );
  const terrain = path.resolve('public/demo/kettle-tarn.png');
  const call = ['dist/cli.mjs', 'run', terrain, '--recipe', recipe, '--out', path.join(folder, 'pack'), '--zip'];
  expect(spawnSync(process.execPath, call).status).toBe(0);
});
test.afterAll(() => rmSync(folder, { recursive: true }));

/** A pack, zipped. */
const pack = (): string =>
  path.join(
    folder,
    'pack',
    readdirSync(path.join(folder, 'pack')).find((n) => n.endsWith('.zip'))!,
  );

const STEPS = ['Bring in', 'Clean', 'Fit', 'Height', 'Split', 'Proof', 'Hand over'];

/**
 * Every control that is shown, brought into view where it lies in something that scrolls: those that lie outside the
 * window, that are covered by something else, or whose words are cut off, each with what is wrong.
 */
function misplaced(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    const faults: string[] = [];
    const shown = (el: HTMLElement): boolean =>
      el.checkVisibility({ visibilityProperty: true, opacityProperty: true }) && el.getBoundingClientRect().width > 0;
    const controls = document.querySelectorAll<HTMLElement>(
      'button, a[href], input:not([type=file]), select, textarea, [role=radio], [role=slider], [role=tab], [role=checkbox], [role=separator][tabindex]',
    );
    for (const el of controls) {
      if (!shown(el) || el.classList.contains('sr-only')) continue;
      const name = `${el.getAttribute('role') ?? el.tagName.toLowerCase()} “${(el.getAttribute('aria-label') ?? el.textContent ?? '').trim().slice(0, 40)}”`;
      el.scrollIntoView({ block: 'center', inline: 'nearest' });
      const box = el.getBoundingClientRect();
      if (box.left < -0.5 || box.top < -0.5 || box.right > innerWidth + 0.5 || box.bottom > innerHeight + 0.5) {
        faults.push(`${name} lies outside: ${[box.left, box.top, box.right, box.bottom].map(Math.round).join(', ')}`);
        continue;
      }
      const hit = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2);
      // a field that is drawn by its label is reached through it
      const label = (el as HTMLInputElement).labels?.[0];
      if (!hit || !(el.contains(hit) || hit.contains(el) || label?.contains(hit))) {
        faults.push(`${name} is covered by ${hit?.outerHTML.slice(0, 80)}`);
      }
    }
    for (const part of document.querySelectorAll<HTMLElement>(
      'nav[aria-label=Chain] span > span:first-child, [data-card]',
    )) {
      if (!shown(part) || part.closest('[role=img], svg')) continue;
      const frame = part.closest('button, li')!.getBoundingClientRect();
      const box = part.getBoundingClientRect();
      if (box.right > frame.right + 0.5 || box.left < frame.left - 0.5) faults.push(`“${part.textContent}” is cut off`);
    }
    for (const choice of document.querySelectorAll<HTMLElement>('[role=radio], [role=tab]')) {
      const { scrollWidth, clientWidth, scrollHeight, clientHeight } = choice;
      if (!shown(choice) || choice.classList.contains('sr-only')) continue;
      const cut = scrollWidth > clientWidth + 1 || scrollHeight > clientHeight + 2;
      if (cut && !choice.querySelector('.truncate, .sr-only')) faults.push(`“${choice.textContent}” is cut off`);
    }
    // the words of a row and its value, by where they are really drawn
    for (const value of document.querySelectorAll<HTMLElement>('[data-card]')) {
      const words = value.closest('li')?.querySelector('button[aria-expanded]')?.firstChild;
      if (!words || !shown(value)) continue;
      const range = document.createRange();
      range.selectNodeContents(words);
      const [a, b] = [range.getBoundingClientRect(), value.getBoundingClientRect()];
      if (a.right > b.left + 0.5 && a.bottom > b.top && a.top < b.bottom)
        faults.push(`“${words.textContent}” runs into its value`);
    }
    if (document.documentElement.scrollWidth > innerWidth) faults.push('the page scrolls sideways');
    return faults;
  });
}

for (const [width, height] of [
  [1280, 800],
  [1024, 768],
  [640, 400],
  [390, 800],
  [360, 640],
] as const) {
  test(`${width} × ${height}: every control is there, whole and uncovered; axe finds nothing in either theme`, async ({
    page,
  }) => {
    test.slow();
    await page.setViewportSize({ width, height });
    await open(page);
    expect(await misplaced(page)).toEqual([]);
    await page.getByRole('button', { name: 'Go on with the demo' }).click();
    const parts = page.getByRole('navigation', { name: 'Beside the map' });
    const narrow = await parts.isVisible();
    const accessible = async (): Promise<void> => {
      const { violations } = await new AxeBuilder({ page }).analyze();
      expect(violations.map((v) => [v.id, v.nodes.map((n) => n.target)])).toEqual([]);
    };
    for (const theme of ['Dark', 'Light']) {
      // colours move nothing: where things lie is looked at once
      for (const step of theme === 'Dark' ? STEPS : []) {
        await go(page, step);
        expect([step, ...(await misplaced(page))]).toEqual([step]);
      }
      await accessible();
      // each part that comes beside the map or in its place, and the map alone
      for (const part of narrow ? ['Section', 'Type in'] : []) {
        await parts.getByRole('button', { name: part, exact: true }).click();
        expect([part, ...(await misplaced(page))]).toEqual([part]);
        if (theme === 'Dark') await accessible();
      }
      if (narrow) {
        await page.keyboard.press('Escape');
        await expect(parts.locator('[aria-pressed=true]')).toHaveCount(0);
        expect(await misplaced(page)).toEqual([]);
      }
      await page.getByRole('button', { name: `${theme} theme` }).click();
    }
    // cropped ground has the longest card, and a window on the map
    await go(page, 'Fit');
    await page.getByRole('radio', { name: 'Cropping' }).click();
    await expect(page.getByRole('textbox', { name: 'First column' })).toBeVisible();
    expect(['cropped', ...(await misplaced(page))]).toEqual(['cropped']);
    if (narrow) await parts.getByRole('button', { name: 'Type in', exact: true }).click();
    expect(['card of cropped ground', ...(await misplaced(page))]).toEqual(['card of cropped ground']);
    // a pack without its source has a page of its own
    await page.getByLabel('Heightmap to bring in').setInputFiles(pack());
    await expect(page.getByText('The pack holds')).toBeVisible();
    expect(['pack alone', ...(await misplaced(page))]).toEqual(['pack alone']);
    await accessible();
  });
}
