import { readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import { formatBytes, joinedSources, LevelGridError, type ByteSource } from '../core/base';
import { forTarget } from '../core/edits';
import { parseRecipeText, parseTargetText, type Recipe } from '../core/recipe';
import { BUILT_IN_TARGETS } from '../core/targets';
import { archivedSources, heightsOfZip } from '../core/run';
import { fileSource, nodeInflateThread } from '../io/node';

/** A path as the caller meant it: counted from where they stand, even when npm moved the process. */
export function fromCaller(file: string): string {
  return path.resolve(process.env['INIT_CWD'] ?? process.cwd(), file);
}

/** A recipe is some hundred bytes; whatever is longer is something else, and is not read. */
const MOST_TEXT = 2 ** 20;

export async function readText(file: string): Promise<string> {
  try {
    const { size } = await stat(file);
    if (size <= MOST_TEXT) return await readFile(file, 'utf8');
    throw new LevelGridError('too-large', {
      file: path.basename(file),
      found: `a file of ${formatBytes(size)}`,
      expected: `a recipe: at most ${formatBytes(MOST_TEXT)} of text`,
      remedy: 'Check the path: this may be the height file.',
    });
  } catch (cause) {
    if (cause instanceof LevelGridError) throw cause;
    throw new LevelGridError('not-found', {
      file: path.basename(file),
      found: 'no file that can be read',
      expected: 'a text file',
      remedy: 'Check the path.',
      cause,
    });
  }
}

/** A target that a caller names: one that comes with Level Grid, or a file that describes one. */
export async function readTarget(named: string): Promise<Recipe['target']> {
  if (BUILT_IN_TARGETS.some((t) => t.id === named) || !/[./\\]/.test(named)) return named;
  return parseTargetText(await readText(fromCaller(named)), path.basename(named));
}

/** A recipe that a caller names; `target`: another one for it. */
export async function readRecipe(file: string, target?: string): Promise<Recipe> {
  const recipe = parseRecipeText(await readText(fromCaller(file)), path.basename(file));
  return target === undefined ? recipe : forTarget(recipe, await readTarget(target));
}

const inflateThread = nodeInflateThread(path.join(import.meta.dirname, 'inflate-worker.mjs'));

/** A height file that two threads can share. */
export const heightSource = (file: string): Promise<ByteSource> => fileSource(file, inflateThread);

/** Several files as one source; of an archive, the height files in it. `refused` is told of entries that lead outside. */
export async function heightSources(
  files: readonly string[],
  refused?: (archive: string, entry: string) => void,
): Promise<ByteSource> {
  const parts: ByteSource[] = [];
  for (const file of files) {
    const source = await heightSource(fromCaller(file));
    if (!(await isZip(source))) {
      parts.push(source);
      continue;
    }
    const archive = heightsOfZip(await source.read(0, source.size), source.name);
    parts.push(...archivedSources(archive).values());
    archive.refused.forEach((entry) => refused?.(source.name, entry));
  }
  return joinedSources(parts);
}

/** Whether a file is a zip, by its first bytes: also one without anything in it. */
export async function isZip(source: ByteSource): Promise<boolean> {
  const [p, k, a, b] = await source.read(0, 4);
  return p === 0x50 && k === 0x4b && ((a === 3 && b === 4) || (a === 5 && b === 6));
}

/** The axis of a mesh that is up, as it is typed. */
export function upAxis(text: string): 'y' | 'z' {
  if (text === 'y' || text === 'z') return text;
  throw new LevelGridError('usage', {
    found: `"${text}" as the axis that is up`,
    expected: 'y or z',
    remedy: 'Example: --up z',
  });
}
