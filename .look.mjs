import { spawn } from 'node:child_process';
import path from 'node:path';
const { CHROMIUM, FLAGS } = await import('./tools/chromium.mjs');
const { chromium } = await import('@playwright/test');
const PORT = 4391;
const server = spawn(process.execPath, ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(PORT)], { stdio: ['ignore', 'pipe', 'inherit'] });
await new Promise((r) => server.stdout.on('data', (t) => /ready/i.test(String(t)) && r()));
const browser = await chromium.launch({ executablePath: CHROMIUM, args: FLAGS });
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on('console', (m) => { if (m.type() === 'error' || (m.type()==='warning' && !/GPU stall/.test(m.text()))) console.log('CONSOLE', m.text()); });
  page.on('pageerror', (e) => console.log('PAGEERROR', e.message));
  await page.goto(`http://127.0.0.1:${PORT}/`);
  await page.locator('[data-ready=true]').waitFor();
  await page.locator('[data-check=clipped]').waitFor();
  const settled = () => page.waitForFunction(() => document.querySelector('canvas[role=application]')?.getAttribute('aria-busy') === 'false');
  const shot = async (name) => { await page.mouse.move(2, 400); await settled(); await page.waitForTimeout(150); await page.screenshot({ path: `/tmp/shots/${name}.png` }); };
  const go = (name) => page.getByRole('navigation', { name: 'Chain' }).getByRole('button', { name }).click();
  const script = await import(path.resolve(process.argv[2]));
  await script.default({ page, shot, go, settled });
} catch (e) { console.log(String(e).slice(0, 1500)); } finally { await browser.close(); server.kill(); }
