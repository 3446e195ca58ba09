import {
  asLevelGridError,
  checkpoint,
  LevelGridError,
  piecesOf,
  portableSha256,
  type ByteSource,
  type JobContext,
} from '../base';
import type { ProofCheck, ProofInput } from './types';

/** Presence and checksums of every file of the document. */
export async function checkFiles(
  input: ProofInput,
  checks: ProofCheck[],
  job: JobContext,
): Promise<{ sources: ByteSource[]; readable: boolean }> {
  const { document, hasher = portableSha256 } = input;
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
      state: 'fault',
      message: `${missing.length === 1 ? 'A file is' : `${missing.length} files are`} missing: ${missing.join(', ')}.`,
    });
  } else
    checks.push({
      id: 'files',
      state: 'holds',
      message: `${document.files.length === 1 ? 'The file is' : `All ${document.files.length} files are`} there.`,
    });
  const surplus = (input.others ?? []).filter(
    (name) => /\.(png|raw)$/i.test(name) && !document.files.some((f) => f.name === name),
  );
  if (surplus.length > 0)
    checks.push({ id: 'surplus', state: 'caution', message: `Not part of this pack: ${surplus.join(', ')}.` });
  if (changed.length > 0) {
    checks.push({
      id: 'checksums',
      state: input.ignoreChecksums ? 'caution' : 'fault',
      message: `${changed.join(', ')} ${changed.length === 1 ? 'is' : 'are'} not as written: the checksum differs.`,
    });
  } else if (document.files.some((f) => f.sha256 !== undefined))
    checks.push({ id: 'checksums', state: 'holds', message: 'Every file has the checksum it was written with.' });
  return { sources, readable: missing.length === 0 };
}

/** The documents of a pack, read and checked. */
export async function readPackText(source: ByteSource | null, name: string): Promise<string> {
  const MAX = 64 * 2 ** 20;
  if (!source || source.size > MAX) {
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
