// Measures decode, resample, encode and the whole job against sharp in one interleaved run and writes docs/bench.md.
// Usage: npm run bench [-- SIDE …] (default 2017 4033)
import { cpus } from 'node:os';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { ensureInstalled, root } from './install.mjs';

ensureInstalled();
const { buildCli, bundle } = await import('./build-cli.mjs');
await buildCli();
const script = await bundle('tests/bench/bench.ts', 'dist/bench.mjs', ['src/core', 'src/io', 'src/demo', 'tests/bench', 'package-lock.json']);
const { benchSize } = await import(pathToFileURL(script).href);

const sides = process.argv.slice(2).map(Number).filter((n) => n >= 64);
const rows = [];
for (const side of sides.length > 0 ? sides : [2017, 4033]) {
  process.stderr.write(`${side} × ${side}\n`);
  rows.push(...(await benchSize(side, side > 5000 ? 3 : 5)));
}
const mb = (n) => (n === null ? '' : (n / 1e6).toFixed(2));
const table = [
  '| job | side | ours, ms | sharp, ms | ratio | ours, MB | sharp, MB |',
  '| --- | --- | --- | --- | --- | --- | --- |',
  ...rows.map((r) => `| ${r.job} | ${r.side} | ${r.ours.toFixed(0)} | ${r.sharp.toFixed(0)} | ${r.ratio.toFixed(2)} | ${mb(r.bytes)} | ${mb(r.sharpBytes)} |`),
].join('\n');
const peak = (process.resourceUsage().maxRSS / 1024).toFixed(0);
const page = `# Speed

Measured with \`npm run bench${sides.length > 0 ? ` -- ${sides.join(' ')}` : ''}\` on ${new Date().toISOString().slice(0, 10)}: ${cpus().length} × ${cpus()[0]?.model.trim() ?? 'unknown'}, Node ${process.version}. Medians of interleaved runs; ratio = our time / sharp's (two threads). Every decoded picture is compared sample by sample; encoding includes reading the result back for that comparison, on both sides. Peak memory of the whole run, both programs and all material in it: ${peak} MB.

${table}
`;
writeFileSync(path.join(root, 'docs/bench.md'), page);
process.stdout.write(`${table}\nPeak memory ${peak} MB; written to docs/bench.md\n`);
