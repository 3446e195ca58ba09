// How many deliberate slips in the heart the tests notice. A slip (mutant) is one operator, number, sign or bound changed
// in a copy of the project; the tests of its folder and those of whole packs must turn red.
// Usage: node tools/mutants.mjs [--each N] [--seed S] [--folder NAME] [--named]
//   --each: mutants drawn per folder, by a fixed seed (default 40; 0 takes all)   --named: only those listed by name below
// The result goes to docs/mutants.md.
import { execFileSync, spawn } from 'node:child_process';
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import ts from 'typescript';
import { NAMED } from './mutants-named.mjs';

const root = path.resolve(import.meta.dirname, '..');
const option = (name, fallback) => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? fallback : process.argv[at + 1];
};
const EACH = Number(option('each', 40));
const SEED = Number(option('seed', 7));
const FOLDERS = option('folder') ? [option('folder')] : ['plan', 'proof', 'height', 'raster', 'grid', 'tiles'];
const LONGEST_MS = 150_000;
const THREADS = 2;

/** Tests that see whole packs; those of the folder itself come first. */
const WHOLE = [
  'tests/golden',
  'tests/integration/faults',
  'tests/integration/pack',
  'tests/integration/fine',
  'tests/integration/steps',
  'tests/integration/same-card',
  'tests/integration/windows',
  'src/core/run',
];

const SWAPS = new Map(
  [
    ['PlusToken', '-'],
    ['MinusToken', '+'],
    ['AsteriskToken', '/'],
    ['SlashToken', '*'],
    ['LessThanToken', '<='],
    ['LessThanEqualsToken', '<'],
    ['GreaterThanToken', '>='],
    ['GreaterThanEqualsToken', '>'],
    ['EqualsEqualsEqualsToken', '!=='],
    ['ExclamationEqualsEqualsToken', '==='],
    ['AmpersandAmpersandToken', '||'],
    ['BarBarToken', '&&'],
    ['PlusEqualsToken', '-='],
    ['MinusEqualsToken', '+='],
  ].map(([kind, text]) => [ts.SyntaxKind[kind], text]),
);
const NAMES = { min: 'max', max: 'min', floor: 'ceil', ceil: 'floor', round: 'floor' };

/** Every place of a file that can be changed. */
function pointsOf(file) {
  const text = readFileSync(path.join(root, file), 'utf8');
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.ES2023, true);
  const points = [];
  const take = (node, to) =>
    points.push({
      file,
      at: node.getStart(source),
      from: node.getText(source),
      to,
      line: source.getLineAndCharacterOfPosition(node.getStart(source)).line + 1,
    });
  const visit = (node) => {
    // types, imports and messages are not what is meant
    if (
      ts.isTypeNode(node) ||
      ts.isImportDeclaration(node) ||
      ts.isInterfaceDeclaration(node) ||
      ts.isTypeAliasDeclaration(node)
    )
      return;
    if (ts.isTemplateExpression(node) || ts.isStringLiteral(node)) return;
    if (ts.isBinaryExpression(node) && SWAPS.has(node.operatorToken.kind))
      take(node.operatorToken, SWAPS.get(node.operatorToken.kind));
    if (ts.isNumericLiteral(node) && !ts.isElementAccessExpression(node.parent))
      take(node, String(Number(node.text.replaceAll('_', '')) + 1));
    if (node.kind === ts.SyntaxKind.TrueKeyword) take(node, 'false');
    if (node.kind === ts.SyntaxKind.FalseKeyword) take(node, 'true');
    if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.MinusToken)
      take(node, `(${node.operand.getText(source)})`);
    if (ts.isPrefixUnaryExpression(node) && node.operator === ts.SyntaxKind.ExclamationToken)
      take(node, `(${node.operand.getText(source)})`);
    if (ts.isPropertyAccessExpression(node) && node.expression.getText(source) === 'Math' && NAMES[node.name.text])
      take(node, `Math.${NAMES[node.name.text]}`);
    ts.forEachChild(node, visit);
  };
  visit(source);
  return points;
}

function filesOf(folder) {
  return readdirSync(path.join(root, 'src/core', folder), { recursive: true })
    .map((f) => path.posix.join('src/core', folder, String(f)))
    .filter((f) => f.endsWith('.ts') && !f.endsWith('.test.ts') && !f.endsWith('index.ts') && !f.endsWith('types.ts'));
}

function drawn(list, count) {
  let state = SEED;
  const random = () => (state = (state * 48271) % 2147483647) / 2147483647;
  const left = [...list];
  const out = [];
  while (left.length > 0 && (count === 0 || out.length < count))
    out.push(left.splice(Math.floor(random() * left.length), 1)[0]);
  return out;
}

