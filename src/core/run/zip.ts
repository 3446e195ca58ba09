import { makeZip } from 'client-zip';
import { unzipSync } from 'fflate';
import { formatBytes, LevelGridError, memorySource, piecesOf, sideBySide, type ByteSource } from '../base';
import { crc32, isCompanion, isHeightName, isNote, MOST_COMPANION } from '../formats';
import { readNote } from '../notes';
import { badZip, zipEntries, type ZipEntry } from './zip-entries';

/** Every entry bears this local time, so that the same files give the same zip on any day and in any zone. */
const FIXED_TIME = new Date(2020, 0, 1);

async function* pieces(source: ByteSource): AsyncGenerator<Uint8Array> {
  // the zip keeps them
  for await (const piece of piecesOf(source)) yield piece.slice();
}

/** The files as one zip (stored, ZIP64 where needed), streamed; in the order given. */
export function zipOf(files: readonly ByteSource[]): ReadableStream<Uint8Array> {
  return makeZip(
    files.map((source) => ({
      name: source.name,
      lastModified: FIXED_TIME,
      size: source.size,
      input: pieces(source) as AsyncIterable<Uint8Array<ArrayBuffer>>,
    })),
  );
}

/** As many entries a zip of ours can have, and some more. */
const MOST_ENTRIES = 25_000;
/** Unpacked, what a page can hold. */
const MOST_UNPACKED = 1.5e9;

/** A path that stays inside the archive it came from. */
const staysInside = (name: string): boolean => !/^([/\\]|[A-Za-z]:)/.test(name) && !name.split(/[/\\]/).includes('..');

/** The height files of an archive, by their paths inside it, and the names that lead outside of it. */
export interface ArchivedHeights {
  readonly files: ReadonlyMap<string, Uint8Array>;
  /** What lies beside them and says something about them. */
  readonly companions: ReadonlyMap<string, Uint8Array>;
  readonly refused: readonly string[];
}

const saysSomething = (text: Uint8Array): boolean => readNote(new TextDecoder().decode(text)) !== null;

const folderOf = (path: string): string => path.slice(0, path.lastIndexOf('/') + 1);

/** The height files of an archive as sources, by their paths; each knows what lies in its folder. */
export function archivedSources({ files, companions }: ArchivedHeights): Map<string, ByteSource> {
  const folders = new Map<string, [path: string, bytes: Uint8Array][]>();
  for (const entry of [...files, ...companions]) {
    const folder = folderOf(entry[0]);
    const there = folders.get(folder);
    if (there) there.push(entry);
    else folders.set(folder, [entry]);
  }
  const notes = [...companions].filter(([path]) => isNote(path));
  const found = new Map<string, ByteSource>();
  for (const [folder, entries] of folders) {
    // a note goes with all that lies deeper than itself
    const above = notes.filter(([path]) => folderOf(path) !== folder && folder.startsWith(folderOf(path)));
    const sources = sideBySide([
      ...entries.map(([path, bytes]) => memorySource(path.slice(folder.length), bytes)),
      ...above.map(([path, bytes]) => memorySource(path.slice(folderOf(path).length), bytes)),
    ]);
    entries.forEach(([path], i) => {
      const source = sources[i];
      if (source && files.has(path)) found.set(path, source);
    });
  }
  return found;
}

/** Unpacks the height files of a zip; `only`: the one of that path. Throws `too-large`, `corrupt` and `not-found`. */
export function heightsOfZip(bytes: Uint8Array, name: string, only?: string): ArchivedHeights {
  const names = namesOf(bytes, name);
  const heights = names.filter((n) => isHeightName(n) && !/(^|\/)(\.[^.]|__MACOSX\/)/.test(n));
  const refused = heights.filter((n) => !staysInside(n));
  if (only !== undefined && refused.includes(only))
    throw new LevelGridError('file-name', {
      file: name,
      found: `"${only}", which leads out of the archive`,
      expected: 'a path inside it',
      remedy: 'Pack the file again under a plain name.',
    });
  const wanted = new Set(heights.filter((n) => staysInside(n) && (only === undefined || n === only)));
  if (wanted.size === 0 && (only !== undefined || refused.length === 0))
    throw new LevelGridError('not-found', {
      file: name,
      found:
        only === undefined
          ? 'neither a pack nor a height file in the archive'
          : `no height file "${only}" in the archive`,
      expected:
        only === undefined ? 'one at least' : heights.filter(staysInside).slice(0, 6).join(', ') || 'one at least',
      remedy: 'Look into the archive: the heights may go by another ending.',
    });
  const beside = new Set(names.filter((n) => isCompanion(n) && staysInside(n)));
  const wantedBeside = ({ name: n, originalSize }: { name: string; originalSize: number }): boolean =>
    beside.has(n) && (!isNote(n) || originalSize <= MOST_COMPANION);
  const found = Object.entries(read(bytes, name, (e) => wanted.has(e.name) || wantedBeside(e)));
  return {
    files: new Map(found.filter(([n]) => wanted.has(n))),
    // a text that says nothing of heights is no note
    companions: new Map(found.filter(([n, data]) => beside.has(n) && (!isNote(n) || saysSomething(data)))),
    refused,
  };
}

