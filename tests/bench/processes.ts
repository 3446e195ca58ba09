import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { MemoryFolder } from '../../src/core/base';
import { PngWriter } from '../../src/core/formats';
import { measured } from '../helpers/peak';
import { writeTiff } from '../helpers/write-tiff';
import { terrainCodes } from './material';

const SIDE = 8129;
const SIZES = [505, 1009, 2017, 4033, 8129];

/** One job in processes of their own: seconds of each turn, by the command lines in order. */
export interface ProcessRow {
  readonly job: string;
  readonly seconds: readonly (readonly number[])[];
  /** Resident memory at its highest, MB. */
  readonly peak: readonly number[];
}

/** The command line of pictures in native code that does the fitting alone: no range, no page, no sums. */
const NATIVE = `
const sharp = (await import('sharp')).default;
sharp.concurrency(2);
const [source, out, size] = process.argv.slice(1);
await sharp(source, { limitInputPixels: false }).resize(+size, +size, { kernel: 'lanczos3', fit: 'fill' }).toColourspace('grey16').png({ compressionLevel: 6, adaptiveFiltering: true }).toFile(out);
`;

async function once(args: readonly string[]): Promise<{ seconds: number; peak: number }> {
  const { code, err, seconds, peak } = await measured(args);
  if (code !== 0) throw new Error(`${args.slice(0, 3).join(' ')} ended with ${code ?? 'a signal'}: ${err}`);
  return { seconds, peak: peak ?? NaN };
}

/** What is run by turns: each a job of every side. */
async function byTurns(job: string, sides: readonly (readonly string[])[], pairs: number): Promise<ProcessRow> {
  const seconds = sides.map((): number[] => []);
  const peak = sides.map(() => 0);
  for (let turn = 0; turn < pairs; turn++)
    // each goes first as often as the others
    for (let k = 0; k < sides.length; k++) {
      const i = (k + turn) % sides.length;
      const found = await once(sides[i]!);
      seconds[i]!.push(found.seconds);
      peak[i] = Math.max(peak[i]!, found.peak);
    }
  process.stderr.write(`${job}: ${seconds.map((s) => Math.min(...s).toFixed(2)).join(' · ')} s at best\n`);
  return { job, seconds, peak };
}

async function pngOf(codes: Uint16Array): Promise<Uint8Array> {
  const memory = new MemoryFolder();
  const writer = await PngWriter.open(await memory.open('s'), SIDE, SIDE);
  for (let y = 0; y < SIDE; y += 64) await writer.write(codes.subarray(y * SIDE, Math.min(SIDE, y + 64) * SIDE));
  await writer.close();
  await memory.commit();
  return memory.files.get('s')!;
}

/**
 * Packs of 8129² samples, from PNG and from TIFF of floats, at five sizes, and their proofs: whole processes by turns, for
 * each of `clis`; the jobs from PNG beside native code that only fits the picture.
 */
export async function benchProcesses(
  clis: readonly string[],
  pairs: number,
  sizes: readonly number[] = SIZES,
): Promise<ProcessRow[]> {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-bench-'));
  const at = (name: string): string => path.join(folder, name);
  const rows: ProcessRow[] = [];
  try {
    const codes = terrainCodes(SIDE);
    writeFileSync(at('s.png'), await pngOf(codes));
    const shape = { width: SIDE, height: SIDE, type: 'float', bits: 32, compression: 8, rowsPerStrip: 64 } as const;
    writeFileSync(
      at('s.tif'),
      writeTiff(shape, (x, y) => Math.fround(codes[y * SIDE + x]! / 80)),
    );
    for (const [source, heights] of [
      ['s.png', { as: 'ends', low: 0, high: 800 }],
      ['s.tif', { as: 'elevations', unit: 'metre' }],
    ] as const)
      for (const size of sizes) {
        const recipe = { version: 3, name: 'b', source: { heights, spacing: 1 }, target: 'component-grid' };
        writeFileSync(at('r.json'), JSON.stringify({ ...recipe, fit: { size } }));
        const out = (i: number): string => at(`out-${i}`);
        const run = clis.map((cli, i) => [
          cli,
          'run',
          at(source),
          '--recipe',
          at('r.json'),
          '--out',
          out(i),
          '--replace',
        ]);
        const native = ['--input-type=module', '-e', NATIVE, at('s.png'), at('native.png'), String(size)];
        const kind = source === 's.png' ? 'PNG' : 'TIFF of floats';
        rows.push(await byTurns(`${SIDE}² ${kind} → ${size}²`, source === 's.png' ? [...run, native] : run, pairs));
        const prove = clis.map((cli, i) => [cli, 'prove', out(i), '--reference', at(source)]);
        rows.push(await byTurns(`its proof (${kind}, ${size}²)`, prove, pairs));
      }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  return rows;
}
