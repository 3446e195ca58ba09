// Bundles the command line where it is stale.
import { isStale } from './stale.mjs';
import { root } from './install.mjs';
import { existsSync, readdirSync, rmSync } from 'node:fs';
import path from 'node:path';

const banner = "import{createRequire}from'node:module';const require=createRequire(import.meta.url);";

const PART = 'cli-';
const SOURCES = ['src/core', 'src/io', 'src/cli', 'package-lock.json'];
const OPTIONS = {
  bundle: true,
  minify: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  // of packages that come in both forms, the one of which unused parts can be left out
  mainFields: ['module', 'main'],
  banner: { js: banner },
  // a list of some hundred kilobytes, which few files need: it is read where it lies
  external: ['sharp', 'proj4-list'],
  logLevel: 'error',
};

/** Bundles one TypeScript entry for Node into one file in dist/, where its sources are newer. */
export async function bundle(entry, outfile, sources = SOURCES) {
  if (!isStale(outfile, entry, ...sources)) return path.join(root, outfile);
  const { build } = await import('esbuild');
  await build({ ...OPTIONS, entryPoints: [path.join(root, entry)], outfile: path.join(root, outfile) });
  return path.join(root, outfile);
}

/** The command line in parts, of which each command loads what it needs. */
export async function buildCli() {
  await bundle('src/io/node/piece-worker.ts', 'dist/piece-worker.mjs');
  await bundle('src/io/node/inflate-worker.ts', 'dist/inflate-worker.mjs');
  const main = 'dist/cli.mjs';
  if (!isStale(main, 'src/cli/main.ts', ...SOURCES)) return path.join(root, main);
  const { build } = await import('esbuild');
  const folder = path.join(root, 'dist');
  const old = existsSync(folder) ? readdirSync(folder).filter((name) => name.startsWith(PART)) : [];
  for (const name of old) rmSync(path.join(folder, name));
  await build({
    ...OPTIONS,
    entryPoints: { cli: path.join(root, 'src/cli/main.ts') },
    splitting: true,
    outdir: folder,
    outExtension: { '.js': '.mjs' },
    // beside the threads' own files, which are found from there
    chunkNames: `${PART}[name]-[hash]`,
  });
  return path.join(root, main);
}
