import {
  bundleHead,
  COMPANION_ENDINGS,
  goesWith,
  HEIGHT_ENDINGS,
  isCompanion,
  isHeightName,
  isNote,
  MOST_COMPANION,
  NOTE_ENDINGS,
} from '../core/formats';
import { readNote } from '../core/notes';

/** Endings of height files and of what may lie beside them. */
export const SOURCE_ENDINGS: readonly string[] = [
  ...HEIGHT_ENDINGS,
  ...[...COMPANION_ENDINGS, ...NOTE_ENDINGS].map((e) => `.${e}`),
];

/** The folder that a dropped file lies in; empty where it came alone, and where files know of no folders. */
const folderOf = (file: Partial<Pick<File, 'webkitRelativePath'>>): string =>
  (file.webkitRelativePath ?? '').replace(/[^/]*$/, '');

/** Files that belong together, as one under the name of the first. */
function bundled(heights: File, companions: readonly File[], name = heights.name): File {
  // always in the same order, so that the same files are the same bytes
  const files = [heights, ...[...companions].sort((a, b) => (a.name < b.name ? -1 : 1))];
  return new File([bundleHead(files), ...files], name, { lastModified: heights.lastModified });
}

/** What names of several files begin with, without what is left of a number or a letter in front of it. */
export function commonName(files: readonly File[]): string {
  const [first = '', ...others] = files.map((f) => f.name.replace(/\.[^.]*$/, ''));
  let length = first.length;
  for (const name of others) while (!name.startsWith(first.slice(0, length))) length--;
  const name = first
    .slice(0, length)
    .replace(/\d+$/, '')
    .replace(/[-_ .]*(?<![a-z])[a-z]?$/i, '');
  return name === '' ? first : name;
}

const NO_NOTES: ReadonlySet<File> = new Set();

/** The texts among files that say something of heights; others are no notes, whatever they are called. */
export async function notesAmong(files: readonly File[]): Promise<ReadonlySet<File>> {
  const found = new Set<File>();
  for (const file of files)
    if (isNote(file.name) && file.size <= MOST_COMPANION && readNote(await file.text())) found.add(file);
  return found;
}

/** Whether a file goes with a height file; `notes`: those texts that do. */
export const goesAlong = (file: File, notes: ReadonlySet<File>): boolean =>
  isNote(file.name) ? notes.has(file) : isCompanion(file.name);

/** Height files, and what lies beside them, as one. */
export function allAsOne(files: readonly File[], name: string): File {
  return bundled(files[0]!, files.slice(1), name);
}

/** The first height file among these, with what belongs to it. */
export const heightsAmong = (files: readonly File[]): File | null =>
  together(files).find((f) => !isCompanion(f.name)) ?? null;

/**
 * Height files with what lies beside them and says something of them (headers, coordinate systems, these notes), each
 * as one. Other files, and companions of nothing, stay as they are.
 */
export function together(files: readonly File[], notes = NO_NOTES): File[] {
  const companions = files.filter((f) => goesAlong(f, notes));
  if (companions.length === 0) return [...files];
  const heights = files.filter((f) => isHeightName(f.name) && !isCompanion(f.name));
  // a note that bears the name of no height file goes with all of them
  const common = companions.filter((c) => isNote(c.name) && !heights.some((f) => goesWith(c.name, f.name)));
  const taken = new Set<File>();
  const out = files
    .filter((f) => !companions.includes(f))
    .map((file) => {
      if (!isHeightName(file.name)) return file;
      const own = companions.filter(
        (c) =>
          (folderOf(c) === folderOf(file) && goesWith(c.name, file.name)) ||
          (common.includes(c) && folderOf(file).startsWith(folderOf(c))),
      );
      own.forEach((c) => taken.add(c));
      return own.length > 0 ? bundled(file, own) : file;
    });
  return [...out, ...companions.filter((c) => !taken.has(c))];
}