/** A copy of what the tests need; packages are shared. */
function copyOfProject() {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-mutants-'));
  for (const name of ['src', 'tests', 'wasm', 'tools', 'jest.config.js', 'package.json', 'tsconfig.json'])
    cpSync(path.join(root, name), path.join(folder, name), { recursive: true });
  symlinkSync(path.join(root, 'node_modules'), path.join(folder, 'node_modules'));
  return folder;
}

/** True where the tests turned red. */
function tested(folder, paths) {
  return new Promise((resolve) => {
    const child = spawn(
      process.execPath,
      [
        'node_modules/jest/bin/jest.js',
        '--silent',
        '--bail',
        '--ci',
        '--runInBand',
        '--testPathIgnorePatterns',
        'kernels.test',
        '--',
        ...paths,
      ],
      { cwd: folder, stdio: 'ignore', env: { ...process.env, MUTANTS: '1' } },
    );
    const timer = setTimeout(() => child.kill('SIGKILL'), LONGEST_MS);
    child.on('exit', (code) => {
      clearTimeout(timer);
      resolve(code !== 0);
    });
  });
}

async function noticed(folder, mutant) {
  const file = path.join(folder, mutant.file);
  const text = readFileSync(file, 'utf8');
  writeFileSync(file, text.slice(0, mutant.at) + mutant.to + text.slice(mutant.at + mutant.from.length));
  try {
    const own = path.posix.dirname(mutant.file).split('/').slice(0, 3).join('/');
    for (const paths of [[own], ...WHOLE]) if (await tested(folder, paths)) return true;
    return false;
  } finally {
    writeFileSync(file, text);
  }
}

const mutants = [];
for (const { name, file, from, to } of NAMED) {
  const text = readFileSync(path.join(root, file), 'utf8');
  const at = text.indexOf(from);
  if (at < 0 || text.indexOf(from, at + 1) >= 0) throw new Error(`${name}: "${from}" must stand once in ${file}`);
  mutants.push({ name, folder: 'by name', file, at, from, to, line: text.slice(0, at).split('\n').length });
}
if (!process.argv.includes('--named'))
  for (const folder of FOLDERS)
    for (const m of drawn(filesOf(folder).flatMap(pointsOf), EACH)) mutants.push({ ...m, folder });

const folders = Array.from({ length: THREADS }, copyOfProject);
const queue = [...mutants];
let done = 0;
try {
  await Promise.all(
    folders.map(async (folder) => {
      for (let m = queue.shift(); m; m = queue.shift()) {
        m.killed = await noticed(folder, m);
        process.stderr.write(
          `${++done}/${mutants.length} ${m.killed ? 'killed  ' : 'SURVIVED'} ${m.name ?? `${m.file}:${m.line} ${m.from.slice(0, 30)} → ${m.to.slice(0, 30)}`}\n`,
        );
      }
    }),
  );
} finally {
  for (const folder of folders) rmSync(folder, { recursive: true, force: true });
}

const groups = [...new Set(mutants.map((m) => m.folder))];
const share = (list) =>
  `${list.filter((m) => m.killed).length} of ${list.length} (${Math.round((100 * list.filter((m) => m.killed).length) / list.length)} %)`;
const commit = execFileSync('git', ['-C', root, 'rev-parse', '--short', 'HEAD']).toString().trim();
const report = [
  '# Mutants',
  '',
  `Deliberate slips in the heart, one at a time, and whether the tests notice: \`npm run mutants\` (seed ${SEED}, ${EACH === 0 ? 'all' : EACH} drawn per folder, at ${commit}). A slip is one operator, number, sign or bound changed.`,
  '',
  '| folder | noticed |',
  '| --- | --- |',
  ...groups.map((g) => `| ${g} | ${share(mutants.filter((m) => m.folder === g))} |`),
  `| **all** | **${share(mutants)}** |`,
  '',
  '## By name',
  '',
  '| slip | noticed |',
  '| --- | --- |',
  ...mutants.filter((m) => m.name).map((m) => `| ${m.name} | ${m.killed ? 'yes' : 'NO'} |`),
  '',
  '## Not noticed',
  '',
  ...(mutants.every((m) => m.killed) ? ['None of those drawn.'] : []),
  ...mutants
    .filter((m) => !m.killed)
    .map(
      (m) => `- \`${m.file}:${m.line}\`: \`${m.from.replace(/\s+/g, ' ').slice(0, 60)}\` → \`${m.to.slice(0, 60)}\``,
    ),
  '',
].join('\n');
writeFileSync(path.join(root, 'docs/mutants.md'), report);
process.stdout.write(`${share(mutants)} noticed; see docs/mutants.md\n`);
