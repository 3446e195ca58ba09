// The whole job at 4033² on the page: a PNG brought in, fitted to 2033², written, proved. Returns lines for the table.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { buildApp } from './build-app.mjs';
import { bundle } from './build-cli.mjs';
import { browserPath, ensureChromium, FLAGS } from './chromium.mjs';
import { root } from './install.mjs';

const PORT = 4379;
const ADDRESS = `http://127.0.0.1:${PORT}`;
const SIDE = 4033;
const TO = 2033;
const TURNS = 3;

async function answers() {
  for (let i = 0; i < 100; i++) {
    if (
      await fetch(ADDRESS).then(
        (r) => r.ok,
        () => false,
      )
    )
      return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error('The application does not answer.');
}

/** Milliseconds for which the page shows a job of that name, from the moment `act` starts it. */
async function shown(page, label, act) {
  await page.evaluate((wanted) => {
    window.__shown = new Promise((resolve) => {
      let start = 0;
      const look = () => {
        const there = document.querySelector(`[role=progressbar][aria-label^="${wanted}"]`) !== null;
        if (there && start === 0) start = performance.now();
        if (!there && start > 0) resolve(performance.now() - start);
        else setTimeout(look, 1);
      };
      look();
    });
  }, label);
  await act();
  return page.evaluate(() => window.__shown);
}

export async function benchBrowser() {
  if (!ensureChromium() || !buildApp()) return null;
  const { chromium } = await import('@playwright/test');
  const { benchFile } = await import(
    pathToFileURL(await bundle('tests/bench/bench.ts', 'dist/bench.mjs', ['src/core', 'src/io', 'tests/bench'])).href
  );
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-bench-'));
  const file = path.join(folder, 'bench.png');
  writeFileSync(file, await benchFile(SIDE));
  const server = spawn(
    process.execPath,
    ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(PORT)],
    {
      cwd: root,
      stdio: 'ignore',
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
    },
  );
  const browser = await chromium.launch({ executablePath: browserPath(), args: FLAGS });
  try {
    await answers();
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(ADDRESS);
    await page.locator('[data-ready=true]').waitFor();
    const step = (name) => page.getByRole('navigation', { name: 'Chain' }).getByRole('button', { name }).click();
    const times = [];
    for (let turn = 0; turn <= TURNS; turn++) {
      await step('Bring in');
      const reading = await shown(page, 'Reading', () => page.getByLabel('Heightmap to bring in').setInputFiles(file));
      await step('Fit');
      const ladder = page.getByRole('slider', { name: 'Vertices per side' });
      for (let i = 0; i < 2000; i++) {
        const at = Number(await ladder.getAttribute('aria-valuenow'));
        if (at === TO) break;
        await ladder.press(at > TO ? 'ArrowDown' : 'ArrowUp');
      }
      // the ground is measured and drawn before the pack is asked for
      await page.locator('[aria-label^="Terrain map"][aria-busy=false]').waitFor();
      await page.waitForTimeout(1500);
      await step('Hand over');
      const download = page.waitForEvent('download');
      const writing = await shown(page, 'Writing', () =>
        page.getByRole('button', { name: 'Download the pack' }).click(),
      );
      await download;
      // the first turn warms everything up
      if (turn > 0) times.push({ reading, writing });
    }
    const median = (of) =>
      times
        .map(of)
        .sort((a, b) => a - b)
        [times.length >> 1].toFixed(0);
    return [
      `| ${SIDE}² PNG → ${TO}² PNG on the page | ms, median of ${TURNS} |`,
      '| --- | --- |',
      `| read, counted, drawn as it comes | ${median((t) => t.reading)} |`,
      `| fitted, encoded, written | ${median((t) => t.writing)} |`,
      `| whole job | ${median((t) => t.reading + t.writing)} |`,
    ].join('\n');
  } finally {
    await browser.close();
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}
