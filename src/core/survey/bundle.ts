import { concatBytes } from '../base';
import { heightFile, pngChunk, PNG_SIGNATURE, zlib } from '../formats';
import { ENCODINGS, type MapPlace } from '../raster';
import { rangeOf, type Block, type Ground } from './ground';
import { RECORD_ENDING, type SurveyRecord } from './record';
import { DATA_SETS, MAP_SIDE, WORLD } from './world';

/** How heights are handed out. */
export const HANDED_AS = ['png', 'raw', 'tiff', 'hgt'] as const;
export type HandedAs = (typeof HANDED_AS)[number];

export interface BundleOptions {
  readonly as: HandedAs;
  /** Factor on heights: about the lowest where they are codes, about zero where they are metres. */
  readonly stretch: number;
  /** What the files are called. */
  readonly name: string;
  /** Blocks that did not come. */
  readonly missing: readonly Block[];
}

const HIGHEST_CODE = 65535;

/**
 * Elevations of the codes of a range, stretched about that of code 0; where there are voids, code 0 is theirs, and the
 * lowest height has the next one.
 */
export function codeRange(
  { low, high, voids }: { readonly low: number; readonly high: number; readonly voids: number },
  stretch: number,
): NonNullable<SurveyRecord['codes']> {
  const first = voids > 0 ? 1 : 0;
  // true metres of one code; flat ground has codes of a metre
  const apart = high > low ? (high - low) / (HIGHEST_CODE - first) : 1;
  const zero = low - first * apart;
  const metresPerCode = apart * stretch;
  return {
    low: zero,
    high: zero + HIGHEST_CODE * metresPerCode,
    metresPerCode,
    ...(voids > 0 ? { empty: 0 as const } : {}),
  };
}

/** Heights, their record and the plain map (`pixels` of whole blocks), as files by their names; the heights come first. */
export async function bundleOf(
  ground: Ground,
  heights: Float32Array,
  map: { readonly width: number; readonly height: number; readonly pixels: Uint8Array } | null,
  { as, stretch, name, missing }: BundleOptions,
): Promise<Map<string, Uint8Array>> {
  const range = rangeOf(heights);
  const empty = range.voids === heights.length;
  const { low, high } = empty ? { low: 0, high: 0 } : range;
  const codes = as === 'png' || as === 'raw' ? codeRange({ low, high, voids: range.voids }, stretch) : undefined;
  const file = as === 'hgt' ? hgtName() : `${name}.${as === 'tiff' ? 'tif' : as}`;
  const size = as === 'hgt' ? wholeDegree(ground) : ground;
  const stem = file.replace(/\.[^.]*$/, '');
  const mapFile = map ? `${stem}.survey-map.png` : undefined;
  const record: SurveyRecord = {
    kind: 'surveyed ground',
    version: 1,
    file,
    set: DATA_SETS[ground.set].name,
    width: size.width,
    height: size.height,
    extent: size.extent,
    seconds: DATA_SETS[ground.set].seconds,
    lowest: low,
    highest: high,
    voids: as === 'hgt' ? size.width * size.height - heights.length + range.voids : range.voids,
    stretch,
    ...(codes ? { codes } : {}),
    ...(as === 'raw' ? { raw: { type: 'u16' as const, byteOrder: 'little' as const } } : {}),
    missing: missing.map(({ column, row }) => ({ column, row })),
    ...(mapFile === undefined ? {} : { map: mapFile }),
  };
  const out = new Map<string, Uint8Array>();
  out.set(file, await heightsAs(ground, heights, as, stretch, codes));
  out.set(`${stem}.${RECORD_ENDING}`, new TextEncoder().encode(`${JSON.stringify(record, null, 2)}\n`));
  if (map && mapFile !== undefined) out.set(mapFile, colourPng(map.width, map.height, map.pixels));
  return out;
}

