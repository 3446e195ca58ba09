// Builds the application where the build is older than its sources.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { root, runTool } from './install.mjs';
import { newest } from './stale.mjs';

const STAMP = '.next/level-grid-built';
const SOURCES = ['src', 'package-lock.json', 'next.config.ts', 'postcss.config.mjs', 'tsconfig.json'];

export function buildApp() {
  const stamp = path.join(root, STAMP);
  const wanted = String(newest(...SOURCES));
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return true;
  process.stderr.write('Building the application\n');
  rmSync(stamp, { force: true });
  if (runTool(process.execPath, ['node_modules/next/dist/bin/next', 'build']) !== 0) return false;
  mkdirSync(path.dirname(stamp), { recursive: true });
  // the build itself may touch tsconfig.json: what counts is the state it leaves
  writeFileSync(stamp, String(newest(...SOURCES)));
  return true;
}
