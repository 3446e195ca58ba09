// Everything that must hold before a change lands: lint, build, types, layers, unit tests, browser tests.
// All steps run even when one fails; the last line counts every test.
import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { ensureInstalled, root, runTool, startTool } from './install.mjs';

const begun = Date.now();

ensureInstalled();
const { ensureChromium } = await import('./chromium.mjs');
const { buildApp } = await import('./build-app.mjs');
const { buildCli } = await import('./build-cli.mjs');
const { makeDemoData } = await import('./demo-data.mjs');
const { secondTries, total } = await import('./total.mjs');

rmSync(path.join(root, 'reports'), { recursive: true, force: true });
mkdirSync(path.join(root, 'reports'));
const bin = (name) => path.join('node_modules', '.bin', name);
const failed = [];
const step = async (name, work) => {
  process.stderr.write(`\n— ${name}\n`);
  const started = Date.now();
  let fine = false;
  try {
    fine = await work();
  } catch (reason) {
    process.stderr.write(`${reason?.message ?? reason}\n`);
  }
  process.stderr.write(`— ${name}: ${fine ? 'fine' : 'FAILED'}, ${((Date.now() - started) / 1000).toFixed(1)} s\n`);
  return fine;
};
const check = async (name, work) => {
  if (!(await step(name, work))) failed.push(name);
};

// on the other core, while everything else is made ready
const linted = check('lint', () => startTool(bin('eslint'), ['.', '--max-warnings', '0']).then((code) => code === 0));
await check('demo data', async () => (await makeDemoData(), true));
await check('command line', async () => (await buildCli(), true));
await check('Chromium', () => ensureChromium());
await check('build', () => buildApp());
await check('types', () =>
  ['tsconfig.json', 'tsconfig.core.json', 'src/workers/tsconfig.json'].every(
    (p) => runTool(bin('tsc'), ['--noEmit', '-p', p]) === 0,
  ),
);
await check('layers', () => runTool(bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'src']) === 0);
await check('what nothing uses', () => runTool(bin('knip'), ['--no-progress']) === 0);
await linted;
await step('unit tests', () => runTool(bin('jest'), ['--json', '--outputFile=reports/jest.json', '--silent']) === 0);
await step('browser tests', () => runTool(bin('playwright'), ['test']) === 0);

process.stderr.write(`— all: ${((Date.now() - begun) / 60_000).toFixed(1)} minutes\n`);
for (const name of secondTries()) process.stderr.write(`— passed only when tried again: ${name}\n`);
const { passed, failures } = total(failed);
process.stdout.write(`${passed} passed, ${failures} failed\n`);
process.exitCode = failures > 0 ? 1 : 0;
