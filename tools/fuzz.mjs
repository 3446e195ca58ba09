// Bent input for everything that reads files and documents: pictures, guesses at headerless files, files of every other
// format, recipes, packs.
// Usage: node tools/fuzz.mjs [--cases N] [--seconds S] [--seed N] [--target NAME] [--case I]
//   --cases: in all, shared out among the targets (default 1 000 000)   --seconds: at most so long for each target
//   --case: one case of --target again, by its number
// Ends with 1 where one case crashed, hung, threw a foreign error or contradicts another reader.
import { fork } from 'node:child_process';
import { bundle } from './build-cli.mjs';
import { ensureInstalled, root } from './install.mjs';

ensureInstalled();
const option = (name, fallback) => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? fallback : process.argv[at + 1];
};
const SHARES = { png: 0.25, raw: 0.15, formats: 0.15, recipe: 0.4, pack: 0.05 };
const cases = Number(option('cases', 1_000_000));
const seconds = Number(option('seconds', 0));
const seed = Number(option('seed', 1));
const only = option('target', null);
const one = option('case', null);
/** Nothing that is tried takes longer than a moment. */
const HANG_MS = 20_000;
const THREADS = 2;

const program = await bundle('tests/fuzz/fuzz.ts', 'dist/fuzz.mjs', [
  'src/core',
  'tests/fuzz',
  'tests/helpers',
  'package-lock.json',
]);

/** Cases from `from` up to, but not, `to`, in a process of their own. */
function part(target, from, to) {
  return new Promise((resolve) => {
    const child = fork(program, [target, seed, from, to, seconds].map(String), {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    let at = from;
    let result = null;
    let watch;
    const rewind = () => {
      clearTimeout(watch);
      watch = setTimeout(() => child.kill('SIGKILL'), HANG_MS);
    };
    rewind();
    child.on('message', (m) => {
      rewind();
      if ('at' in m) at = m.at;
      else result = m;
    });
    child.on('exit', (code, signal) => {
      clearTimeout(watch);
      const died = {
        index: at,
        fault:
          signal === 'SIGKILL'
            ? 'a case behind this one hangs'
            : `the process ended with ${code ?? signal} behind this case`,
      };
      resolve(result ?? { done: at - from, counts: {}, faults: [died], slowest: 0 });
    });
  });
}

let wrong = 0;
let all = 0;
const begun = Date.now();
for (const [target, share] of Object.entries(SHARES)) {
  if (only !== null && only !== target) continue;
  const n = one !== null ? 1 : Math.round(only === null ? cases * share : cases);
  const first = one !== null ? Number(one) : 0;
  const threads = one !== null ? 1 : THREADS;
  const parts = await Promise.all(
    Array.from({ length: threads }, (_, i) =>
      part(target, first + Math.floor((n * i) / threads), first + Math.floor((n * (i + 1)) / threads)),
    ),
  );
  const done = parts.reduce((sum, p) => sum + p.done, 0);
  all += done;
  const counts = {};
  for (const p of parts) for (const [what, k] of Object.entries(p.counts)) counts[what] = (counts[what] ?? 0) + k;
  const words = Object.entries(counts)
    .sort((a, b) => b[1] - a[1])
    .map(([what, k]) => `${k} ${what}`)
    .join(', ');
  process.stdout.write(
    `${target}: ${done} cases, the slowest ${Math.max(...parts.map((p) => p.slowest))} ms: ${words}\n`,
  );
  for (const { index, fault } of parts.flatMap((p) => p.faults)) {
    wrong++;
    process.stdout.write(`  fault in --target ${target} --seed ${seed} --case ${index}: ${fault}\n`);
  }
}
process.stdout.write(`${all} cases in ${((Date.now() - begun) / 1000).toFixed(0)} s, ${wrong} faults\n`);
process.exitCode = wrong > 0 ? 1 : 0;
