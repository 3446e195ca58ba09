import { LevelGridError, parseJson, type JsonKind } from '../base';
import { planDocumentSchema, type PlanDocument } from '../plan';
import { documentError, parseRecipe, type Recipe } from '../recipe';

const DOCUMENT: JsonKind = {
  words: 'document',
  code: 'pack-document',
  limits: { length: 64 * 2 ** 20, depth: 24 },
  remedy: 'Drop a recipe, an import.json or a pack as Level Grid writes them.',
};

/** What a document says: the choices, and where it is an import page, the values that they gave. */
export interface PackDocuments {
  readonly recipe: Recipe;
  readonly document: PlanDocument | null;
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** A recipe or an `import.json`, told apart by what it holds. Throws where it is neither. */
export function readDocument(text: string, file: string): PackDocuments {
  const value = parseJson(text, DOCUMENT, file);
  if (isRecord(value) && 'card' in value) return readPage(value, file);
  if (!isRecord(value) || !('target' in value))
    throw new LevelGridError('pack-document', {
      file,
      found: 'JSON that is neither a recipe nor an import page',
      expected: 'recipe.json or import.json as Level Grid writes them',
      remedy: 'Drop one of these, or the whole pack.',
    });
  return { recipe: parseRecipe(value, file), document: null };
}

function readPage(value: Record<string, unknown>, file: string): PackDocuments {
  if (!('recipe' in value))
    throw new LevelGridError('pack-document', {
      file,
      found: 'an import page without its recipe, from an earlier version',
      expected: 'one that holds it',
      remedy: 'Drop the recipe.json of the same pack, or the whole pack.',
    });
  const recipe = parseRecipe(value['recipe'], file);
  const page = planDocumentSchema.safeParse({ ...value, recipe });
  if (!page.success) throw documentError(page.error, 'import page', file, value);
  return { recipe, document: page.data };
}

/** The documents of a whole pack. Packs of earlier versions have the recipe in recipe.json alone. */
export function readPack(recipeText: string, pageText: string | null): PackDocuments {
  const { recipe } = readDocument(recipeText, 'recipe.json');
  if (pageText === null) return { recipe, document: null };
  const value = parseJson(pageText, DOCUMENT, 'import.json');
  return readPage(isRecord(value) ? { recipe, ...value } : {}, 'import.json');
}
