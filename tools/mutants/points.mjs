// Where a file can be changed by one slip: an operator, a number, a sign or a bound.
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import ts from 'typescript';
import { root } from '../install.mjs';

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

/** The folders a draw goes over, each with the place of its sources. */
export const foldersOf = () => [
  ...readdirSync(path.join(root, 'src/core'), { withFileTypes: true })
    .filter((d) => d.isDirectory())
    .map((d) => ({ name: d.name, at: `src/core/${d.name}` })),
  { name: 'kernels', at: 'wasm/assembly' },
  { name: 'command line', at: 'src/cli' },
];

/** Sources of a folder; what only names or is generated has nothing to change. */
export const filesOf = (folder) =>
  readdirSync(path.join(root, folder), { recursive: true })
    .map((f) => path.posix.join(folder, String(f)))
    .filter((f) => f.endsWith('.ts') && !/(\.test|\/types|wasm-bytes)\.ts$/.test(f))
    .sort();

/** Every place of a file that can be changed. */
export function pointsOf(file) {
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
    if (
      ts.isPrefixUnaryExpression(node) &&
      (node.operator === ts.SyntaxKind.MinusToken || node.operator === ts.SyntaxKind.ExclamationToken)
    )
      take(node, `(${node.operand.getText(source)})`);
    if (ts.isPropertyAccessExpression(node) && node.expression.getText(source) === 'Math' && NAMES[node.name.text])
      take(node, `Math.${NAMES[node.name.text]}`);
    ts.forEachChild(node, visit);
  };
  visit(source);
  return points;
}

/** `count` of a list by a seed, or all for 0. */
export function drawn(list, count, seed) {
  let state = (seed % 2147483646) + 1;
  const random = () => (state = (state * 48271) % 2147483647) / 2147483647;
  for (let i = 0; i < 5; i++) random();
  const left = [...list];
  const out = [];
  while (left.length > 0 && (count === 0 || out.length < count))
    out.push(left.splice(Math.floor(random() * left.length), 1)[0]);
  return out;
}
