/** Several tabs, and pages that end at a bad moment. */
import path from 'node:path';
import { Gate } from './gate';
import { card, downloaded, expect, go, link, open, ready, test } from './helpers';

test('one tab edits, the other follows live and takes over by a click', async ({ app, context }) => {
  const other = await context.newPage();
  await other.goto('/');
  await ready(other);
  const note = other.getByText('Another tab edits.');
  await expect(note).toBeVisible();
  await expect(app.getByText('Another tab edits.')).toHaveCount(0);
  // what is done here is seen there
  await app.getByRole('slider', { name: 'Vertices per side' }).press('ArrowUp');
  await expect(link(app, 'Fit')).toContainText('1531²');
  await expect(link(other, 'Fit')).toContainText('1531²');
  // nothing can be done there until it takes over
  await other.keyboard.press('Control+z');
  await expect(link(other, 'Fit')).toContainText('1531²');
  await other.getByRole('button', { name: 'Edit here instead' }).click();
  await expect(note).toHaveCount(0);
  await expect(app.getByText('Another tab edits.')).toBeVisible();
  await go(other, 'Fit');
  await other.getByRole('slider', { name: 'Vertices per side' }).press('ArrowDown');
  await expect(link(other, 'Fit')).toContainText('1525²');
  await expect(link(app, 'Fit')).toContainText('1525²');
  // when it closes, the first one edits again
  await other.close();
  await expect(app.getByText('Another tab edits.')).toHaveCount(0);
  await ready(app);
  await go(app, 'Fit');
  await app.getByRole('slider', { name: 'Vertices per side' }).press('ArrowUp');
  await expect(link(app, 'Fit')).toContainText('1531²');
});

test('a tab that may edit when another ends goes on undisturbed where nothing else was kept', async ({
  app,
  context,
}) => {
  // an ending page that holds the lock
  await app.goto('about:blank');
  const ending = await context.newPage();
  await ending.goto('/demo/kettle-tarn.png');
  await ending.evaluate(
    () =>
      new Promise<void>((held) => {
        void navigator.locks.request('level-grid/editing', () => {
          held();
          return new Promise(() => undefined);
        });
      }),
  );
  await open(app);
  await expect(app.getByText('Another tab edits.')).toBeVisible();
  await go(app, 'Hand over');
  await ending.close();
  // the click waits until the page can be used
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  expect(Object.keys(files)).toContain('recipe.json');
  await expect(app.getByText('Another tab edits.')).toHaveCount(0);
});

const RELOADS = 4;

test('a reload right after a change keeps it, every time', async ({ app }) => {
  // so many starts of the application, also on a busy machine
  test.setTimeout(180_000);
  let kept = 0;
  for (let turn = 0; turn < RELOADS; turn++) {
    await go(app, 'Height');
    const sea = String(1400 + turn);
    await app.getByLabel('Sea level').fill(sea);
    await app.getByLabel('Sea level').press('Enter');
    await app.reload();
    await ready(app);
    await expect(link(app, 'Height')).toHaveAttribute('aria-current', 'step');
    if ((await app.getByLabel('Sea level').inputValue()) === sea) kept++;
  }
  process.stdout.write(`\nreloaded right after a change, ${RELOADS} times: ${kept} kept\n`);
  expect(kept).toBe(RELOADS);
});

/** Where in a replacement the tab ends: at a checkpoint of reading, or at a write into the browser's database. */
type Moment =
  { readonly reading: number } | { readonly write: number; readonly when: 'before' | 'asked for' | 'written' };
const MOMENTS: readonly Moment[] = [
  { reading: 3 },
  // each write once, each way of ending it at least once
  { write: 1, when: 'written' },
  { write: 2, when: 'before' },
  { write: 3, when: 'asked for' },
  { write: 4, when: 'written' },
  { write: 5, when: 'asked for' },
];

