import path from 'node:path';
import { LevelGridError } from '../core/base';
import { applyEdit, EDIT_NAMES, rereads } from '../core/edits';
import { parseRecipeText, type Recipe } from '../core/recipe';
import { DiskFolder } from '../io/node';
import { fromCaller, readText } from './files';
import { namingItsRecipe } from './plan';
import type { CommandResult } from './output';

/** A recipe with one change, by its name: to standard output, or into a file. No source is read. */
export async function editCommand(
  file: string,
  name: string,
  given: readonly string[],
  options: { out?: string },
): Promise<CommandResult> {
  const recipe = await namingItsRecipe(file, async () =>
    parseRecipeText(await readText(fromCaller(file)), path.basename(file)),
  );
  const call = { edit: name, args: argsOf(given) };
  const next = await namingItsRecipe(file, async () => applyEdit(recipe, call));
  const text = JSON.stringify(next, null, 2);
  if (options.out === undefined) return { json: next, text, fine: true };
  await writeRecipe(fromCaller(options.out), text);
  return {
    json: { written: path.basename(options.out), edit: name, rereads: rereads(call), recipe: next satisfies Recipe },
    text: `${path.basename(options.out)}: ${name}${rereads(call) ? '; the source is read in another way now' : ''}`,
    fine: true,
  };
}

/** Whole or not at all. */
async function writeRecipe(out: string, text: string): Promise<void> {
  const name = path.basename(out);
  const folder = await DiskFolder.open(path.dirname(out), { sources: [], replace: true });
  try {
    await folder.prepare([name]);
    const sink = await folder.open(name);
    await sink.write(new TextEncoder().encode(`${text}\n`));
    await sink.close();
    await folder.commit();
  } finally {
    await folder.abort();
  }
}

/** `key=JSON`, several times; a word that is no JSON is taken as it stands. */
function argsOf(given: readonly string[]): Record<string, unknown> {
  return Object.fromEntries(
    given.map((text): [string, unknown] => {
      const at = text.indexOf('=');
      if (at < 1)
        throw new LevelGridError('usage', {
          found: `"${text}" as an argument of an edit`,
          expected: 'key=JSON',
          remedy: 'Example: level-grid edit recipe.json spacing spacing=2.5',
        });
      const value = text.slice(at + 1);
      try {
        return [text.slice(0, at), JSON.parse(value) as unknown];
      } catch {
        return [text.slice(0, at), value];
      }
    }),
  );
}

/** The names of all edits, for the help of the command. */
export const editNames = (): string => EDIT_NAMES.join(', ');
