// Makes the demo data of the Lanternpost scenario where it is missing or stale.
import { existsSync, mkdirSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { ensureInstalled, root } from './install.mjs';
import { bundle } from './build-cli.mjs';
import { newest } from './stale.mjs';

export async function makeDemoData() {
  const folder = path.join(root, 'public/demo');
  const sources = ['src/demo', 'src/core/formats', 'src/core/base'];
  const { statSync } = await import('node:fs');
  const stamp = path.join(folder, 'kettle-tarn.png');
  if (existsSync(stamp) && statSync(stamp).mtimeMs >= newest('src/demo')) return;
  process.stderr.write('Making the demo data\n');
  mkdirSync(folder, { recursive: true });
  const script = await bundle('src/demo/make.ts', 'dist/demo.mjs', [...sources, 'src/io', 'package-lock.json']);
  const { make } = await import(pathToFileURL(script).href);
  await make(folder);
}

if (process.argv[1] === import.meta.filename) {
  ensureInstalled();
  await makeDemoData();
}
