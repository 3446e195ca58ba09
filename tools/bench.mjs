// Measures decode, resample, encode and the whole job against sharp in one interleaved run and writes docs/bench.md.
// Usage: npm run bench [-- SIDE …] (default 2017 4033 8129), all of it into docs/bench.md
//        npm run bench -- --processes [--against COMMIT] [--pairs N] [SIZE …]   whole processes alone, into
//        docs/bench-processes.md; by turns with those of an older commit
import { cpus } from 'node:os';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { ensureInstalled, root } from './install.mjs';

ensureInstalled();
const { buildCli, bundle } = await import('./build-cli.mjs');
const { makeDemoData } = await import('./demo-data.mjs');
const { benchBrowser } = await import('./bench-browser.mjs');
const cli = await buildCli();
await makeDemoData();
await bundle('src/io/node/inflate-worker.ts', 'dist/inflate-worker.mjs');
const script = await bundle('tests/bench/bench.ts', 'dist/bench.mjs', [
  'src/core',
  'src/io',
  'src/demo',
  'tests/bench',
  'package-lock.json',
]);
const { benchMemory, benchOthers, benchProcesses, benchSize } = await import(pathToFileURL(script).href);

const option = (name, fallback) => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? fallback : process.argv.splice(at, 2)[1];
};
const against = option('against', null);
const pairs = Number(option('pairs', 9));
if (against !== null || process.argv.includes('--processes')) {
  const { processTable } = await import('./bench-processes.mjs');
  const given = process.argv
    .slice(2)
    .map(Number)
    .filter((n) => n >= 64);
  const table = await processTable(benchProcesses, cli, {
    against,
    pairs,
    ...(given.length > 0 ? { sizes: given } : {}),
  });
  const page = `# Speed of whole processes

Measured with \`npm run bench -- --processes${against === null ? '' : ` --against ${against}`}\` on ${new Date().toISOString().slice(0, 10)}: ${cpus().length} × ${cpus()[0]?.model.trim() ?? 'unknown'}, Node ${process.version}. From the start of a process to its end: medians of ${pairs} turns, each side by turns; the ratio is that of paired turns, the middle one and the lowest. Native: sharp fits the same picture and writes it (adaptive filters, level 6), without range, pages, checksums.

${table}
`;
  writeFileSync(path.join(root, 'docs/bench-processes.md'), page);
  process.stdout.write(`${table}\n\nWritten to docs/bench-processes.md\n`);
  process.exit(0);
}

const sides = process.argv
  .slice(2)
  .map(Number)
  .filter((n) => n >= 64);
/** The whole table is measured twice, one run after the other. */
const RUNS = 2;
const runs = [];
for (let run = 0; run < RUNS; run++) {
  const rows = [];
  for (const side of sides.length > 0 ? sides : [2017, 4033, 8129]) {
    process.stderr.write(`run ${run + 1} of ${RUNS}: ${side} × ${side}\n`);
    rows.push(...(await benchSize(side, side > 5000 ? 3 : 9)));
  }
  runs.push(rows);
}
const mb = (n) => (n === null ? '' : (n / 1e6).toFixed(2));
const both = (row, of) => runs.map((rows) => of(rows[row])).join(' · ');
const table = [
  '| job | side | ours, ms | sharp, ms | ratio | ours, MB | sharp, MB |',
  '| --- | --- | --- | --- | --- | --- | --- |',
  ...runs[0].map(
    (r, i) =>
      `| ${r.job} | ${r.side} | ${both(i, (x) => x.ours.toFixed(0))} | ${both(i, (x) => x.sharp.toFixed(0))} | ${both(i, (x) => x.ratio.toFixed(2))} | ${mb(r.bytes)} | ${mb(r.sharpBytes)} |`,
  ),
].join('\n');
/** Nanoseconds a sample of the whole job, per size. */
const perSample = runs[0]
  .filter((r) => r.job.startsWith('whole') && r.job.includes('adaptive'))
  .map((r) => `${r.side}²: ${both(runs[0].indexOf(r), (x) => ((x.ours * 1e6) / x.side ** 2).toFixed(1))}`)
  .join(', ');
process.stderr.write('other formats and steps\n');
const others = await benchOthers();
const othersTable = [
  '| job | ms | beside | ms | ratio of times |',
  '| --- | --- | --- | --- | --- |',
  ...others.map(
    (r) => `| ${r.job} | ${r.ours.toFixed(0)} | ${r.beside} | ${r.theirs.toFixed(0)} | ${r.ratio.toFixed(2)} |`,
  ),
].join('\n');
process.stderr.write('memory of the command line\n');
const memory = await benchMemory(cli);
const memoryTable = [
  '| command line | peak memory, MB | time, s |',
  '| --- | --- | --- |',
  ...memory.map((r) => `| ${r.job} | ${r.peak.toFixed(0)} | ${r.seconds.toFixed(1)} |`),
].join('\n');
process.stderr.write('the browser\n');
const browser = (await benchBrowser()) ?? 'Not measured: no Chromium here.';
const page = `# Speed

Measured with \`npm run bench${sides.length > 0 ? ` -- ${sides.join(' ')}` : ''}\` on ${new Date().toISOString().slice(0, 10)}: ${cpus().length} × ${cpus()[0]?.model.trim() ?? 'unknown'}, Node ${process.version}. Two runs of everything, one after the other, both shown; in each, medians of interleaved turns; ratio = our time / sharp's (two threads). Ours uses two encoding threads. Every picture that either side decodes or we encode is compared with the original sample by sample in every turn, outside the timing.

${table}

The whole job per sample of the source, nanoseconds: ${perSample}.

What no other program here does, by turns with what it is measured by (medians of five):

${othersTable}

The command line in a process of its own; peak resident memory with all its threads, time from start to exit:

${memoryTable}

In the browser (headless Chromium on the same machine, the built application, times as the page itself takes them):

${browser}
`;
writeFileSync(path.join(root, 'docs/bench.md'), page);
process.stdout.write(`${table}\n\n${memoryTable}\n\n${browser}\n\nWritten to docs/bench.md\n`);
process.exit(0);
