import { wendArch } from './mesh';
import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { heightFile } from '../core/formats';
import { ENCODINGS, type MapPlace } from '../core/raster';
import { portableFloats } from './formats';
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

const png = (codes: Uint16Array, size: number, bits: 8 | 16): Promise<Uint8Array> =>
  heightFile(
    'png',
    { width: size, height: size, encoding: bits === 8 ? ENCODINGS.u8 : ENCODINGS.u16, byteOrder: 'big' },
    codes,
  );

/** Every second sample as a grid of floats in metres, with the header and the coordinates that lie beside it. */
function floatGrid(codes: Uint16Array): Readonly<Record<string, Uint8Array | string>> {
  const side = SIZE / 2;
  const heights = new DataView(new ArrayBuffer(side * side * 4));
  for (let i = 0; i < side * side; i++) {
    const code = codes[2 * Math.floor(i / side) * SIZE + 2 * (i % side)]!;
    heights.setFloat32(4 * i, LOWEST + (code / 65535) * (HIGHEST - LOWEST), true);
  }
  return {
    'kettle-tarn-metres.flt': new Uint8Array(heights.buffer),
    'kettle-tarn-metres.hdr': `ncols ${side}\nnrows ${side}\nxllcenter 500000\nyllcenter 5200000\ncellsize 5\nNODATA_value -9999\nbyteorder LSBFIRST\n`,
    'kettle-tarn-metres.prj':
      'PROJCS["Tarrowen Fells",GEOGCS["Tarrowen",DATUM["Tarrowen",SPHEROID["S",6378137,298.257223563]],UNIT["Degree",0.0174532925199433]],UNIT["Metre",1.0]]\n',
  };
}

/** Every fourth sample in metres, and as shares of the range, in the formats that artists are given. */
async function otherFormats(codes: Uint16Array): Promise<Readonly<Record<string, Uint8Array | string>>> {
  const side = SIZE / 4;
  const shares = Float32Array.from(
    { length: side * side },
    (_, i) => codes[4 * Math.floor(i / side) * SIZE + 4 * (i % side)]! / 65535,
  );
  const heights = shares.map((s) => LOWEST + s * (HIGHEST - LOWEST));
  const shape = { width: side, height: side, encoding: ENCODINGS.f32, byteOrder: 'little' } as const;
  const place: MapPlace = {
    origin: [500_000, 5_200_000],
    across: [10, 0],
    down: [0, -10],
    degrees: false,
    metres: 1,
    crs: null,
  };
  return {
    'kettle-tarn-metres.tif': await heightFile('tiff', { ...shape, place }, heights),
    'kettle-tarn-metres.exr': await heightFile('exr', { ...shape, channel: 'height' }, heights),
    'kettle-tarn-0-to-1.exr': await heightFile('exr', shape, shares),
    'kettle-tarn-metres.asc': await heightFile('asc', { ...shape, place }, heights),
    'kettle-tarn-metres.pfm': portableFloats({ width: side, height: side, heights }),
  };
}

/** Sixteen tiles, named by column and row, rows counted from the south. */
async function tiles(codes: Uint16Array): Promise<Readonly<Record<string, Uint8Array>>> {
  const side = SIZE / 4;
  const out: Record<string, Uint8Array> = {};
  for (let row = 0; row < 4; row++)
    for (let column = 0; column < 4; column++) {
      const tile = Uint16Array.from(
        { length: side * side },
        (_, i) => codes[(row * side + Math.floor(i / side)) * SIZE + column * side + (i % side)]!,
      );
      out[`kettle-tarn-tiles/tarn_${column}_${3 - row}.png`] = await png(tile, side, 16);
    }
  return out;
}

/** Samples along the side of a block of one degree, and metres that are no height. */
const BLOCK = 1201;
const VOID = -32768;

/** The fells as four blocks of a degree in the open sea, with a strip of voids across two of them. */
function blocks(): Readonly<Record<string, Uint8Array>> {
  const side = 2 * (BLOCK - 1) + 1;
  const codes = kettleTarnCodes(side);
  const metres = (x: number, y: number): number =>
    Math.round(LOWEST + (codes[y * side + x]! / 65535) * (HIGHEST - LOWEST));
  return Object.fromEntries(
    ['S47E080', 'S47E081', 'S48E080', 'S48E081'].map((name, i) => {
      const [x0, y0] = [(i % 2) * (BLOCK - 1), Math.floor(i / 2) * (BLOCK - 1)];
      const view = new DataView(new ArrayBuffer(BLOCK * BLOCK * 2));
      for (let y = 0; y < BLOCK; y++)
        for (let x = 0; x < BLOCK; x++) {
          const empty = x0 + x > 1500 && x0 + x < 1540 && y0 + y > 900 && y0 + y < 1400;
          view.setInt16((y * BLOCK + x) * 2, empty ? VOID : metres(x0 + x, y0 + y));
        }
      return [`tarrowen-fells/${name}.hgt`, new Uint8Array(view.buffer)];
    }),
  );
}

/**
 * Kettle Tarn as PNG of 16 bits, as headerless RAW (big-endian), as a PNG copy rounded to 8 bits, as a grid of floats and
 * as tiles; and the fells around it as blocks in degrees.
 */
export async function make(folder: string): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const codes = kettleTarnCodes();
  writeFileSync(
    path.join(folder, 'kettle-tarn-big-endian.raw'),
    await heightFile('raw', { width: SIZE, height: SIZE, encoding: ENCODINGS.u16, byteOrder: 'big' }, codes),
  );
  writeFileSync(
    path.join(folder, 'kettle-tarn-8-bit.png'),
    await png(
      codes.map((c) => Math.round(c / 257)),
      SIZE,
      8,
    ),
  );
  const more = {
    ...(await otherFormats(codes)),
    ...floatGrid(codes),
    ...(await tiles(codes)),
    ...blocks(),
    'wend-arch.ply': wendArch(),
  };
  for (const [name, bytes] of Object.entries(more)) {
    mkdirSync(path.dirname(path.join(folder, name)), { recursive: true });
    writeFileSync(path.join(folder, name), bytes);
  }
  // last: where it is there, all are
  writeFileSync(path.join(folder, 'kettle-tarn.png'), await png(codes, SIZE, 16));
}
