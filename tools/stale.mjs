// Says whether something built is older than what it is built from.
import { existsSync, readdirSync, statSync } from 'node:fs';
import path from 'node:path';
import { root } from './install.mjs';

/** Newest change below the given files and folders, in milliseconds. */
export function newest(...places) {
  let latest = 0;
  const visit = (file) => {
    const facts = statSync(file, { throwIfNoEntry: false });
    if (!facts) return;
    if (facts.isDirectory()) {
      latest = Math.max(latest, facts.mtimeMs);
      for (const entry of readdirSync(file)) visit(path.join(file, entry));
    } else latest = Math.max(latest, facts.mtimeMs);
  };
  for (const place of places) visit(path.join(root, place));
  return latest;
}

export function isStale(built, ...sources) {
  const file = path.join(root, built);
  return !existsSync(file) || statSync(file).mtimeMs < newest(...sources);
}