test('a tab that ends at any moment of a replacement opens with the old pair or the new one', async ({
  app,
  context,
}) => {
  test.setTimeout(240_000);
  let arrived = (): void => undefined;
  await context.exposeFunction('levelGridStopsHere', () => arrived());
  await context.addInitScript(() => {
    const luck = window as unknown as {
      levelGridLuck?: { write: number; when: string };
      levelGridStopsHere: () => Promise<void>;
    };
    const stop = (): void => {
      void luck.levelGridStopsHere();
      // nothing else happens on this page any more
      for (const from = performance.now(); performance.now() - from < 2500;);
    };
    // eslint-disable-next-line @typescript-eslint/unbound-method -- it is applied to its own store below
    const put = IDBObjectStore.prototype.put;
    IDBObjectStore.prototype.put = function (...given) {
      const { levelGridLuck: wanted } = luck;
      if (!wanted || --wanted.write > 0) return put.apply(this, given);
      delete luck.levelGridLuck;
      if (wanted.when === 'before') stop();
      const request = put.apply(this, given);
      if (wanted.when === 'asked for') setTimeout(stop);
      else this.transaction.addEventListener('complete', stop);
      return request;
    };
  });
  const counts = { before: 0, after: 0 };
  let page = app;
  let gate = await Gate.into(page);
  await open(page);
  for (const [i, moment] of MOMENTS.entries()) {
    // large enough to be read in several bands
    const size = i % 2 === 0 ? 1029 : 1157;
    await go(page, 'Bring in');
    await expect(page.getByRole('progressbar')).toHaveCount(0);
    const session = await context.newCDPSession(page);
    const stopped = new Promise<void>((resolve) => (arrived = resolve));
    // what the file is, is looked at first
    if ('reading' in moment) await gate.arm({ skip: 1, after: moment.reading });
    else
      await page.evaluate((wanted) => {
        (window as unknown as { levelGridLuck: unknown }).levelGridLuck = wanted;
      }, moment);
    const codes = Buffer.from(Uint16Array.from({ length: size * size }, (_, k) => (k * 37) & 65535).buffer);
    await page
      .getByLabel('Replacing heightmap')
      .setInputFiles({ name: `sheet-${size}.raw`, mimeType: 'application/octet-stream', buffer: codes });
    if ('reading' in moment) await gate.reached();
    else {
      await stopped;
      // at once, as when the system ends it
      const crashed = page.waitForEvent('crash');
      session.send('Page.crash').catch(() => undefined);
      await crashed;
    }
    await page.close();
    page = await context.newPage();
    gate = await Gate.into(page);
    // a page may be given the process that is just going down
    await page.goto('/').catch(() => page.goto('/'));
    await ready(page);
    await go(page, 'Bring in');
    const holds = (await page.getByText(/^(PNG|RAW), \d+ × \d+$/).textContent()) ?? '';
    const file =
      (await page
        .getByText(/^(kettle-tarn\.png|sheet-\d+\.raw)$/)
        .first()
        .textContent()) ?? '';
    // the file named is the file that is there
    expect(holds).toBe(
      file === 'kettle-tarn.png' ? 'PNG, 1536 × 1536' : `RAW, ${/\d+/.exec(file)?.[0]} × ${/\d+/.exec(file)?.[0]}`,
    );
    counts[file.includes(String(size)) ? 'after' : 'before']++;
    await expect(card(page, 'heightScale')).toBeVisible();
  }
  process.stdout.write(
    `\nended at ${MOMENTS.length} moments of a replacement: ${counts.before} old, ${counts.after} new, a mixture 0\n`,
  );
  expect(counts.before).toBeGreaterThan(0);
  expect(counts.after).toBeGreaterThan(0);
});

test('where the browser lets nothing be kept all works in memory, and it is said', async ({ app }) => {
  await app.addInitScript(() => {
    const denied = (): never => {
      throw new DOMException('denied', 'SecurityError');
    };
    Object.defineProperty(window, 'localStorage', { get: denied });
    IDBFactory.prototype.open = denied;
  });
  await open(app);
  const said = app.getByText('This project is not kept: found a browser that lets nothing be kept');
  await expect(said).toContainText('Everything works, but is gone when the page closes');
  await said.locator('..').getByRole('button', { name: 'Close' }).click();
  await go(app, 'Fit');
  await app.getByRole('slider', { name: 'Vertices per side' }).press('ArrowUp');
  await expect(link(app, 'Fit')).toContainText('1531²');
  // said once; the sign stays, and tells why
  await expect(said).toHaveCount(0);
  await app.getByRole('button', { name: 'not kept' }).click();
  await expect(said).toBeVisible();
  await go(app, 'Hand over');
  const files = await downloaded(app, () => app.getByRole('button', { name: 'Download the pack' }).click());
  expect(Object.keys(files)).toContain('recipe.json');
});

