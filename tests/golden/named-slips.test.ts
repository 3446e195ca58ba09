/** Slips listed by name point at code; where that code moves, the list moves with it. */
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

interface Slip {
  readonly name: string;
  readonly file: string;
  readonly from: string;
}

test('each slip listed by name stands once in its file', () => {
  const print = "import('./tools/mutants/named.mjs').then((m) => process.stdout.write(JSON.stringify(m.NAMED)))";
  const named = JSON.parse(execFileSync(process.execPath, ['-e', print]).toString()) as Slip[];
  const astray = named.filter(({ file, from }) => readFileSync(file, 'utf8').split(from).length !== 2);
  expect(named.length).toBeGreaterThan(30);
  expect(astray.map(({ name, file }) => `${name}: ${file}`)).toEqual([]);
});
