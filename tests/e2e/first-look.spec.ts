import AxeBuilder from '@axe-core/playwright';
import { card, expect, go, link, ready, test } from './helpers';

test('opens on Kettle Tarn, already fitted, with one caution', async ({ app }) => {
  await expect(app).toHaveTitle(/Level Grid/);
  await expect(app.getByRole('button', { name: 'Project: Kettle Tarn' })).toBeVisible();
  for (const name of ['Bring in', 'Clean', 'Fit', 'Height', 'Split', 'Proof', 'Hand over'])
    await expect(link(app, name)).toBeVisible();
  await expect(card(app, 'heightScale')).toHaveText('162.1118');
  await expect(card(app, 'groundScaleX')).toHaveText('251.8045');
  await expect(card(app, 'heightOffset')).toHaveText(/41.500\.63/);
  await expect(card(app, 'layout')).toHaveText('6 × 6 components, each 2 × 2 patches of 127 quads');
  await expect(app.getByText('1 caution, 7 hold')).toBeVisible();
  expect(await app.evaluate(() => crossOriginIsolated)).toBe(true);
});

test('a step along the ladder moves card, chain and layout at once; undo and redo bring it back', async ({ app }) => {
  const ladder = app.getByRole('slider', { name: 'Vertices per side' });
  await ladder.focus();
  await ladder.press('ArrowUp');
  await expect(link(app, 'Fit')).toContainText('1531²');
  await expect(card(app, 'layout')).toHaveText('3 × 3 components, each 2 × 2 patches of 255 quads');
  await expect(card(app, 'groundScaleX')).toHaveText('250.8170');
  await app.getByRole('button', { name: 'Undo' }).click();
  await expect(link(app, 'Fit')).toContainText('1525²');
  await app.keyboard.press('Control+Shift+z');
  await expect(link(app, 'Fit')).toContainText('1531²');
  await app.keyboard.press('Control+z');
  await expect(card(app, 'groundScaleX')).toHaveText('251.8045');
  // with the focus still on the ladder, on a choice and on a tick, as they are left after use
  await ladder.press('ArrowUp');
  await expect(link(app, 'Fit')).toContainText('1531²');
  await ladder.press('Control+z');
  await expect(link(app, 'Fit')).toContainText('1525²');
  await app.getByRole('radio', { name: 'Cropping' }).click();
  await expect(app.getByRole('radio', { name: 'Cropping' })).toBeChecked();
  await app.keyboard.press('Control+z');
  await expect(app.getByRole('radio', { name: 'Resampling' })).toBeChecked();
  await app.getByRole('checkbox', { name: 'no overshoot' }).click();
  await expect(app.getByRole('checkbox', { name: 'no overshoot' })).toBeChecked();
  await app.keyboard.press('Control+z');
  await expect(app.getByRole('checkbox', { name: 'no overshoot' })).not.toBeChecked();
  // in a field the same keys belong to its text, and letters are letters
  await go(app, 'Bring in');
  const field = app.getByLabel('Spacing');
  await field.focus();
  await field.press('3');
  await expect(link(app, 'Bring in')).toHaveAttribute('aria-current', 'step');
});

test('the caution shows its place and repairs itself', async ({ app }) => {
  const check = app.locator('[data-check=clipped]');
  await expect(check).toContainText('would be clipped');
  await check.getByRole('button', { name: 'show me' }).click();
  await check.getByRole('button', { name: 'hold overshoot within the source' }).click();
  await expect(app.getByText('8 hold')).toBeVisible();
  await expect(app.getByRole('checkbox', { name: 'no overshoot' })).toBeChecked();
  await expect(link(app, 'Height')).toContainText('12.7 mm a step');
});

test('a reload brings everything back', async ({ app }) => {
  await app.getByRole('radio', { name: '127 quads, 1 × 1 patches, 12 × 12 components' }).click();
  await go(app, 'Height');
  await app.getByLabel('Sea level').fill('1300+45.5');
  await app.getByLabel('Sea level').press('Enter');
  await expect(app.getByLabel('Sea level')).toHaveValue('1345.5');
  // the write is done when the kept recipe says so
  await expect
    .poll(() =>
      app.evaluate(
        () =>
          new Promise((resolve) => {
            const ask = indexedDB.open('level-grid');
            ask.onsuccess = () => {
              const get = ask.result.transaction('projects').objectStore('projects').get('project/demo-kettle-tarn');
              get.onsuccess = () => resolve((get.result as { recipe: { height: { sea: number } } }).recipe.height.sea);
            };
          }),
      ),
    )
    .toBe(1345.5);
  await app.reload();
  await ready(app);
  await expect(link(app, 'Height')).toHaveAttribute('aria-current', 'step');
  await expect(app.getByLabel('Sea level')).toHaveValue('1345.5');
  await expect(card(app, 'layout')).toHaveText('12 × 12 components, each 1 × 1 patch of 127 quads');
});

