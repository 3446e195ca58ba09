import {
  asLevelGridError,
  checkpoint,
  LevelGridError,
  piecesOf,
  portableSha256,
  type ByteSource,
  type JobContext,
} from '../base';
import type { Page } from './twin';
import type { ProofCheck, ProofInput } from './types';

/** Presence and checksums of every file of the document. */
export async function checkFiles(
  input: ProofInput,
  document: Pick<Page, 'files'>,
  checks: ProofCheck[],
  job: JobContext,
): Promise<{ sources: ByteSource[]; readable: boolean }> {
  const { hasher = portableSha256 } = input;
  const sources: ByteSource[] = [];
  const missing: string[] = [];
  const changed: string[] = [];
  for (const [i, file] of document.files.entries()) {
    checkpoint(job);
    const source = await input.file(file.name);
    if (!source) {
      missing.push(file.name);
      continue;
    }
    sources.push(source);
    if (file.sha256 === undefined) continue;
    const hash = await hasher();
    for await (const piece of piecesOf(source)) hash.update(piece);
    if (hash.digest() !== file.sha256) changed.push(file.name);
    job.report?.(i + 1, document.files.length);
  }
  if (missing.length > 0) {
    checks.push({
      id: 'files',
      step: 'output',
      state: 'fault',
      message: `${missing.length === 1 ? 'A file is' : `${missing.length} files are`} missing: ${missing.join(', ')}.`,
    });
  } else
    checks.push({
      id: 'files',
      step: 'output',
      state: 'holds',
      message: `${document.files.length === 1 ? 'The file is' : `All ${document.files.length} files are`} there.`,
    });
  const surplus = surplusFiles(input.others ?? [], document);
  if (surplus.length > 0)
    checks.push({
      id: 'surplus',
      step: 'output',
      state: 'fault',
      message: `${surplus.join(', ')} ${surplus.length === 1 ? 'lies' : 'lie'} among the files and ${surplus.length === 1 ? 'is' : 'are'} none of this pack: imported with the others, it is one too many.`,
    });
  if (changed.length > 0) {
    checks.push({
      id: 'checksums',
      step: 'output',
      state: input.ignoreChecksums ? 'caution' : 'fault',
      message: `${changed.join(', ')} ${changed.length === 1 ? 'is' : 'are'} not as written: the checksum differs.`,
    });
  } else if (document.files.some((f) => f.sha256 !== undefined))
    checks.push({
      id: 'checksums',
      step: 'output',
      state: 'holds',
      message: 'Every file has the checksum it was written with.',
    });
  return { sources, readable: missing.length === 0 };
}

/** Files named like those of the pack which it does not list; drafts have names of their own. */
function surplusFiles(others: readonly string[], { files }: Pick<Page, 'files'>): string[] {
  const listed = new Set(files.map((f) => f.name));
  const shape = (name: string): string => name.replace(/-draft\d+/, '\0').replace(/\d+/g, '0');
  const shapes = new Set(files.map((f) => shape(f.name)));
  return others.filter((name) => !listed.has(name) && shapes.has(shape(name)));
}

/** The longest document of a pack, in bytes. */
export const MOST_TEXT = 64 * 2 ** 20;

/** The text of a document of a pack. Throws `not-found`. */
export async function readPackText(source: ByteSource | null, name: string): Promise<string> {
  if (!source || source.size > MOST_TEXT) {
    throw new LevelGridError('not-found', {
      file: name,
      found: source ? `${source.size} bytes` : 'no such file in the pack',
      expected: 'the documents of a pack: import.json and recipe.json',
      remedy: 'Point at a folder that a run has written.',
    });
  }
  try {
    return new TextDecoder().decode((await source.read(0, source.size)).slice());
  } catch (reason) {
    throw asLevelGridError(reason, 'reading the pack', name);
  }
}