test('a project that has lost its source asks for the file by name, size and checksum', async ({ app }) => {
  const own = path.resolve('public/demo/kettle-tarn-8-bit.png');
  await app.getByLabel('Heightmap to bring in').setInputFiles(own);
  await expect(app.getByRole('button', { name: 'Project: kettle-tarn-8-bit' })).toBeVisible();
  await expect(app.getByRole('progressbar')).toHaveCount(0);
  await go(app, 'Height');
  await app.getByLabel('Sea level').fill('77');
  await app.getByLabel('Sea level').press('Enter');
  // as when a browser makes room
  await app.evaluate(
    () =>
      new Promise<void>((done) => {
        const request = indexedDB.open('level-grid');
        request.onsuccess = () => {
          const transaction = request.result.transaction('projects', 'readwrite');
          const keys = transaction.objectStore('projects').openKeyCursor();
          keys.onsuccess = () => {
            const at = keys.result;
            if (!at) return;
            const key = at.key as string;
            if (key.startsWith('source/') && !key.includes('demo')) transaction.objectStore('projects').delete(at.key);
            at.continue();
          };
          transaction.oncomplete = () => {
            request.result.close();
            done();
          };
        };
      }),
  );
  await app.reload();
  const sheet = app.getByRole('dialog', { name: 'kettle-tarn-8-bit has lost its source' });
  await expect(sheet).toContainText('Choose it again: kettle-tarn-8-bit.png');
  await expect(sheet).toContainText(/ bytes, checksum [0-9a-f]{12}/);
  const choose = app.getByLabel('Source of the project');
  await choose.setInputFiles(path.resolve('public/demo/kettle-tarn.png'));
  await expect(sheet.getByRole('alert')).toContainText('is another file than the one these choices were made for');
  await choose.setInputFiles(own);
  await expect(sheet).toHaveCount(0);
  await expect(app.getByRole('button', { name: 'Project: kettle-tarn-8-bit' })).toBeVisible();
  await expect(app.getByLabel('Sea level')).toHaveValue('77');
  await app.reload();
  await ready(app);
  await expect(app.getByRole('button', { name: 'Project: kettle-tarn-8-bit' })).toBeVisible();
});

test('a page that ends before the record of what was brought in is written finds it again', async ({ app }) => {
  await app.evaluate(() => {
    // eslint-disable-next-line @typescript-eslint/unbound-method -- it is applied to its own store below
    const plain = IDBObjectStore.prototype.put;
    IDBObjectStore.prototype.put = new Proxy(plain, {
      apply: (put, store: IDBObjectStore, [value, key]: [unknown, IDBValidKey]) => {
        // only the record of this project holds the file's name
        if ((value as { file?: string }).file !== 'kettle-tarn-8-bit.png') return put.call(store, value, key);
        // asked for, not written, and never answered, as when the page goes away
        Object.defineProperty(store.transaction, 'oncomplete', { set: () => undefined });
        return store.get('nothing') as IDBRequest<IDBValidKey>;
      },
    });
  });
  await app.getByLabel('Heightmap to bring in').setInputFiles(path.resolve('public/demo/kettle-tarn-8-bit.png'));
  await expect(app.getByRole('button', { name: 'Project: kettle-tarn-8-bit' })).toBeVisible();
  await expect.poll(() => app.evaluate(() => localStorage.getItem('level-grid/latest'))).toContain('8-bit');
  await app.reload();
  await ready(app);
  await expect(app.getByRole('button', { name: 'Project: kettle-tarn-8-bit' })).toBeVisible();
});