async function heightsAs(
  ground: Ground,
  heights: Float32Array,
  as: HandedAs,
  stretch: number,
  codes: SurveyRecord['codes'],
): Promise<Uint8Array> {
  const { width, height, extent, set } = ground;
  const shape = { width, height, byteOrder: 'little' } as const;
  if (as === 'tiff') {
    const step = DATA_SETS[set].seconds / 3600;
    const place: MapPlace = {
      origin: [extent.west, extent.north],
      across: [step, 0],
      down: [0, -step],
      degrees: true,
      metres: null,
      crs: 'EPSG:4326',
    };
    const stretched = heights.map((v) => v * stretch);
    return heightFile('tiff', { ...shape, encoding: ENCODINGS.f32, place }, stretched);
  }
  if (as === 'hgt') return hgtBlock(ground, heights, stretch);
  const { low, metresPerCode } = codes!;
  const made = Uint16Array.from(heights, (v) => (v !== v ? 0 : Math.round(((v - low) * stretch) / metresPerCode)));
  return heightFile(as, { ...shape, encoding: ENCODINGS.u16 }, made);
}

const EMPTY = -32768;

/** The cell of a whole degree that holds the world, as its name says. */
const hgtName = (): string =>
  `S${String(Math.ceil(-WORLD.south)).padStart(2, '0')}E${String(Math.floor(WORLD.west)).padStart(3, '0')}.hgt`;

function wholeDegree({ set }: Ground): Pick<Ground, 'width' | 'height' | 'extent'> {
  const side = 3600 / DATA_SETS[set].seconds + 1;
  const [west, north] = [Math.floor(WORLD.west), Math.ceil(WORLD.north)];
  return { width: side, height: side, extent: { west, north, east: west + 1, south: north - 1 } };
}

/** A block of a whole degree in whole metres, big-endian; what was not taken is void. */
function hgtBlock(ground: Ground, heights: Float32Array, stretch: number): Uint8Array {
  const { width, extent } = wholeDegree(ground);
  const perDegree = width - 1;
  const left = Math.round((ground.extent.west - extent.west) * perDegree);
  const top = Math.round((extent.north - ground.extent.north) * perDegree);
  const view = new DataView(new ArrayBuffer(2 * width * width));
  for (let i = 0; i < width * width; i++) view.setInt16(2 * i, EMPTY);
  heights.forEach((v, i) => {
    const [x, y] = [left + (i % ground.width), top + Math.floor(i / ground.width)];
    if (v === v) view.setInt16(2 * (y * width + x), Math.round(v * stretch));
  });
  return new Uint8Array(view.buffer);
}

/** The plain map of all blocks between the outermost; those that did not come stay grey. */
export function mapOf(
  blocks: readonly Block[],
  pixelsOf: (block: Block) => Uint8Array | null,
): { width: number; height: number; pixels: Uint8Array } {
  const [c0, r0] = [Math.min(...blocks.map((b) => b.column)), Math.min(...blocks.map((b) => b.row))];
  const width = (Math.max(...blocks.map((b) => b.column)) - c0 + 1) * MAP_SIDE;
  const height = (Math.max(...blocks.map((b) => b.row)) - r0 + 1) * MAP_SIDE;
  const pixels = new Uint8Array(3 * width * height).fill(128);
  for (const block of blocks) {
    const own = pixelsOf(block);
    if (!own) continue;
    const [x, y] = [(block.column - c0) * MAP_SIDE, (block.row - r0) * MAP_SIDE];
    for (let j = 0; j < MAP_SIDE; j++)
      pixels.set(own.subarray(3 * j * MAP_SIDE, 3 * (j + 1) * MAP_SIDE), 3 * ((y + j) * width + x));
  }
  return { width, height, pixels };
}

/** A picture of 8 bits a colour. */
export function colourPng(width: number, height: number, pixels: Uint8Array): Uint8Array {
  const rows = new Uint8Array(height * (1 + 3 * width));
  for (let y = 0; y < height; y++)
    rows.set(pixels.subarray(3 * y * width, 3 * (y + 1) * width), y * (1 + 3 * width) + 1);
  const head = new Uint8Array(13);
  const view = new DataView(head.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  head.set([8, 2, 0, 0, 0], 8);
  return concatBytes([PNG_SIGNATURE, pngChunk('IHDR', [head]), pngChunk('IDAT', [zlib(rows)]), pngChunk('IEND', [])]);
}
