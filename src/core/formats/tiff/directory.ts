import { LevelGridError, type ByteSource } from '../../base';

/*
 * Directories of a TIFF (TIFF 6.0, section 2; BigTIFF as it is commonly written): byte order, 42 or 43, then a chain of
 * directories of entries: tag, type, count, value or place.
 */

export const TAGS = {
  subfile: 254,
  width: 256,
  height: 257,
  bits: 258,
  compression: 259,
  photometric: 262,
  fillOrder: 266,
  stripOffsets: 273,
  samples: 277,
  rowsPerStrip: 278,
  stripBytes: 279,
  planar: 284,
  predictor: 317,
  tileWidth: 322,
  tileHeight: 323,
  tileOffsets: 324,
  tileBytes: 325,
  extraSamples: 338,
  sampleFormat: 339,
  pixelScale: 33550,
  tiepoint: 33922,
  transformation: 34264,
  geoKeys: 34735,
  geoDoubles: 34736,
  geoText: 34737,
  metadata: 42112,
  noData: 42113,
} as const;
export type Tag = keyof typeof TAGS;

/** Bytes of a value of each type; 0 where there is no such type. */
const TYPE_BYTES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4, 0, 0, 8, 8, 8];

/** Most values of an entry that are read; places of strips and tiles are counted apart. */
const MAX_VALUES = 4096;
/** Most strips or tiles of a raster. */
export const MAX_BLOCKS = 2 ** 22;
const MAX_DIRECTORIES = 4096;
const MAX_ENTRIES = 4096;

interface Entry {
  readonly type: number;
  readonly count: number;
  /** Where its values lie in the file. */
  readonly at: number;
}

const bad = (found: string, expected: string): LevelGridError =>
  new LevelGridError('corrupt', { found, expected, remedy: 'The file is damaged: export or copy it again.' });

export interface Opening {
  readonly little: boolean;
  readonly big: boolean;
  /** Where the first directory lies. */
  readonly first: number;
}

/** The first 16 bytes of a TIFF; null where they are none. */
export function parseOpening(head: Uint8Array): Opening | null {
  if (head.length < 8) return null;
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const mark = view.getUint16(0);
  if (mark !== 0x4949 && mark !== 0x4d4d) return null;
  const little = mark === 0x4949;
  const version = view.getUint16(2, little);
  if (version === 42) return { little, big: false, first: view.getUint32(4, little) };
  if (version !== 43 || head.length < 16 || view.getUint16(4, little) !== 8) return null;
  return { little, big: true, first: Number(view.getBigUint64(8, little)) };
}

/** One directory: its entries by name, read when asked for. */
export class Directory {
  constructor(
    private readonly source: ByteSource,
    readonly little: boolean,
    private readonly entries: ReadonlyMap<number, Entry>,
  ) {}

  has(tag: Tag): boolean {
    return this.entries.has(TAGS[tag]);
  }

  count(tag: Tag): number {
    return this.entries.get(TAGS[tag])?.count ?? 0;
  }

  /** All values of an entry; empty where there is none. Whole numbers of 64 bits beyond 2⁵³ are refused. */
  async numbers(tag: Tag, most = MAX_VALUES): Promise<number[]> {
    const entry = this.entries.get(TAGS[tag]);
    if (!entry) return [];
    const { type, count } = entry;
    const size = TYPE_BYTES[type] as number;
    if (count > most) throw bad(`${count} values of tag ${TAGS[tag]}`, `at most ${most}`);
    const bytes = await this.bytesOf(tag, entry, size * count);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    return Array.from({ length: count }, (_, i) => {
      const value = readValue(view, i * size, type, this.little);
      if (!Number.isSafeInteger(value) && type >= 16)
        throw bad(`a number of tag ${TAGS[tag]} beyond 2⁵³`, 'a smaller one');
      return value;
    });
  }

  async number(tag: Tag, otherwise: number): Promise<number> {
    return (await this.numbers(tag))[0] ?? otherwise;
  }

