import { closeSync, mkdtempSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { MemoryFolder } from '../../src/core/base';
import { PngWriter } from '../../src/core/formats';
import { measured as measuredRun } from '../helpers/peak';
import { mirroredCodes, terrainCodes } from './material';

export interface MemoryRow {
  readonly job: string;
  /** Resident memory at its highest, MB; threads included. */
  readonly peak: number;
  readonly seconds: number;
}

/** Peak resident memory and time of one run of the command line. */
async function measured(cli: string, args: readonly string[]): Promise<{ peak: number; seconds: number }> {
  const { code, err, peak, seconds } = await measuredRun([cli, ...args]);
  if (code !== 0 || peak === null) throw new Error(`the command line ended with ${code ?? 'a signal'}: ${err}`);
  return { peak, seconds };
}

/** Vertices a metre apart on the ground of `codes`, two triangles to each square, as a binary PLY. */
function plyOfGrid(codes: Uint16Array, stride: number, across: number): Buffer {
  const quads = (across - 1) ** 2;
  const head = Buffer.from(
    `ply\nformat binary_little_endian 1.0\nelement vertex ${across * across}\nproperty float x\nproperty float y\nproperty float z\nelement face ${2 * quads}\nproperty list uchar int vertex_indices\nend_header\n`,
  );
  const body = Buffer.alloc(12 * across * across + 13 * 2 * quads);
  let at = 0;
  for (let y = 0; y < across; y++)
    for (let x = 0; x < across; x++)
      for (const value of [x, y, codes[y * stride + x]! / 100]) at = body.writeFloatLE(value, at);
  for (let y = 0; y + 1 < across; y++)
    for (let x = 0; x + 1 < across; x++) {
      const [a, b, c, d] = [y * across + x, y * across + x + 1, (y + 1) * across + x, (y + 1) * across + x + 1];
      for (const face of [
        [a, b, d],
        [a, d, c],
      ]) {
        at = body.writeUInt8(3, at);
        for (const corner of face) at = body.writeInt32LE(corner, at);
      }
    }
  return Buffer.concat([head, body]);
}

/** 8129² PNG → PNG, and 16385² RAW → 16 tiles of PNG, several files and a mesh as one raster; each in a process of its own. */
export async function benchMemory(cli: string): Promise<MemoryRow[]> {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-bench-'));
  const at = (name: string): string => path.join(folder, name);
  const recipe = (name: string, target: string, fit: object, more: object): string => {
    writeFileSync(
      at(name),
      JSON.stringify({ version: 1, name: 'b', source: { low: 0, high: 800, spacing: 1 }, target, fit, ...more }),
    );
    return at(name);
  };
  try {
    const side = 8129;
    const codes = terrainCodes(side);
    const memory = new MemoryFolder();
    const writer = await PngWriter.open(await memory.open('s'), side, side);
    for (let y = 0; y < side; y += 64) await writer.write(codes.subarray(y * side, Math.min(side, y + 64) * side));
    await writer.close();
    await memory.commit();
    writeFileSync(at('s.png'), memory.files.get('s')!);
    const rows: MemoryRow[] = [];
    const png = await measured(cli, [
      'run',
      '--recipe',
      recipe('a.json', 'component-grid', { size: 6097, clamp: true }, {}),
      at('s.png'),
      '--out',
      at('a'),
    ]);
    rows.push({ job: `${side}² PNG → 6097² PNG`, ...png });
    const same = await measured(cli, [
      'run',
      '--recipe',
      recipe('c.json', 'component-grid', { size: side }, {}),
      at('s.png'),
      '--out',
      at('c'),
    ]);
    rows.push({ job: `${side}² PNG → ${side}² PNG`, ...same });
    const large = 16385;
    const out = openSync(at('s.raw'), 'w');
    const row = mirroredCodes(codes, side, large);
    for (let y = 0; y < large; y++) writeSync(out, new Uint8Array(row(y).buffer));
    closeSync(out);
    const raw = { width: large, height: large, type: 'u16', byteOrder: 'little', skip: 0 };
    const tiles = recipe(
      't.json',
      'odd-grid',
      { size: large },
      { source: { low: 0, high: 800, spacing: 1, raw }, split: { across: 4, down: 4 }, output: { format: 'png' } },
    );
    rows.push({
      job: `${large}² RAW → 16 tiles of 4097² PNG`,
      ...(await measured(cli, ['run', '--recipe', tiles, at('s.raw'), '--out', at('t')])),
    });
    // sixteen files with shared edges as one
    const part = 4033;
    const tile = new MemoryFolder();
    const tileWriter = await PngWriter.open(await tile.open('t'), part, part);
    for (let y = 0; y < part; y += 64) {
      const band = new Uint16Array(Math.min(64, part - y) * part);
      for (let r = 0; r * part < band.length; r++)
        band.set(codes.subarray((y + r) * side, (y + r) * side + part), r * part);
      await tileWriter.write(band);
    }
    await tileWriter.close();
    await tile.commit();
    const files = Array.from({ length: 16 }, (_, i) => ({
      name: `t-r${Math.floor(i / 4)}c${i % 4}.png`,
      at: [(i % 4) * (part - 1), Math.floor(i / 4) * (part - 1)],
    }));
    for (const { name } of files) writeFileSync(at(name), tile.files.get('t')!);
    const whole = 4 * (part - 1) + 1;
    const sources = files.map((f) => at(f.name));
    rows.push({
      job: `16 tiles of ${part}² PNG → one raster of ${whole}² floats`,
      ...(await measured(cli, ['bring-in', ...sources, '--out', at('whole.r32')])),
    });
    // a mesh of two million triangles, seen from above
    writeFileSync(at('mesh.ply'), plyOfGrid(codes, side, 1001));
    rows.push({
      job: 'PLY of 2 000 000 triangles → one raster of 2049² floats',
      ...(await measured(cli, [
        'bring-in',
        at('mesh.ply'),
        '--up',
        'z',
        '--spacing',
        '0.48828125',
        '--out',
        at('mesh.r32'),
      ])),
    });
    return rows;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
