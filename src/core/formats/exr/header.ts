import { LevelGridError } from '../../base';
import { checkSize } from '../blocks';
import { MAX_SIDE } from '../limits';

/*
 * Header of an OpenEXR file (technical introduction and file layout documents of the format, version 2): magic number,
 * version and flags, then attributes of each part by name, type and length.
 */

export const MAGIC = [0x76, 0x2f, 0x31, 0x01] as const;

/** Compressions by their number: name, and rows of a block of scan lines. Those without `read` lose heights. */
export const COMPRESSIONS = [
  { name: 'none', rows: 1, read: true },
  { name: 'RLE', rows: 1, read: true },
  { name: 'ZIPS', rows: 1, read: true },
  { name: 'ZIP', rows: 16, read: true },
  { name: 'PIZ', rows: 32, read: true },
  { name: 'PXR24', rows: 16, read: false },
  { name: 'B44', rows: 32, read: false },
  { name: 'B44A', rows: 32, read: false },
  { name: 'DWAA', rows: 32, read: false },
  { name: 'DWAB', rows: 256, read: false },
] as const;

/** Types of samples by their number. */
export const PIXEL_TYPES = ['uint', 'half', 'float'] as const;
export type PixelType = (typeof PIXEL_TYPES)[number];
export const pixelBytes = (type: PixelType): 2 | 4 => (type === 'half' ? 2 : 4);

export interface Channel {
  readonly name: string;
  readonly type: PixelType;
  readonly everyX: number;
  readonly everyY: number;
}

export interface Part {
  readonly name: string | null;
  /** In the order in which a row holds them. */
  readonly channels: readonly Channel[];
  readonly compression: number;
  /** First and last column and row of the data window. */
  readonly window: readonly [number, number, number, number];
  readonly display: readonly [number, number, number, number];
  /** Sides of a tile, and whether smaller copies follow; null for scan lines. */
  readonly tiles: { readonly width: number; readonly height: number } | null;
  /** Blocks in the table of this part, smaller copies included. */
  readonly blocks: number;
  readonly deep: boolean;
  /** Where its table of blocks lies in the file. */
  readonly table: number;
}

/** Most bytes that a header may take: names and previews, never pixels. */
export const MAX_HEADER_BYTES = 2 ** 24;
const MAX_PARTS = 1024;
const MAX_CHANNELS = 1024;

const bad = (found: string, expected: string): LevelGridError =>
  new LevelGridError('corrupt', { found, expected, remedy: 'The file is damaged: export or copy it again.' });

interface Attribute {
  readonly type: string;
  readonly at: number;
  readonly size: number;
}

/** Reads bytes of a header; beyond its end the header is cut short. */
class HeaderReader {
  at = 0;
  private readonly view: DataView;

  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  private need(at: number, size: number): void {
    if (at + size > this.bytes.length)
      throw new LevelGridError('truncated', {
        found: `a header that goes on behind byte ${this.bytes.length}`,
        expected: 'a complete header',
        remedy: 'The file is cut short: copy or export it again.',
      });
  }

  byte(at: number): number {
    this.need(at, 1);
    return this.view.getUint8(at);
  }

  int(at: number): number {
    this.need(at, 4);
    return this.view.getInt32(at, true);
  }

  /** A name that ends with a zero; moves on behind it. */
  text(longest = 255): string {
    const start = this.at;
    while (this.byte(this.at) !== 0) {
      this.at++;
      if (this.at - start > longest)
        throw bad(`a name of more than ${longest} bytes`, 'a name that ends with a zero byte');
    }
    const text = String.fromCharCode(...this.bytes.subarray(start, this.at));
    this.at++;
    return text;
  }

  string({ at, size }: Attribute): string {
    this.need(at, size);
    return String.fromCharCode(...this.bytes.subarray(at, at + Math.min(size, 255)));
  }
}

/** All parts of a file; `bytes` begin with the magic number. */
export function parseHeader(bytes: Uint8Array): Part[] {
  const reader = new HeaderReader(bytes);
  const flags = reader.int(4);
  if ((flags & 0xff) !== 2) throw bad(`version ${flags & 0xff}`, 'version 2');
  const tiled = (flags & 0x200) !== 0;
  const multi = (flags & 0x1000) !== 0;
  const deep = (flags & 0x800) !== 0;
  reader.at = 8;
  const drafts: Map<string, Attribute>[] = [];
  for (;;) {
    const attributes = attributesOf(reader);
    if (attributes.size === 0) break;
    drafts.push(attributes);
    if (!multi) break;
    if (drafts.length > MAX_PARTS) throw bad(`more than ${MAX_PARTS} parts`, `at most ${MAX_PARTS}`);
  }
  if (drafts.length === 0) throw bad('a header without attributes', 'channels, compression and data window');
  let table = reader.at;
  return drafts.map((attributes) => {
    const part = partOf(reader, attributes, { tiled, multi, deep }, table);
    table += part.blocks * 8;
    return part;
  });
}

