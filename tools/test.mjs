// Everything that must hold before a change lands: types, lint, unit tests, build, browser tests.
// All steps run even when one fails; the last line counts every test.
import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { ensureInstalled, root, runTool } from './install.mjs';

ensureInstalled();
const { ensureChromium } = await import('./chromium.mjs');
const { buildApp } = await import('./build-app.mjs');
const { buildCli } = await import('./build-cli.mjs');
const { makeDemoData } = await import('./demo-data.mjs');
const { total } = await import('./total.mjs');

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

await check('demo data', async () => (await makeDemoData(), true));
await check('types', () =>
  ['tsconfig.json', 'tsconfig.core.json', 'src/workers/tsconfig.json'].every(
    (p) => runTool(bin('tsc'), ['--noEmit', '-p', p]) === 0,
  ),
);
await check('lint', () => runTool(bin('eslint'), ['.', '--max-warnings', '0']) === 0);
await check('layers', () => runTool(bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'src']) === 0);
await check('command line', async () => (await buildCli(), true));
await step('unit tests', () => runTool(bin('jest'), ['--json', '--outputFile=reports/jest.json', '--silent']) === 0);
await check('build', () => buildApp());
await check('Chromium', () => ensureChromium());
await step('browser tests', () => runTool(bin('playwright'), ['test']) === 0);

const { passed, failures } = total(failed);
process.stdout.write(`${passed} passed, ${failures} failed\n`);
process.exitCode = failures > 0 ? 1 : 0;
