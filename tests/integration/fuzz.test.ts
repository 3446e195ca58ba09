/** What reads files and documents is fed with bent input for a while; the long run is `npm run fuzz`. */
import { spawnSync } from 'node:child_process';

test('bent pictures, height files of every format, recipes and packs: no hang, no crash, no foreign error', () => {
  const run = spawnSync(process.execPath, ['tools/fuzz.mjs', '--cases', '60000', '--seconds', '3', '--seed', '20'], {
    encoding: 'utf8',
  });
  const lines = run.stdout.split('\n').filter((l) => !l.includes('still holds'));
  process.stderr.write(`${lines.join('\n')}\n`);
  expect(run.stdout).toMatch(/ 0 faults\n$/);
  expect(run.status).toBe(0);
  // each target read some of what it was given, and refused some: how many there are in the time depends on the machine
  for (const target of ['png', 'raw', 'formats', 'recipe', 'pack']) {
    const line = lines.find((l) => l.startsWith(`${target}: `)) ?? '';
    expect(line).toMatch(/ [1-9]\d* accepted/);
    expect(line).toMatch(/ [1-9]\d* refused/);
  }
}, 120_000);