function attributesOf(reader: HeaderReader): Map<string, Attribute> {
  const out = new Map<string, Attribute>();
  for (;;) {
    const name = reader.text();
    if (name === '') return out;
    const type = reader.text();
    const size = reader.int(reader.at);
    const at = reader.at + 4;
    if (size < 0 || size > MAX_HEADER_BYTES)
      throw bad(`an attribute "${name}" of ${size} bytes`, 'a length that fits the header');
    reader.at = at + size;
    // what lies there is looked at only where it is needed, but must be there
    if (size > 0) reader.byte(at + size - 1);
    if (!out.has(name)) out.set(name, { type, at, size });
  }
}

function partOf(
  reader: HeaderReader,
  attributes: Map<string, Attribute>,
  flags: { tiled: boolean; multi: boolean; deep: boolean },
  table: number,
): Part {
  const need = (name: string, type: string, size: number): Attribute => {
    const found = attributes.get(name);
    if (found?.type !== type || found.size < size)
      throw bad(
        found ? `"${name}" as ${found.type} of ${found.size} bytes` : `no attribute "${name}"`,
        `"${name}", ${type}`,
      );
    return found;
  };
  const box = (name: string): [number, number, number, number] => {
    const { at } = need(name, 'box2i', 16);
    return [reader.int(at), reader.int(at + 4), reader.int(at + 8), reader.int(at + 12)];
  };
  const window = box('dataWindow');
  const kind = attributes.get('type');
  const type = flags.multi && kind ? reader.string(kind) : flags.tiled ? 'tiledimage' : 'scanlineimage';
  const compression = reader.byte(need('compression', 'compression', 1).at);
  const rule = COMPRESSIONS[compression];
  if (!rule) throw bad(`compression ${compression}`, `0 to ${COMPRESSIONS.length - 1}`);
  const [width, height] = [window[2] - window[0] + 1, window[3] - window[1] + 1];
  if (width > MAX_SIDE || height > MAX_SIDE || width < 1 || height < 1) checkSize(width, height, 0);
  const isTiled = type === 'tiledimage';
  const tiles = isTiled ? tilesOf(reader, need('tiles', 'tiledesc', 9)) : null;
  const counted = attributes.get('chunkCount');
  const own = tiles ? Math.ceil(width / tiles.width) * Math.ceil(height / tiles.height) : Math.ceil(height / rule.rows);
  const blocks = flags.multi && counted && counted.size >= 4 ? reader.int(counted.at) : own;
  if (blocks < own) throw bad(`a table of ${blocks} blocks`, `${own} for ${width} × ${height} samples`);
  const name = attributes.get('name');
  return {
    name: name ? reader.string(name) : null,
    channels: channelsOf(reader, need('channels', 'chlist', 1)),
    compression,
    window,
    display: attributes.get('displayWindow')?.type === 'box2i' ? box('displayWindow') : window,
    tiles,
    blocks,
    deep: flags.deep || type.startsWith('deep'),
    table,
  };
}

function tilesOf(reader: HeaderReader, { at }: Attribute): { width: number; height: number } {
  const [width, height] = [reader.int(at), reader.int(at + 4)];
  if (width < 1 || height < 1 || width > MAX_SIDE || height > MAX_SIDE)
    throw bad(`tiles of ${width} × ${height} samples`, 'a side from 1 on');
  return { width, height };
}

function channelsOf(reader: HeaderReader, { at, size }: Attribute): Channel[] {
  const out: Channel[] = [];
  const end = at + size;
  const back = reader.at;
  reader.at = at;
  for (;;) {
    const name = reader.text();
    if (name === '') break;
    const type = PIXEL_TYPES[reader.int(reader.at)];
    if (!type) throw bad(`a channel "${name}" of type ${reader.int(reader.at)}`, 'uint, half or float');
    const [everyX, everyY] = [reader.int(reader.at + 8), reader.int(reader.at + 12)];
    if (everyX < 1 || everyY < 1) throw bad(`a channel "${name}" with every ${everyX}th sample`, 'a number from 1 on');
    reader.at += 16;
    if (reader.at > end) throw bad('a list of channels that goes on behind its end', 'a complete list');
    out.push({ name, type, everyX, everyY });
    if (out.length > MAX_CHANNELS) throw bad(`more than ${MAX_CHANNELS} channels`, `at most ${MAX_CHANNELS}`);
  }
  reader.at = back;
  if (out.length === 0) throw bad('a picture without channels', 'at least one channel');
  return out;
}

/** Names under which heights are stored, best first; a name may have a layer before its last point. */
const HEIGHT_NAMES = [
  'height',
  'elevation',
  'altitude',
  'displacement',
  'depth',
  'h',
  'z',
  'y',
  'v',
  'l',
  'gray',
  'grey',
  'luminance',
  'r',
  'red',
];

/** The channel that holds the heights: the only one, or the one whose name says most. */
export function heightChannel(channels: readonly Channel[]): Channel {
  const rank = ({ name }: Channel): number => {
    const last = (name.split('.').pop() ?? name).toLowerCase();
    const at = HEIGHT_NAMES.indexOf(last);
    // never transparency, where there is anything else
    return at >= 0 ? at : last === 'a' || last === 'alpha' ? 1000 : 100;
  };
  return [...channels].sort((a, b) => rank(a) - rank(b))[0] as Channel;
}
