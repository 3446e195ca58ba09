import { card, expect, go, link, open, ready, test } from './helpers';

test('the cropped window is dragged on the map, moved by keys, and keeps its place', async ({ app }) => {
  await go(app, 'Fit');
  await app.getByRole('radio', { name: 'Cropping' }).click();
  const vertices = app.getByRole('textbox', { name: 'Vertices' });
  await vertices.fill('1009');
  await vertices.press('Enter');
  // in the middle at first: (1536 − 1009) / 2
  const handle = app.getByRole('button', { name: /^Cropped window from column/ });
  const at = async (): Promise<number[]> =>
    [...((await handle.getAttribute('aria-label')) ?? '').matchAll(/\d+/g)].map((m) => Number(m[0]));
  await expect.poll(at).toEqual([263, 263]);
  const box = (await handle.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await app.mouse.move(x, y);
  await app.mouse.down();
  await app.mouse.move(x + 20, y - 30, { steps: 4 });
  const [column = 0, row = 0] = await at();
  expect([column > 263, row < 263]).toEqual([true, true]);
  // nothing is taken before it is let go
  await expect(app.getByRole('textbox', { name: 'First column' })).toHaveValue('263');
  await app.mouse.up();
  await expect(app.getByRole('textbox', { name: 'First column' })).toHaveValue(String(column));
  await expect(app.getByRole('textbox', { name: 'First row' })).toHaveValue(String(row));
  await expect(card(app, 'companionSourceEast')).toHaveText(`−${column}`);
  await handle.focus();
  await handle.press('ArrowLeft');
  await handle.press('Shift+ArrowDown');
  await expect.poll(at).toEqual([column - 1, row + 10]);
  for (const way of ['Resampling', 'Padding']) {
    await app.getByRole('radio', { name: way }).click();
    await expect(handle).toHaveCount(0);
    await app.getByRole('radio', { name: 'Cropping' }).click();
    await expect.poll(at).toEqual([column - 1, row + 10]);
  }
  // the drag is one step of the history, as each of the six after it
  for (let n = 0; n < 7; n++) await app.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(at).toEqual([263, 263]);
});

test('the largest error has a place: it is shown, marked, and stands under the pointer', async ({ app }) => {
  await go(app, 'Proof');
  await app.getByRole('button', { name: 'Write the files and prove them' }).click();
  await expect(app.getByText('The pack holds')).toBeVisible();
  const show = app.getByRole('button', { name: 'Show the largest ground error' });
  const largest = (await show.textContent())!;
  await show.click();
  await expect(app.getByRole('tab', { name: 'Difference' })).toHaveAttribute('aria-selected', 'true');
  await expect(app.getByLabel(/^Legend: Ground error: fitted − source, ≤ −[\d.]+ \S+, 0, ≥ \+/)).toBeVisible();
  // it lies in the middle of the map now
  const box = (await app.getByRole('application', { name: /^Terrain map/ }).boundingBox())!;
  await app.mouse.move(box.x + 46 + (box.width - 72) / 2, box.y + 22 + (box.height - 44) / 2);
  await expect(app.getByLabel('Under the pointer')).toContainText(
    new RegExp(`fitted up to ${largest.replace('.', '\\.')} (above|below) the source`),
  );
});

test('errors close with Escape; keys rest behind a sheet, and can be turned off', async ({ app }) => {
  await app.getByLabel('Heightmap to bring in').setInputFiles({
    name: 'note.txt.png',
    mimeType: 'image/png',
    buffer: Buffer.from('no picture'),
  });
  const error = app.getByRole('alert').filter({ hasText: 'note.txt.png' });
  await expect(error).toBeVisible();
  await app.keyboard.press('Escape');
  await expect(error).toHaveCount(0);
  await expect(link(app, 'Fit')).toHaveAttribute('aria-current', 'step');
  await app.keyboard.press('?');
  const sheet = app.getByRole('dialog', { name: 'Keyboard shortcuts' });
  await expect(sheet.getByRole('checkbox')).toBeVisible();
  await app.keyboard.press('4');
  await sheet.getByRole('checkbox', { name: 'Single letters and digits are shortcuts' }).click();
  await app.keyboard.press('Escape');
  await expect(sheet).toHaveCount(0);
  await app.keyboard.press('4');
  await expect(link(app, 'Fit')).toHaveAttribute('aria-current', 'step');
  await app.reload();
  await ready(app);
  await app.keyboard.press('4');
  await expect(link(app, 'Fit')).toHaveAttribute('aria-current', 'step');
  await app.getByRole('button', { name: 'Keyboard shortcuts' }).click();
  await sheet.getByRole('checkbox', { name: 'Single letters and digits are shortcuts' }).click();
  await app.keyboard.press('Escape');
  await app.keyboard.press('4');
  await expect(link(app, 'Height')).toHaveAttribute('aria-current', 'step');
});

test('arrow keys go along the views and down the layouts', async ({ app }) => {
  await app.getByRole('tab', { name: 'Relief' }).focus();
  await app.keyboard.press('ArrowRight');
  await expect(app.getByRole('tab', { name: 'Heights' })).toBeFocused();
  await expect(app.getByRole('tab', { name: 'Heights' })).toHaveAttribute('aria-selected', 'true');
  await expect(app.getByLabel(/^Legend: Elevation/)).toBeVisible();
  await app.keyboard.press('End');
  await expect(app.getByRole('tab', { name: 'Difference' })).toHaveAttribute('aria-selected', 'true');
  await app.keyboard.press('Home');
  await expect(app.getByRole('tab', { name: 'Relief' })).toHaveAttribute('aria-selected', 'true');
  await go(app, 'Fit');
  const layouts = app.getByRole('radiogroup', { name: 'Component layout' });
  const [first, second] = [layouts.getByRole('radio').nth(0), layouts.getByRole('radio').nth(1)];
  await expect(second).toBeChecked();
  await second.focus();
  await app.keyboard.press('ArrowUp');
  await expect(first).toBeChecked();
  await expect(card(app, 'layout')).toContainText('patch of 127 quads');
});

/** As much of React's tree as is looked at. */
interface Fiber {
  readonly tag: number;
  readonly flags: number;
  readonly child: Fiber | null;
  readonly sibling: Fiber | null;
  readonly alternate: Fiber | null;
  readonly stateNode: unknown;
}

test('moving the pointer over the map renders the readout and nothing else', async ({ app }) => {
  // the page is opened again with an ear at React's own door for its tools
  await app.addInitScript(() => {
    const counted = { commits: 0, inside: 0, outside: 0 };
    const hostOf = (fiber: Fiber | null): Element | null => {
      for (let f = fiber; f; f = f.child) if (f.stateNode instanceof Element) return f.stateNode;
      return null;
    };
    const isFunction = ({ tag }: Fiber): boolean => tag === 0 || tag === 11 || tag === 15;
    const walk = (now: Fiber): void => {
      for (let f: Fiber | null = now; f; f = f.sibling) {
        const before = f.alternate;
        if (before && isFunction(f) && (f.flags & 1) !== 0) {
          if (hostOf(f)?.closest('[data-readout]')) counted.inside++;
          else counted.outside++;
        }
        if (f.child && f.child !== before?.child) walk(f.child);
      }
    };
    Object.assign(window, {
      counted,
      __REACT_DEVTOOLS_GLOBAL_HOOK__: {
        supportsFiber: true,
        inject: () => 1,
        onCommitFiberUnmount: () => undefined,
        onCommitFiberRoot: (_: number, root: { current: Fiber }) => {
          counted.commits++;
          walk(root.current);
        },
      },
    });
  });
  await open(app);
  await go(app, 'Proof');
  const counts = (): Promise<{ commits: number; inside: number; outside: number }> =>
    app.evaluate(() => ({
      ...(window as never as { counted: { commits: number; inside: number; outside: number } }).counted,
    }));
  const box = (await app.getByRole('application', { name: /^Terrain map/ }).boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await app.mouse.move(x, y);
  await expect(app.getByLabel('Under the pointer')).toBeVisible();
  // the ear hears: going to another step renders a good deal
  const first = await counts();
  await go(app, 'Height');
  await expect.poll(async () => (await counts()).outside - first.outside).toBeGreaterThan(20);
  await app.mouse.move(x, y);
  await expect(app.getByLabel('Under the pointer')).toBeVisible();
  const before = await counts();
  const moves = 100;
  for (let n = 1; n <= moves; n++) await app.mouse.move(x + (n % 20) * 4, y - (n % 17) * 3);
  const last = { x: x + 60, y: y + 40 };
  await app.mouse.move(last.x, last.y);
  const after = await counts();
  const of = (key: keyof typeof after): number => after[key] - before[key];
  process.stdout.write(
    `  ${moves} moves of the pointer: ${of('commits')} commits, ${of('inside')} components rendered in the readout, ${of('outside')} elsewhere\n`,
  );
  expect(of('inside')).toBeGreaterThan(10);
  expect(of('outside')).toBe(0);
});
