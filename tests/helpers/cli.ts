import { spawnSync } from 'node:child_process';
import path from 'node:path';

/** Calls the built command line in a folder, and reads the one document that it prints. */
export function callIn(folder: string, ...args: string[]): { code: number; json: Record<string, unknown> } {
  const { status, stdout } = spawnSync(process.execPath, [path.resolve('dist/cli.mjs'), ...args, '--json'], {
    cwd: folder,
    env: { ...process.env, INIT_CWD: folder },
    encoding: 'utf8',
  });
  return { code: status ?? -1, json: JSON.parse(stdout) as Record<string, unknown> };
}
