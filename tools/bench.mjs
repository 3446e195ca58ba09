// Measures decode, resample, encode and the whole job against sharp in one interleaved run and writes docs/bench.md.
// Usage: npm run bench [-- SIDE …] (default 2017 4033 8129)
import { cpus } from 'node:os';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { ensureInstalled, root } from './install.mjs';

ensureInstalled();
const { buildCli, bundle } = await import('./build-cli.mjs');
const cli = await buildCli();
const script = await bundle('tests/bench/bench.ts', 'dist/bench.mjs', ['src/core', 'src/io', 'src/demo', 'tests/bench', 'package-lock.json']);
const { benchMemory, benchSize } = await import(pathToFileURL(script).href);

const sides = process.argv.slice(2).map(Number).filter((n) => n >= 64);
const rows = [];
for (const side of sides.length > 0 ? sides : [2017, 4033, 8129]) {
  process.stderr.write(`${side} × ${side}\n`);
  rows.push(...(await benchSize(side, side > 5000 ? 3 : side > 3000 ? 7 : 11)));
}
const mb = (n) => (n === null ? '' : (n / 1e6).toFixed(2));
const table = [
  '| job | side | ours, ms | sharp, ms | ratio | ours, MB | sharp, MB |',
  '| --- | --- | --- | --- | --- | --- | --- |',
  ...rows.map((r) => `| ${r.job} | ${r.side} | ${r.ours.toFixed(0)} | ${r.sharp.toFixed(0)} | ${r.ratio.toFixed(2)} | ${mb(r.bytes)} | ${mb(r.sharpBytes)} |`),
].join('\n');
process.stderr.write('memory of the command line\n');
const memory = await benchMemory(cli);
const memoryTable = ['| command line | peak memory, MB | time, s |', '| --- | --- | --- |', ...memory.map((r) => `| ${r.job} | ${r.peak.toFixed(0)} | ${r.seconds.toFixed(1)} |`)].join('\n');
const page = `# Speed

Measured with \`npm run bench${sides.length > 0 ? ` -- ${sides.join(' ')}` : ''}\` on ${new Date().toISOString().slice(0, 10)}: ${cpus().length} × ${cpus()[0]?.model.trim() ?? 'unknown'}, Node ${process.version}. Medians of interleaved runs; ratio = our time / sharp's (two threads). Ours uses two encoding threads. Every picture that either side decodes or we encode is compared with the original sample by sample in every run, outside the timing.

${table}

The command line in a process of its own; peak resident memory with all its threads, time from start to exit:

${memoryTable}
`;
writeFileSync(path.join(root, 'docs/bench.md'), page);
process.stdout.write(`${table}\n\n${memoryTable}\n\nWritten to docs/bench.md\n`);