  /** Text of an entry up to its first zero byte, and to so many bytes; null where there is none. */
  async text(tag: Tag, most = MAX_VALUES): Promise<string | null> {
    const entry = this.entries.get(TAGS[tag]);
    if (entry?.type !== 2) return null;
    const bytes = await this.bytesOf(tag, entry, Math.min(entry.count, most));
    const end = bytes.indexOf(0);
    return String.fromCharCode(...bytes.subarray(0, end < 0 ? bytes.length : end));
  }

  private async bytesOf(tag: Tag, { at }: Entry, size: number): Promise<Uint8Array> {
    const bytes = await this.source.read(at, size);
    if (bytes.length === size) return bytes;
    throw new LevelGridError('truncated', {
      found: `${this.source.size} bytes`,
      expected: `values of tag ${TAGS[tag]} up to byte ${at + size}`,
      remedy: 'The file is cut short: copy or export it again.',
    });
  }
}

function readValue(view: DataView, at: number, type: number, little: boolean): number {
  switch (type) {
    case 1:
    case 2:
    case 7:
      return view.getUint8(at);
    case 3:
      return view.getUint16(at, little);
    case 4:
    case 13:
      return view.getUint32(at, little);
    case 5:
      return view.getUint32(at, little) / view.getUint32(at + 4, little);
    case 6:
      return view.getInt8(at);
    case 8:
      return view.getInt16(at, little);
    case 9:
      return view.getInt32(at, little);
    case 10:
      return view.getInt32(at, little) / view.getInt32(at + 4, little);
    case 11:
      return view.getFloat32(at, little);
    case 12:
      return view.getFloat64(at, little);
    case 17:
      return Number(view.getBigInt64(at, little));
    default:
      return Number(view.getBigUint64(at, little));
  }
}

/** The chain of directories; a chain that goes round ends where it began. */
export async function readDirectories(source: ByteSource, { little, big, first }: Opening): Promise<Directory[]> {
  const out: Directory[] = [];
  const seen = new Set<number>();
  const [countBytes, entryBytes, placeBytes] = big ? [8, 20, 8] : [2, 12, 4];
  for (let at = first; at !== 0 && !seen.has(at) && out.length < MAX_DIRECTORIES;) {
    seen.add(at);
    const start = await source.read(at, countBytes);
    if (start.length < countBytes) {
      // what is whole before it can still be read
      if (out.length > 0) break;
      throw new LevelGridError('truncated', {
        found: `${source.size} bytes`,
        expected: `a directory at byte ${at}`,
        remedy: 'The file is cut short: copy or export it again.',
      });
    }
    const head = new DataView(start.buffer, start.byteOffset, start.byteLength);
    const count = big ? Number(head.getBigUint64(0, little)) : head.getUint16(0, little);
    if (count < 1 || count > MAX_ENTRIES) throw bad(`a directory of ${count} entries`, `1 to ${MAX_ENTRIES}`);
    const bytes = await source.read(at + countBytes, count * entryBytes + placeBytes);
    if (bytes.length < count * entryBytes)
      throw new LevelGridError('truncated', {
        found: `${source.size} bytes`,
        expected: `a directory of ${count} entries at byte ${at}`,
        remedy: 'The file is cut short: copy or export it again.',
      });
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const entries = new Map<number, Entry>();
    for (let i = 0; i < count; i++) {
      const e = i * entryBytes;
      const type = view.getUint16(e + 2, little);
      const n = big ? Number(view.getBigUint64(e + 4, little)) : view.getUint32(e + 4, little);
      const size = TYPE_BYTES[type] ?? 0;
      if (size === 0) continue;
      const inside = size * n <= placeBytes;
      const field = e + (big ? 12 : 8);
      const place = inside
        ? at + countBytes + field
        : big
          ? Number(view.getBigUint64(field, little))
          : view.getUint32(field, little);
      entries.set(view.getUint16(e, little), { type, count: n, at: place });
    }
    out.push(new Directory(source, little, entries));
    const next = count * entryBytes;
    at =
      bytes.length < next + placeBytes
        ? 0
        : big
          ? Number(view.getBigUint64(next, little))
          : view.getUint32(next, little);
  }
  if (out.length === 0) throw bad('a TIFF without a picture', 'at least one directory');
  return out;
}
