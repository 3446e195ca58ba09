import { LevelGridError, parseJson, type JsonKind } from '../base';
import { documentError, parseRecipe, parseRecipeText, RECIPE_VERSION, type Recipe } from '../recipe';
import { MOST_TEXT, readPackText } from './pack-files';
import { pageSchema, readPages, type Page, type PrintedPages, type ReadPages } from './twin';
import type { ProofCheck, ProofInput } from './types';

const PAGE: JsonKind = {
  words: 'pack document',
  code: 'pack-document',
  limits: { length: MOST_TEXT, depth: 24 },
  remedy: 'Make the pack again.',
};

/** The documents of a pack. */
export interface Documents {
  readonly page: Page;
  /** import.json as it stands. */
  readonly written: unknown;
  readonly recipe: Recipe;
  /** The printed pages: as text, and as a person reads them; null where one is missing. */
  readonly text: PrintedPages;
  readonly pages: ReadPages;
  /** Written by this version, as its recipe says: it has all that such a pack must have. */
  readonly current: boolean;
}

/** The documents of a pack, read and checked. */
export async function readDocuments(input: ProofInput): Promise<Documents> {
  const text = await readPackText(await input.file('import.json'), 'import.json');
  const value = parseJson(text, PAGE, 'import.json');
  if (typeof value === 'object' && value !== null && 'card' in value && !('source' in value)) {
    throw new LevelGridError('pack-document', {
      file: 'import.json',
      found: 'a pack that an earlier Level Grid has written, which does not say enough of its source to be proved',
      expected: 'a pack of this version',
      remedy: 'Make it again: its recipe.json is opened as it is, and gives the same heights.',
    });
  }
  const page = pageSchema.safeParse(value);
  if (!page.success) throw documentError(page.error, 'pack document', 'import.json', value);
  const recipeText = await readPackText(await input.file('recipe.json'), 'recipe.json');
  const recipe = parseRecipeText(recipeText, 'recipe.json');
  const printed = async (name: string): Promise<string | null> => {
    const source = await input.file(name);
    return source ? readPackText(source, name).catch(() => null) : null;
  };
  const printedText = { markdown: await printed('import.md'), html: await printed('import.html') };
  return {
    page: page.data,
    written: value,
    recipe,
    current: (JSON.parse(recipeText) as { version?: unknown }).version === RECIPE_VERSION,
    text: printedText,
    pages: await readPages(printedText),
  };
}

/** The page opens as a project by the recipe in it: there are not two. */
export function recipeCheck(page: Page, recipe: Recipe, current: boolean): ProofCheck[] {
  if (page.recipe === undefined && current)
    return [
      {
        id: 'two-recipes',
        step: 'output',
        state: 'fault',
        message: 'import.json does not hold the recipe: it can’t be opened as a project.',
      },
    ];
  if (page.recipe === undefined || same(page.recipe, recipe)) return [];
  return [
    {
      id: 'two-recipes',
      step: 'output',
      state: 'fault',
      message: 'import.json holds another recipe than recipe.json: the values of one may not be those of the other.',
    },
  ];
}

function same(value: unknown, recipe: Recipe): boolean {
  try {
    return JSON.stringify(parseRecipe(value)) === JSON.stringify(recipe);
  } catch {
    return false;
  }
}
