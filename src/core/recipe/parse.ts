import * as z from 'zod';
import { LevelGridError, oneLine, parseJson, type JsonKind } from '../base';
import { targetSchema } from '../targets';
import { migrateRecipe } from './migrate';
import { recipeSchema, storedSize, type Recipe } from './schema';
import { inWords, isMissing, shown } from './words';

/** Checks a recipe of any version that came from outside, carries it over and fills in its defaults. */
export function parseRecipe(value: unknown, file: string | null = null): Recipe {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) {
    throw new LevelGridError('recipe-syntax', {
      file,
      found: Array.isArray(value) ? 'a list' : value === null ? 'null' : `a ${typeof value}`,
      expected: 'a recipe: an object with version, source, target and fit',
      remedy: 'Check that this is the recipe file.',
    });
  }
  const recipe = sizedByTiles(migrateRecipe(value as Record<string, unknown>, file));
  const described = recipe['target'];
  // told by its own keys, not as one of two kinds of target
  if (typeof described === 'object' && described !== null) {
    const target = targetSchema.safeParse(described);
    if (!target.success) {
      const issues = target.error.issues.map((issue) => ({ ...issue, path: ['target', ...issue.path] }));
      throw documentError(new z.ZodError(issues), 'recipe', file, value);
    }
  }
  const result = recipeSchema.safeParse(recipe);
  if (result.success) return result.data;
  throw documentError(asWritten(result.error, recipe, value), 'recipe', file, value);
}

/** A recipe that says tiles and no size gets the size that they make. */
function sizedByTiles(recipe: Record<string, unknown>): Record<string, unknown> {
  const fit = z
    .looseObject({
      size: z.never().optional(),
      tiles: z.union([z.int().min(1), z.tuple([z.int().min(1), z.int().min(1)])]),
      tileSide: z.int().min(2),
      sharedRow: z.boolean().optional(),
    })
    .safeParse(recipe['fit']);
  const size = fit.success ? storedSize(fit.data) : null;
  if (!fit.success || !size) return recipe;
  return { ...recipe, fit: { ...fit.data, size: size[0] === size[1] ? size[0] : size } };
}

/** What a step was called as a part of the source. */
const AS_PART: Readonly<Record<string, string>> = { blend: 'blend', reproject: 'squares', linearise: 'curve' };

/** Faults by the keys of the version that the recipe was written in. */
function asWritten(error: z.ZodError, recipe: Record<string, unknown>, value: object): z.ZodError {
  const version = (value as { version?: unknown }).version;
  if (recipe['version'] === version) return error;
  const issues = error.issues.map((issue) => {
    const [group, part, key] = issue.path;
    if (group === 'steps') return { ...issue, path: partOfStep(issue.path, recipe) };
    const ends = group === 'source' && part === 'heights' && (key === 'low' || key === 'high');
    return ends && version !== 3 ? { ...issue, path: [group, key] } : issue;
  });
  return new z.ZodError(issues);
}

/** A step was a part of the source in earlier versions. */
function partOfStep(path: readonly PropertyKey[], recipe: Record<string, unknown>): PropertyKey[] {
  const steps = recipe['steps'] as readonly { op?: unknown }[];
  const op = String(steps[Number(path[1])]?.op);
  const own = path.slice(2);
  const part = AS_PART[op] ?? op;
  return op === 'reproject' ? ['source', part, ...own] : ['source', part];
}

const RECIPE: JsonKind = {
  words: 'recipe',
  code: 'recipe-syntax',
  limits: { length: 2 ** 18, depth: 16 },
  remedy: 'Correct the text, or export the recipe again.',
};

/** Recipe text (JSON) as a recipe. */
export function parseRecipeText(text: string, file: string | null = null): Recipe {
  return parseRecipe(parseJson(text, RECIPE, file), file);
}

/** The first thing wrong with a document, as a typed error naming the choice, its key and its value. */
export function documentError(error: z.ZodError, kind: string, file: string | null, document: unknown): LevelGridError {
  const issue = error.issues[0];
  const keys = issue?.path.map(String) ?? [];
  const path = keys.join('.');
  const value = shown(document, keys);
  if (issue?.code === 'unrecognized_keys') {
    const named = issue.keys
      .slice(0, 3)
      .map((k) => `"${oneLine(`${path === '' ? '' : `${path}.`}${k}`).slice(0, 60)}"`);
    const more = issue.keys.length - named.length;
    const unknown = `${named.join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
    return new LevelGridError('recipe-key', {
      file,
      found: `unknown key ${unknown} in the ${kind}`,
      expected: 'only keys that this version has',
      remedy: 'Correct the spelling or remove it.',
    });
  }
  const missing = path !== '' && isMissing(document, keys);
  return new LevelGridError('recipe-value', {
    file,
    found:
      path === ''
        ? `a ${kind} that can’t be used`
        : missing
          ? `nothing as ${inWords(keys)}`
          : value === null
            ? `a value that can’t be used as ${inWords(keys)}`
            : `${value} as ${inWords(keys)}`,
    expected: plain(issue),
    remedy: `${missing ? 'Give' : 'Correct'} ${path === '' ? `the ${kind}` : path}.`,
  });
}

/** One issue in plain words. */
function plain(issue: z.core.$ZodIssue | undefined): string {
  // eslint-disable-next-line @typescript-eslint/switch-exhaustiveness-check -- the library's other kinds keep its own words
  switch (issue?.code) {
    case 'invalid_type':
      return `${/^[aeiou]/.test(issue.expected) ? 'an' : 'a'} ${issue.expected}`;
    case 'invalid_value':
      return `one of ${issue.values.map(String).join(', ')}`;
    case 'too_small':
      if (issue.origin === 'number' && issue.minimum === 0 && issue.inclusive === false) return 'more than 0';
      return `at least ${issue.minimum}`;
    case 'too_big':
      return `at most ${issue.maximum}`;
    case 'custom':
      return issue.message;
    case 'invalid_union':
      return 'discriminator' in issue ? 'one that this version knows' : 'a value of another kind';
    default:
      return issue?.message.toLowerCase() ?? 'another value';
  }
}
