// How many deliberate slips the tests notice. A slip (mutant) is one operator, number, sign or bound changed in a copy of
// the project; the tests that reach it must turn red.
// Usage: npm run mutants -- [options]; a draw that was ended goes on where it stopped, and one table comes of it.
const HELP = `npm run mutants -- [--fresh] [--each N] [--seed S] [--folder NAME] [--named] [--minutes M] [--survivors] [--table]
  --fresh      begins a new draw, with another seed unless --seed says one
  --each N     slips drawn per folder (20; 0 takes all)
  --folder F   of that folder only        --named  those listed by name only
  --threads N  side by side (2)           --minutes M  stops after so long
  --survivors  runs those again that were not noticed
  --table      writes docs/mutants.md from what is there, and runs nothing
`;
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { root } from '../install.mjs';
import { newest } from '../stale.mjs';
import { EQUIVALENT } from './equivalent.mjs';
import { copyOfProject, judge, letGo, unchanged } from './judge.mjs';
import { NAMED } from './named.mjs';
import { drawn, filesOf, foldersOf, pointsOf } from './points.mjs';
import { shareOf, tableOf } from './table.mjs';

const KNOWN = ['help', 'fresh', 'each', 'seed', 'folder', 'named', 'minutes', 'survivors', 'table', 'threads'];
const has = (name) => process.argv.includes(`--${name}`);
const option = (name, fallback) => (has(name) ? process.argv[process.argv.indexOf(`--${name}`) + 1] : fallback);
const unknown = process.argv.slice(2).filter((a) => a.startsWith('--') && !KNOWN.includes(a.slice(2)));
if (has('help') || unknown.length > 0) {
  process.stdout.write(HELP);
  process.exit(unknown.length > 0 ? 2 : 0);
}

const STATE = path.join(root, '.stamps/mutants.json');
const read = (file, top = root) => readFileSync(path.join(top, file), 'utf8');
const hashOf = (file, top = root) => createHash('sha256').update(read(file, top)).digest('hex').slice(0, 16);
const lineAt = (text, at) => text.slice(text.lastIndexOf('\n', at - 1) + 1, (text + '\n').indexOf('\n', at)).trim();

function freshDraw() {
  const seed = Number(option('seed', Date.now() % 1_000_000));
  const each = Number(option('each', 20));
  const mutants = NAMED.map(({ name, file, from, to }) => {
    const text = read(file);
    const at = text.indexOf(from);
    if (at < 0 || text.indexOf(from, at + 1) >= 0) throw new Error(`${name}: "${from}" must stand once in ${file}`);
    return { name, folder: 'by name', file, at, from, to, line: text.slice(0, at).split('\n').length };
  });
  const wanted = has('named') ? [] : foldersOf().filter((f) => !has('folder') || f.name === option('folder'));
  const others = wanted.flatMap(({ name, at }) =>
    drawn(filesOf(at).flatMap(pointsOf), each, seed).map((m) => ({ ...m, folder: name })),
  );
  const all = [...(has('folder') ? [] : mutants), ...others];
  const commit = execFileSync('git', ['-C', root, 'rev-parse', '--short', 'HEAD']).toString().trim();
  return { seed, each, commit, mutants: all.map((m) => ({ ...m, hash: hashOf(m.file) })) };
}

const state = has('fresh') || !existsSync(STATE) ? freshDraw() : JSON.parse(readFileSync(STATE, 'utf8'));
const save = () => {
  mkdirSync(path.dirname(STATE), { recursive: true });
  writeFileSync(`${STATE}.new`, JSON.stringify(state));
  renameSync(`${STATE}.new`, STATE);
  writeFileSync(path.join(root, 'docs/mutants.md'), tableOf(state));
};

/** Of all that is copied. */
const stampOf = () => String(newest('src', 'tests', 'wasm', 'tools', 'jest.config.js', 'package-lock.json'));

/** Where a slip lies in a copy, whatever becomes of the project meanwhile; a file changed since the draw is looked through. */
function found(m, copy) {
  const text = read(m.file, copy);
  if (hashOf(m.file, copy) === m.hash) return m;
  const at = m.text === undefined ? -1 : text.indexOf(m.text);
  if (at < 0 || text.indexOf(m.text, at + 1) >= 0) return null;
  const place = at + m.column;
  return { ...m, at: place, line: text.slice(0, place).split('\n').length };
}

// the line a slip stands in finds it again after a change elsewhere in its file
for (const m of state.mutants)
  if (m.text === undefined && hashOf(m.file) === m.hash) {
    const text = read(m.file);
    m.text = lineAt(text, m.at);
    m.column = m.at - text.lastIndexOf(m.text, m.at);
  }

for (const m of state.mutants) {
  if (has('survivors') && m.verdict === 'survived') delete m.verdict;
  const same = EQUIVALENT.find((e) => e.file === m.file && e.line === m.text && e.from === m.from && e.to === m.to);
  if (same) Object.assign(m, { verdict: 'equivalent', why: same.why });
}
save();
process.stderr.write(
  `seed ${state.seed}, ${state.mutants.length} slips, ${state.mutants.filter((m) => !m.verdict).length} to run\n`,
);
if (has('table')) process.exit(0);

const ends = Date.now() + 60_000 * Number(option('minutes', Infinity));
const folders = Array.from({ length: Number(option('threads', 2)) }, copyOfProject);
const stop = () => {
  folders.forEach(letGo);
  process.exit(130);
};
process.on('SIGINT', stop).on('SIGTERM', stop);
try {
  // a slice soon after another one of the same sources takes its word
  const { times, wrong } = state.unchanged?.of === stampOf() ? state.unchanged : await unchanged(folders[0]);
  if (wrong) {
    process.stderr.write(`Nothing is judged: ${wrong}\n`);
    process.exitCode = 2;
  } else {
    state.unchanged = { of: stampOf(), times };
    const queue = state.mutants.filter((m) => !m.verdict);
    await Promise.all(
      folders.map(async (folder) => {
        for (let m = queue.shift(); m && Date.now() < ends; m = queue.shift()) {
          const now = found(m, folder);
          const verdict = now
            ? await judge(folder, now, times)
            : { verdict: 'not judged', why: 'its line has changed since it was drawn' };
          Object.assign(m, verdict);
          save();
          process.stderr.write(
            `${m.verdict.padEnd(10)} ${m.name ?? `${m.file}:${m.line} ${m.from.slice(0, 30)} → ${m.to.slice(0, 30)}`}\n`,
          );
        }
      }),
    );
  }
} finally {
  folders.forEach(letGo);
}
process.stdout.write(`${shareOf(state.mutants)} noticed; see docs/mutants.md\n`);
