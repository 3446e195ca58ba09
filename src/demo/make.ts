import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { MemoryFolder } from '../core/base';
import { PngWriter, RawWriter } from '../core/formats';
import { kettleTarn } from './terrain';

export const SIZE = 1536;
export const LOWEST = 1310;
export const HIGHEST = 2140;

/** Lake level as a share of the terrain's height range above its own floor. */
const LAKE_SHARE = 0.042;

/** The terrain as codes 0..65535 over its whole range; the lake is level and holds the lowest code. */
export function kettleTarnCodes(size = SIZE): Uint16Array {
  const field = kettleTarn(size);
  let low = Infinity;
  let high = -Infinity;
  for (const h of field) {
    if (h < low) low = h;
    if (h > high) high = h;
  }
  const lake = low + LAKE_SHARE * (high - low);
  const codes = new Uint16Array(field.length);
  for (let i = 0; i < field.length; i++)
    codes[i] = Math.max(0, Math.round(((field[i]! - lake) / (high - lake)) * 65535));
  return codes;
}

async function png(codes: Uint16Array, size: number, bits: 8 | 16): Promise<Uint8Array> {
  const folder = new MemoryFolder();
  const writer = await PngWriter.open(await folder.open('out.png'), size, size, { bitDepth: bits });
  const band = size * 64;
  for (let at = 0; at < codes.length; at += band) await writer.write(codes.subarray(at, at + band));
  await writer.close();
  await folder.commit();
  return folder.files.get('out.png')!;
}

async function raw(codes: Uint16Array, order: 'little' | 'big'): Promise<Uint8Array> {
  const folder = new MemoryFolder();
  const writer = new RawWriter(await folder.open('out.raw'), order);
  await writer.write(codes);
  await writer.close();
  await folder.commit();
  return folder.files.get('out.raw')!;
}

/** Kettle Tarn as PNG of 16 bits, as headerless RAW (big-endian), and as a PNG copy rounded to 8 bits. */
export async function make(folder: string): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const codes = kettleTarnCodes();
  writeFileSync(path.join(folder, 'kettle-tarn-big-endian.raw'), await raw(codes, 'big'));
  writeFileSync(
    path.join(folder, 'kettle-tarn-8-bit.png'),
    await png(
      codes.map((c) => Math.round(c / 257)),
      SIZE,
      8,
    ),
  );
  writeFileSync(path.join(folder, 'kettle-tarn.png'), await png(codes, SIZE, 16));
}
