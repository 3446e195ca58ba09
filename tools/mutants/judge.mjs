// A copy of the project in which a slip is made, and what the tests say of it.
import { execFileSync, spawn } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { root } from '../install.mjs';

const COPIED = [
  'src',
  'tests',
  'wasm',
  'tools',
  'bin',
  'docs',
  'jest.config.js',
  'package.json',
  'package-lock.json',
  'tsconfig.json',
];
/** A slip that takes longer than this is not judged. */
const LONGEST_MS = 900_000;
const jest = 'node_modules/jest/bin/jest.js';
/** What minds how long things take says nothing while slips are run side by side. */
const TIMED = 'tests/integration/fuzz.test.ts';

/** A copy of what the tests need; packages are shared. */
export function copyOfProject() {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-mutants-'));
  // with their times: a list of packages that looks newer would have them installed again, through the link
  for (const name of COPIED)
    cpSync(path.join(root, name), path.join(folder, name), { recursive: true, preserveTimestamps: true });
  for (const name of ['node_modules', 'public'])
    if (existsSync(path.join(root, name))) symlinkSync(path.join(root, name), path.join(folder, name));
  return folder;
}

export const letGo = (folder) => rmSync(folder, { recursive: true, force: true });

/** What a run of jest found, file by file; null where it was ended or found nothing. */
function run(folder, args, order = [], longest = LONGEST_MS) {
  const report = path.join(folder, 'report.json');
  rmSync(report, { force: true });
  return new Promise((resolve) => {
    const child = spawn(
      process.execPath,
      [jest, '--silent', '--ci', '--reporters=./tools/mutants/report.cjs', ...args],
      {
        cwd: folder,
        stdio: 'ignore',
        detached: true,
        env: { ...process.env, MUTANT_ORDER: JSON.stringify(order), MUTANT_REPORT: report },
      },
    );
    // with everything that the tests have started
    const timer = setTimeout(() => process.kill(-child.pid, 'SIGKILL'), longest);
    child.on('exit', (code) => {
      clearTimeout(timer);
      if (code === null || !existsSync(report)) return resolve(null);
      const found = JSON.parse(readFileSync(report, 'utf8'));
      resolve(found.length > 0 ? found.map((f) => ({ ...f, path: shortName(folder, f.path) })) : null);
    });
  });
}

const shortName = (folder, file) => path.relative(folder, file).split(path.sep).join('/');

/** All tests of an unchanged copy: milliseconds of each file, or what is wrong. */
export async function unchanged(folder) {
  const found = await run(folder, ['--maxWorkers=2', '--testPathIgnorePatterns', TIMED], [], 4 * LONGEST_MS);
  if (!found || found.every((f) => f.tests === 0)) return { wrong: 'no test was found' };
  const red = found.filter((f) => f.failed).map((f) => f.path);
  if (red.length > 0) return { wrong: `red without any slip: ${red.join(', ')}` };
  return { times: Object.fromEntries(found.map((f) => [f.path, f.ms])) };
}

/** Test files that call the command line, which they start as a program and don't import. */
const callers = (folder, times) =>
  Object.keys(times).filter((t) => /dist\/cli|helpers\/cli/.test(readFileSync(path.join(folder, t), 'utf8')));

const related = new Map();
/** Test files that can notice a change of a source, the likeliest first: its own folder's, then the quickest. */
function testsOf(folder, file, times) {
  const own = path.posix.dirname(file).split('/').slice(0, 3).join('/');
  if (!related.has(file)) {
    const asked = file.startsWith('wasm/') ? 'src/core/wasm/wasm-bytes.ts' : file;
    const listed = execFileSync(process.execPath, [jest, '--listTests', '--json', '--findRelatedTests', asked], {
      cwd: folder,
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    const found = JSON.parse(listed.toString()).map((f) => shortName(folder, f));
    const called = /^src\/(cli|io)\//.test(file) ? callers(folder, times) : [];
    related.set(
      file,
      [...new Set([...found, ...called])].filter((t) => t in times),
    );
  }
  const rank = (t) => (t.startsWith(`${own}/`) || (own.startsWith('wasm') && t.startsWith('src/core/wasm/')) ? 0 : 1);
  return [...related.get(file)].sort((a, b) => rank(a) - rank(b) || times[a] - times[b]);
}

const TIMED_OUT = /Exceeded timeout of|timed out/i;

/** Makes a slip and runs the tests: `noticed`, `survived`, or `not judged` with the reason. */
export async function judge(folder, mutant, times) {
  const file = path.join(folder, mutant.file);
  const text = readFileSync(file, 'utf8');
  const bytes = path.join(folder, 'src/core/wasm/wasm-bytes.ts');
  const compiled = mutant.file.startsWith('wasm/') ? readFileSync(bytes, 'utf8') : null;
  writeFileSync(file, text.slice(0, mutant.at) + mutant.to + text.slice(mutant.at + mutant.from.length));
  try {
    if (compiled !== null)
      try {
        execFileSync(process.execPath, ['tools/build-wasm.mjs'], { cwd: folder, stdio: 'ignore' });
        if (readFileSync(bytes, 'utf8') === compiled)
          return { verdict: 'equivalent', why: 'compiles to the same bytes' };
      } catch {
        return { verdict: 'not judged', why: 'does not compile' };
      }
    const tests = testsOf(folder, mutant.file, times);
    if (tests.length === 0) return { verdict: 'survived', why: 'no test reaches it' };
    const found = await run(
      folder,
      ['--bail', '--runInBand', '--testSequencer=./tools/mutants/in-order.cjs', '--runTestsByPath', ...tests],
      tests,
    );
    if (!found)
      return {
        verdict: 'not judged',
        why: `took longer than ${LONGEST_MS / 60_000} minutes, or ended without a report`,
      };
    const red = found.filter((f) => f.failed);
    if (red.length === 0) return { verdict: 'survived' };
    const told = red.flatMap((f) => f.told);
    if (told.length > 0 && told.every((m) => TIMED_OUT.test(m)))
      return { verdict: 'not judged', why: 'a test ran out of time' };
    return { verdict: 'noticed', by: red[0].path };
  } finally {
    writeFileSync(file, text);
    if (compiled !== null) writeFileSync(bytes, compiled);
  }
}