/** Names of everything in a zip, which is refused where it would unpack to too much. */
function namesOf(bytes: Uint8Array, name: string): string[] {
  const entries = zipEntries(bytes, name);
  const names = entries.map((entry) => entry.name);
  const unpacked = entries.reduce((sum, entry) => sum + entry.unpacked, 0);
  if (names.length > MOST_ENTRIES || unpacked > MOST_UNPACKED)
    throw new LevelGridError('too-large', {
      file: name,
      found: `${names.length} files of ${formatBytes(unpacked)} unpacked`,
      expected: `at most ${MOST_ENTRIES} files and ${formatBytes(MOST_UNPACKED)}`,
      remedy: 'Unpack it, and bring its files in by themselves.',
    });
  return names;
}

/**
 * The files of a zipped pack: those that lie beside its documents, whatever folders are around them. What lies elsewhere
 * is left. Throws `too-large`, `corrupt`, and `pack-document` where there is no pack in it.
 */
export function filesOfZip(bytes: Uint8Array, name: string): Map<string, Uint8Array> {
  const names = namesOf(bytes, name);
  const [document] = names
    .filter((n) => /(^|\/)(import|recipe)\.json$/.test(n))
    .sort((a, b) => a.split('/').length - b.split('/').length || a.localeCompare(b));
  if (document === undefined)
    throw new LevelGridError('pack-document', {
      file: name,
      found: 'a zip without import.json and recipe.json',
      expected: 'a pack',
      remedy: 'Take a pack as it was written.',
    });
  const folder = document.slice(0, document.lastIndexOf('/') + 1);
  const inFolder = (n: string): boolean =>
    n.startsWith(folder) && n.length > folder.length && !/[/\\]/.test(n.slice(folder.length));
  const found = read(bytes, name, (entry) => inFolder(entry.name));
  return new Map(Object.entries(found).map(([n, data]) => [n.slice(folder.length), data]));
}

/** What a zip that was dropped holds: a pack, or else its height files by their paths. */
export function packOrHeights(bytes: Uint8Array, name: string): ReadonlyMap<string, Uint8Array> {
  try {
    return filesOfZip(bytes, name);
  } catch (reason) {
    if (!(reason instanceof LevelGridError && reason.code === 'pack-document')) throw reason;
    const { files, companions } = heightsOfZip(bytes, name);
    return new Map([...files, ...companions]);
  }
}

/** The entries that are wanted, unpacked: each is of the size and the checksum that the archive says. */
function read(
  bytes: Uint8Array,
  name: string,
  filter: (entry: { name: string; originalSize: number }) => boolean,
): Record<string, Uint8Array> {
  const entries = zipEntries(bytes, name);
  const wanted = new Map<string, ZipEntry>();
  for (const entry of entries) {
    if (!filter({ name: entry.name, originalSize: entry.unpacked })) continue;
    if (wanted.has(entry.name)) throw badZip(name, `"${entry.name}" twice`, 'each file once');
    const why = unreadable(entry);
    if (why !== null) throw badZip(name, `"${entry.name}", ${why}`, 'files that are packed by Deflate, or not at all');
    wanted.set(entry.name, entry);
  }
  if (wanted.size === 0) return {};
  const found = unpacked(bytes, name, (n) => wanted.has(n));
  for (const [entry, { unpacked: size, crc }] of wanted) {
    const data = found[entry];
    if (data?.length !== size) throw badZip(name, `"${entry}" with ${data?.length ?? 0} bytes`, `${size}, as it says`);
    if (crc32(data) !== crc) throw badZip(name, `"${entry}", whose checksum differs from the one it was packed with`);
  }
  return found;
}

/** Why an entry can't be taken; null where it can. */
function unreadable({ locked, link, method }: ZipEntry): string | null {
  if (locked) return 'which is locked by a password';
  if (link) return 'which is a link to another file';
  return method === 0 || method === 8 ? null : `which is packed in a way that is not read (number ${method})`;
}

function unpacked(bytes: Uint8Array, name: string, wanted: (entry: string) => boolean): Record<string, Uint8Array> {
  try {
    return unzipSync(bytes, { filter: (entry) => wanted(entry.name) });
  } catch (cause) {
    throw new LevelGridError('corrupt', {
      file: name,
      found: 'a zip that can’t be unpacked: it is damaged',
      expected: 'an archive that is whole',
      remedy: 'Download or copy it again, or unpack it and take what lies in it.',
      cause,
    });
  }
}
