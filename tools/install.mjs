// Makes sure that the packages of the lock file are there. Shared by every command of the project.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import path from 'node:path';

export const root = path.resolve(import.meta.dirname, '..');

/** Runs a program in the project folder; its output goes to stderr unless told otherwise. */
export function runTool(command, args, options = {}) {
  const { env = {}, quiet = false, stdout = 2 } = options;
  const result = spawnSync(command, args, {
    cwd: root,
    stdio: quiet ? 'ignore' : ['ignore', stdout, 2],
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', ...env },
  });
  return result.status ?? 1;
}

/** The same beside other work: the exit code, when it has ended; what it said is printed whole, then. */
export function startTool(command, args) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
    let said = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
    child.on('error', (reason) => (said += reason.message));
    child.on('close', (code) => {
      process.stderr.write(said);
      resolve(code ?? 1);
    });
  });
}

/** Installs from the lock file where node_modules is missing or older. */
export function ensureInstalled() {
  const lock = path.join(root, 'package-lock.json');
  const stamp = path.join(root, 'node_modules/.package-lock.json');
  if (existsSync(stamp) && statSync(stamp).mtimeMs >= statSync(lock).mtimeMs) return;
  process.stderr.write('Installing packages (once)\n');
  if (runTool('npm', ['ci', '--no-audit', '--no-fund']) !== 0) {
    process.stderr.write(
      'The packages could not be installed: check the connection to the npm registry, then try again.\n',
    );
    process.exit(1);
  }
}
