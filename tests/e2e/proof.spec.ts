import path from 'node:path';
import { card, downloaded, expect, go, link, open, ready, test } from './helpers';
import { Gate } from './gate';

test('the pack holds; a wrong value typed turns it red and is named; put right, it holds again', async ({ app }) => {
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await expect(link(app, 'Proof')).toContainText('6.5 mm at most');
  const typed = app.getByLabel('Bench').getByLabel('Height scale');
  await typed.fill('162.9');
  await typed.press('Enter');
  await expect(app.getByText('The pack does not hold')).toBeVisible();
  await expect(app.getByText('Height scale is typed as 162.9000; it should be 162.1118.')).toBeVisible();
  await expect(link(app, 'Proof')).toContainText('does not hold');
  await app.getByRole('button', { name: 'as on the card' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await app.getByRole('button', { name: 'show on the map' }).click();
  await expect(app.getByLabel(/^Legend: Encoding error: shown − fitted, ≤ −/)).toBeVisible();
  await app.getByRole('radio', { name: 'Ground error' }).click();
  await expect(app.getByLabel(/^Legend: Ground error: fitted − source, ≤ −/)).toBeVisible();
});

test('a change after the proof makes pack and proof old, and marks the changed rows', async ({ app }) => {
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  await go(app, 'Fit');
  const ladder = app.getByRole('slider', { name: 'Vertices per side' });
  await ladder.press('ArrowDown');
  await expect(link(app, 'Proof')).toContainText('not proved');
  await expect(link(app, 'Hand over')).toContainText('pack out of date');
  await expect(app.getByTitle('Changed since the last pack').first()).toBeVisible();
});

test('nine tiles, counted from the south, prove and are placed', async ({ app }) => {
  await go(app, 'Split');
  await app.getByLabel('Across').fill('3');
  await app.getByLabel('Across').press('Enter');
  // square ground is divided alike both ways
  await expect(app.getByLabel('Down', { exact: true })).toHaveValue('3');
  await app.getByRole('radio', { name: 'From the south' }).click();
  // the ground stays as it is: 1525 vertices make three tiles of 509
  await expect(link(app, 'Fit')).toContainText('1525²');
  await expect(link(app, 'Split')).toContainText('3 × 3 of 509²');
  await go(app, 'Fit');
  const ladder = app.getByRole('slider', { name: 'Vertices per side' });
  for (let n = 0; n < 20 && (await ladder.getAttribute('aria-valuenow')) !== '505'; n++)
    await ladder.press('ArrowDown');
  await expect(link(app, 'Fit')).toContainText('1513²');
  await expect(link(app, 'Split')).toContainText('3 × 3 of 505²');
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  expect(
    Object.keys(files)
      .filter((n) => n.endsWith('.png'))
      .sort(),
  ).toEqual([0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => `Kettle-Tarn-r0${r}c0${c}.png`)));
  await go(app, 'Proof');
  await expect(app.getByText('The pack holds')).toBeVisible();
  await expect(app.getByText(/vertices on shared edges are the same/)).toBeVisible();
});

test('the other target asks for other values', async ({ app }) => {
  await app.getByRole('button', { name: /^Target:/ }).click();
  await app.getByRole('option', { name: /Odd grid/ }).click();
  await expect(link(app, 'Fit')).toContainText('1025²');
  await expect(card(app, 'extentX')).toHaveText(/3.837\.50/);
  await expect(card(app, 'heightRange')).toHaveText('830.000');
  await expect(card(app, 'baseElevation')).toHaveText('0.000');
  await expect(card(app, 'heightScale')).toHaveCount(0);
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  expect(files['Kettle-Tarn.raw']).toHaveLength(1025 * 1025 * 2);
});

test('a job that is cancelled at any stage leaves the project as it was', async ({ app }) => {
  const gate = await Gate.into(app);
  await open(app);
  await go(app, 'Proof');
  const write = app.getByRole('button', { name: 'Write the files and prove them' });
  for (const [label, skip, after] of [
    ['Writing the pack', 0, 0],
    ['Writing the pack', 0, 1],
    ['Writing the pack', 0, 4],
    ['Proving the pack', 1, 0],
    ['Proving the pack', 1, 3],
  ] as const) {
    await gate.arm({ skip, after });
    await write.click();
    await gate.reached();
    await expect(app.getByRole('progressbar', { name: label })).toBeVisible();
    await app.getByRole('button', { name: 'cancel' }).click();
    await expect(app.getByRole('progressbar')).toHaveCount(0);
    await expect(link(app, 'Hand over')).toContainText('not packed');
    await expect(link(app, 'Proof')).toContainText('not proved');
    await expect(app.getByRole('alert').filter({ hasText: 'Found' })).toHaveCount(0);
  }
  await write.click();
  await expect(app.getByText('The pack holds')).toBeVisible();
});

test('a source that is cancelled at any stage of its reading leaves the project as it was', async ({ app }) => {
  const gate = await Gate.into(app);
  await open(app);
  await go(app, 'Bring in');
  const name = app.getByRole('button', { name: /^Project:/ });
  for (const after of [0, 1, 5]) {
    await gate.arm({ after });
    await app.getByLabel('Heightmap to bring in').setInputFiles(path.resolve('public/demo/kettle-tarn-big-endian.raw'));
    await gate.reached();
    await app.getByRole('button', { name: 'cancel' }).click();
    await expect(name).toHaveAccessibleName('Project: Kettle Tarn');
    await expect(app.getByRole('progressbar')).toHaveCount(0);
  }
});

test('a project that is left while its pack is written: the pack is dropped, and said', async ({ app }) => {
  const gate = await Gate.into(app);
  await open(app);
  await go(app, 'Hand over');
  let downloads = 0;
  app.on('download', () => downloads++);
  await gate.arm({ after: 2 });
  await app.getByRole('button', { name: 'Download the pack' }).click();
  await gate.reached();
  await app.getByLabel('Heightmap to bring in').setInputFiles(path.resolve('public/demo/kettle-tarn-big-endian.raw'));
  const said = app.getByText('Kettle Tarn: writing the pack was stopped, because kettle-tarn-big-endian was opened.');
  await expect(said).toBeVisible();
  await expect(app.getByText('RAW, 1536 × 1536')).toBeVisible();
  await expect(app.getByRole('progressbar')).toHaveCount(0);
  await expect(link(app, 'Hand over')).toContainText('not packed');
  expect(downloads).toBe(0);
  await said.locator('..').getByRole('button', { name: 'Close' }).click();
  await expect(said).toHaveCount(0);
});

test('values that are typed while a proof runs make it again; only the newer one counts', async ({ app }) => {
  const gate = await Gate.into(app);
  await open(app);
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  const scale = app.getByLabel('Bench').getByLabel('Height scale');
  await gate.arm({ after: 2 });
  await scale.fill('100');
  await scale.press('Enter');
  await gate.reached();
  await scale.fill('162.1118');
  await scale.press('Enter');
  await expect(app.getByRole('progressbar')).toHaveCount(0);
  await expect(app.getByText('The pack holds')).toBeVisible();
  // typed wrongly it does not hold, also after a reload; undo takes it back
  await scale.fill('100');
  await scale.press('Enter');
  await expect(app.getByText('The pack does not hold')).toBeVisible();
  await app.reload();
  await ready(app);
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack does not hold')).toBeVisible();
  await expect(scale).toHaveValue('100');
  await scale.fill('162.1118');
  await scale.press('Enter');
  await expect(app.getByText('The pack holds')).toBeVisible();
  await app.getByRole('button', { name: 'Undo' }).click();
  await expect(app.getByText('The pack does not hold')).toBeVisible();
});