test('a value that can’t be used is told under its field and changes nothing', async ({ app }) => {
  await go(app, 'Bring in');
  const field = app.getByLabel('Code 65535 stands for');
  await field.fill('1000');
  await field.press('Enter');
  await expect(app.getByRole('alert').filter({ hasText: 'the highest code above' })).toBeVisible();
  await field.press('Escape');
  await expect(field).toHaveValue('2140');
  await field.fill('not a height');
  await field.press('Enter');
  await expect(app.getByText('Not a number.')).toBeVisible();
  await expect(card(app, 'heightScale')).toHaveText('162.1118');
});

test('the map answers keys and pointer, and reads out position and heights', async ({ app }) => {
  const map = app.getByRole('application');
  await map.focus();
  for (let i = 0; i < 12; i++) await map.press('+');
  await expect(map).toHaveAttribute('aria-busy', 'false');
  const box = (await map.boundingBox())!;
  await app.mouse.move(box.x + box.width / 2 + 30, box.y + box.height / 2 + 30);
  await expect(app.getByLabel('Under the pointer')).toContainText(
    /east [\d ]+\.\d m.*north −[\d ]+\.\d m.*v 7\d\d, 7\d\d.*source 1.\d\d\d\.\d\d m/,
  );
  await map.press('0');
  for (const view of ['Heights', 'Slope', 'Steps', 'Relief']) {
    await app.getByRole('tab', { name: view, exact: true }).click();
    await expect(map).toHaveAttribute('aria-busy', 'false');
  }
  await app.getByRole('button', { name: 'Compare source and result' }).click();
  const wipe = app.getByRole('slider', { name: 'Wipe between source and result' });
  await wipe.press('ArrowRight');
  await expect(wipe).toHaveAttribute('aria-valuenow', '52');
  await app.getByRole('tab', { name: 'Elevations' }).click();
  const bars = app.getByRole('img', { name: /^Elevations of the fitted ground, from [\d .]+ to 2 140\.\d metres/ });
  await expect(bars).toBeVisible();
  const plot = (await bars.boundingBox())!;
  await app.mouse.move(plot.x + plot.width / 2, plot.y + plot.height / 2);
  await expect(bars).toContainText(/1 [67]\d\d–1 7\d\d m: [\d.]+ %/);
});

test('the section line moves by keys', async ({ app }) => {
  const plot = app.getByRole('img', { name: /Cross-section/ });
  const before = await plot.getAttribute('aria-label');
  await app.getByRole('button', { name: /End A of the section line/ }).press('ArrowRight');
  await expect(plot).not.toHaveAttribute('aria-label', before!);
});

test('why and copy on the card', async ({ app }) => {
  await app.getByRole('button', { name: 'Height scale why' }).click();
  await expect(app.getByText('(2 140 − 1 310) · 12 800 / 65 535 = 162.1118')).toBeVisible();
  await app.getByRole('button', { name: 'Copy Height offset' }).click();
  await expect.poll(() => app.evaluate(() => navigator.clipboard.readText())).toBe('41500.63');
});

test('shortcuts are listed, and reach every step', async ({ app }) => {
  await app.keyboard.press('?');
  await expect(app.getByRole('heading', { name: 'Keyboard shortcuts' })).toBeVisible();
  await app.keyboard.press('Escape');
  await app.keyboard.press('5');
  await expect(link(app, 'Split')).toHaveAttribute('aria-current', 'step');
});

for (const theme of ['light', 'dark'] as const) {
  test(`every step is accessible, ${theme}`, async ({ app }) => {
    // seven analyses of the whole page
    test.slow();
    if (theme === 'dark') await app.getByRole('button', { name: 'Dark theme' }).click();
    for (const step of ['Bring in', 'Clean', 'Fit', 'Height', 'Split', 'Proof', 'Hand over']) {
      await go(app, step);
      const { violations } = await new AxeBuilder({ page: app })
        .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
        .analyze();
      expect(
        violations.map(
          (v) =>
            `${step}: ${v.id} ${v.nodes
              .map((n) => n.html)
              .slice(0, 2)
              .join(' ')}`,
        ),
      ).toEqual([]);
    }
  });
}
