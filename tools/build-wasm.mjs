// Compiles the kernels of wasm/assembly and ships them as a constant (no loader is needed anywhere).
// Usage: node tools/build-wasm.mjs [--check]: with --check nothing is written; exit 1 where the shipped bytes differ.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { root, runTool } from './install.mjs';

const TARGET = path.join(root, 'src/core/wasm/wasm-bytes.ts');

export function compiled() {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-wasm-'));
  try {
    const out = path.join(folder, 'kernels.wasm');
    const status = runTool(process.execPath, [
      'node_modules/assemblyscript/bin/asc.js',
      'wasm/assembly/index.ts',
      '--enable',
      'simd',
      '--runtime',
      'stub',
      '-O3',
      '--noAssert',
      '--importMemory',
      '--outFile',
      out,
    ]);
    if (status !== 0) throw new Error('The kernels could not be compiled; see above.');
    return readFileSync(out);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** The generated module for these bytes. */
export const moduleText = (bytes) =>
  `/** Compiled from wasm/assembly by tools/build-wasm.mjs; never edited by hand. */\nexport const WASM_BASE64 =\n  '${bytes.toString('base64')}';\n`;

if (process.argv[1] === import.meta.filename) {
  const text = moduleText(compiled());
  if (process.argv.includes('--check')) process.exit(readFileSync(TARGET, 'utf8') === text ? 0 : 1);
  writeFileSync(TARGET, text);
}
