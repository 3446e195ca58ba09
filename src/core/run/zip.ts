import { makeZip } from 'client-zip';
import { unzipSync } from 'fflate';
import { formatBytes, LevelGridError, piecesOf, type ByteSource } from '../base';

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

/**
 * The files of a zipped pack: those that lie beside its documents, whatever folders are around them. What lies elsewhere
 * is left. Throws `too-large`, `corrupt`, and `pack-document` where there is no pack in it.
 */
export function filesOfZip(bytes: Uint8Array, name: string): Map<string, Uint8Array> {
  const names: string[] = [];
  let unpacked = 0;
  read(bytes, name, (entry) => {
    names.push(entry.name);
    unpacked += entry.originalSize;
    return false;
  });
  if (names.length > MOST_ENTRIES || unpacked > MOST_UNPACKED)
    throw new LevelGridError('too-large', {
      file: name,
      found: `${names.length} files of ${formatBytes(unpacked)} unpacked`,
      expected: `at most ${MOST_ENTRIES} files and ${formatBytes(MOST_UNPACKED)}`,
      remedy: 'Unpack it, and prove the folder on the command line.',
    });
  const [document] = names
    .filter((n) => /(^|\/)(import|recipe)\.json$/.test(n))
    .sort((a, b) => a.split('/').length - b.split('/').length || a.localeCompare(b));
  if (document === undefined)
    throw new LevelGridError('pack-document', {
      file: name,
      found: 'a zip without import.json and recipe.json',
      expected: 'a pack',
      remedy: 'If a heightmap lies in it, unpack it and bring that in.',
    });
  const folder = document.slice(0, document.lastIndexOf('/') + 1);
  const inFolder = (n: string): boolean =>
    n.startsWith(folder) && n.length > folder.length && !/[/\\]/.test(n.slice(folder.length));
  const found = read(bytes, name, (entry) => inFolder(entry.name));
  return new Map(Object.entries(found).map(([n, data]) => [n.slice(folder.length), data]));
}

function read(
  bytes: Uint8Array,
  name: string,
  filter: (entry: { name: string; originalSize: number }) => boolean,
): Record<string, Uint8Array> {
  try {
    return unzipSync(bytes, { filter });
  } catch (cause) {
    throw new LevelGridError('corrupt', {
      file: name,
      found: 'a zip that can’t be read: cut short, damaged, or locked',
      expected: 'a zip as Level Grid writes it',
      remedy: 'Download or copy it again, or drop the unpacked folder.',
      cause,
    });
  }
}
