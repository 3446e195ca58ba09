import { LevelGridError } from '../base';

/* What a zip says of the files in it, in the list at its end (APPNOTE 6.3.10, sections 4.3.12 to 4.3.16 and 4.5.3). */

export interface ZipEntry {
  readonly name: string;
  /** How it is packed: 0 not at all, 8 by Deflate. */
  readonly method: number;
  readonly crc: number;
  /** Bytes in the archive, and unpacked. */
  readonly packed: number;
  readonly unpacked: number;
  /** Needs a password. */
  readonly locked: boolean;
  /** Is no file but the path of one. */
  readonly link: boolean;
}

const END = 0x06054b50;
const END_64 = 0x06064b50;
const LOCATOR_64 = 0x07064b50;
const LISTED = 0x02014b50;
const LOCAL = 0x04034b50;
const END_BYTES = 22;
/** A comment may stand behind the end. */
const MOST_COMMENT = 65_535;
/** Stands for a number that is told in the extra field. */
const ELSEWHERE = 0xffffffff;
const UNIX_LINK = 0xa000;

export const badZip = (file: string, found: string, expected = 'an archive that is whole'): LevelGridError =>
  new LevelGridError('corrupt', {
    file,
    found,
    expected,
    remedy: 'Download or copy it again, or unpack it and take what lies in it.',
  });

/** The files that an archive lists, in its order. Throws `corrupt`, with the name of the entry that is to blame. */
export function zipEntries(bytes: Uint8Array, file: string): ZipEntry[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const { count, offset, end } = listOf(view, file);
  const entries: ZipEntry[] = [];
  let at = offset;
  for (let i = 0; i < count; i++) {
    if (at + 46 > end || view.getUint32(at, true) !== LISTED)
      throw badZip(file, `${i} entries in the list of the archive`, `${count}, as it says at its end`);
    const flags = view.getUint16(at + 8, true);
    const [nameBytes, extraBytes, noteBytes] = [28, 30, 32].map((k) => view.getUint16(at + k, true)) as [
      number,
      number,
      number,
    ];
    const next = at + 46 + nameBytes + extraBytes + noteBytes;
    if (next > end) throw badZip(file, 'a list of entries that goes on behind its end');
    const name = textOf(bytes.subarray(at + 46, at + 46 + nameBytes), (flags & 0x800) !== 0);
    const [unpacked, packed, local] = sizesOf(view, at, at + 46 + nameBytes, extraBytes);
    // the high half of the outer attributes are those of the file where the writer was of that kind
    const link = view.getUint8(at + 5) === 3 && (view.getUint16(at + 40, true) & 0xf000) === UNIX_LINK;
    if (local + 30 > bytes.length || view.getUint32(local, true) !== LOCAL)
      throw badZip(file, `no file where the list has "${name}"`);
    const entry = {
      name,
      method: view.getUint16(at + 10, true),
      crc: view.getUint32(at + 16, true),
      packed,
      unpacked,
      locked: (flags & 1) !== 0,
      link,
    };
    agreesWithItself(view, local, entry, flags, file);
    entries.push(entry);
    at = next;
  }
  return entries;
}

/** Where the list begins and ends, and how many entries it has. */
function listOf(view: DataView, file: string): { count: number; offset: number; end: number } {
  let at = view.byteLength - END_BYTES;
  const last = Math.max(0, at - MOST_COMMENT);
  while (
    at >= last &&
    !(view.getUint32(at, true) === END && at + END_BYTES + view.getUint16(at + 20, true) === view.byteLength)
  )
    at--;
  if (at < last) throw badZip(file, 'a zip without its end: it is cut short, or something stands behind it');
  let count = view.getUint16(at + 10, true);
  let size = view.getUint32(at + 12, true);
  let offset = view.getUint32(at + 16, true);
  let end = at;
  if (at >= 20 && view.getUint32(at - 20, true) === LOCATOR_64) {
    const long = Number(view.getBigUint64(at - 12, true));
    if (long + 56 > at || view.getUint32(long, true) !== END_64) throw badZip(file, 'a zip whose end lies elsewhere');
    [count, size, offset] = [32, 40, 48].map((k) => Number(view.getBigUint64(long + k, true))) as [
      number,
      number,
      number,
    ];
    end = long;
  }
  if (offset + size > end) throw badZip(file, 'a list of entries that lies behind its end');
  const before = end - offset - size;
  if (before > 0)
    throw badZip(file, `${before} bytes in front of the archive, or behind its list, that belong to none of its files`);
  return { count, offset, end };
}

/** Bytes unpacked and packed, and where the file begins; what does not fit into 32 bits stands in the extra field. */
function sizesOf(view: DataView, at: number, extra: number, extraBytes: number): [number, number, number] {
  const sizes: [number, number, number] = [
    view.getUint32(at + 24, true),
    view.getUint32(at + 20, true),
    view.getUint32(at + 42, true),
  ];
  for (let e = extra; e + 4 <= extra + extraBytes; e += 4 + view.getUint16(e + 2, true)) {
    if (view.getUint16(e, true) !== 1) continue;
    let from = e + 4;
    sizes.forEach((value, k) => {
      if (value !== ELSEWHERE || from + 8 > extra + extraBytes) return;
      sizes[k] = Number(view.getBigUint64(from, true));
      from += 8;
    });
  }
  return sizes;
}

/** What stands in front of a file says the same as the list, as far as it says it there. */
function agreesWithItself(
  view: DataView,
  local: number,
  { name, method, crc, packed, unpacked }: ZipEntry,
  flags: number,
  file: string,
): void {
  const later = (flags & 8) !== 0;
  const said: readonly (readonly [what: string, at: number, listed: number])[] = [
    ['checksum', 14, crc],
    ['packed size', 18, packed],
    ['size', 22, unpacked],
  ];
  if (view.getUint16(local + 8, true) !== method)
    throw badZip(file, `"${name}", packed in one way by the list and another by itself`);
  for (const [what, at, listed] of said) {
    const own = view.getUint32(local + at, true);
    // told behind the file, or in its extra field
    if ((later && own === 0) || own === ELSEWHERE) continue;
    if (own !== listed) throw badZip(file, `"${name}", whose ${what} is ${own} by itself and ${listed} by the list`);
  }
}

const textOf = (bytes: Uint8Array, isUtf8: boolean): string =>
  isUtf8 ? new TextDecoder().decode(bytes) : Array.from(bytes, (b) => String.fromCharCode(b)).join('');
