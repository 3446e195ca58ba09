import { expect, test as base, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { unzipSync } from 'fflate';
import sharp from 'sharp';

/** A page that fails its test on any console error, page error or request to a foreign place. */
export const test = base.extend<{ app: Page }>({
  app: async ({ page, baseURL }, use) => {
    const faults: string[] = [];
    page.on('console', (m) => {
      // reading the canvas back for a picture stalls the software renderer; that is no fault of the page
      if (m.type() === 'error' || (m.type() === 'warning' && !/GPU stall/.test(m.text()))) faults.push(m.text());
    });
    page.on('pageerror', (e) => faults.push(e.message));
    page.on('request', (r) => {
      if (!r.url().startsWith(baseURL ?? '') && !/^(blob|data):/.test(r.url())) faults.push(`request to ${r.url()}`);
    });
    await open(page);
    await use(page);
    expect(faults).toEqual([]);
  },
});

/** Opens the application and waits until the project is there and measured. */
export async function open(page: Page): Promise<void> {
  await page.goto('/');
  await ready(page);
}

/** A machine that stands still for a while is none of the page's faults. */
const PATIENCE_MS = 40_000;

export async function ready(page: Page): Promise<void> {
  await expect(page.locator('[data-ready=true]')).toBeVisible({ timeout: PATIENCE_MS });
  await expect(
    page
      .locator('[data-check=clipped]')
      .or(page.getByText('1 caution, '))
      .or(page.getByText(/\d+ hold$/))
      .first(),
  ).toBeAttached();
}

export const card = (page: Page, id: string) => page.locator(`[data-card="${id}"]`);
export const link = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Chain' }).getByRole('button', { name });
export const go = (page: Page, name: string) => link(page, name).click();

/** Begins a job and has the worker that does it die; what the page says of it is closed again. */
export async function dieDuring(page: Page, begin: () => Promise<void>): Promise<void> {
  const jobs = page.workers().find((w) => /jobs/.test(w.url())) ?? page.workers()[0]!;
  await begin();
  await jobs.evaluate(() => {
    setTimeout(() => {
      throw new Error('out of memory');
    });
  });
  await expect(page.getByRole('alert').filter({ hasText: 'a worker that stopped' })).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
}

/** The files of a downloaded zip. */
export async function downloaded(page: Page, act: () => Promise<void>): Promise<Record<string, Uint8Array>> {
  const [download] = await Promise.all([page.waitForEvent('download'), act()]);
  return unzipSync(readFileSync(await download.path()));
}

/** Codes of a PNG by an independent reader. */
export async function codesOf(bytes: Uint8Array): Promise<Uint16Array> {
  const raw = await sharp(bytes).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer();
  return new Uint16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.byteLength));
}

export { expect };
