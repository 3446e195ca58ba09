import { LevelGridError } from '../base';

/** The recipe version that this Level Grid writes. */
export const RECIPE_VERSION = 4;

type Json = Record<string, unknown>;

const part = (recipe: Json, key: string): Json | null => {
  const value = recipe[key];
  return typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Json) : null;
};

/** Keys that version 1 did not have: in a file of that version they are slips. */
const NEW_IN_2: readonly (readonly [string | null, string])[] = [
  [null, 'draft'],
  ['fit', 'voids'],
  ['height', 'exaggeration'],
];

/**
 * `recipe/2`: overshoot is held unless said otherwise (it was not before), placeholders are named one by one, and
 * there are exaggeration, an elevation for voids, and the range of the codes.
 */
function toVersion2(recipe: Json, file: string | null): Json {
  for (const [group, key] of NEW_IN_2) {
    const holder = group === null ? recipe : part(recipe, group);
    if (holder && key in holder) {
      throw new LevelGridError('recipe-key', {
        file,
        found: `"${group === null ? key : `${group}.${key}`}" in a recipe of version 1`,
        expected: 'only keys of version 1',
        remedy: 'Write version 2 to use it.',
      });
    }
  }
  const fit = part(recipe, 'fit');
  const source = part(recipe, 'source');
  const assumed = source?.['assumed'] === true;
  return {
    ...recipe,
    version: 2,
    ...(fit ? { fit: { ...fit, clamp: fit['clamp'] ?? false } } : {}),
    ...(source && assumed
      ? { source: { ...source, assumed: [...('low' in source ? ['low', 'high'] : []), 'spacing'] } }
      : {}),
  };
}

/** `recipe/3`: what the numbers of a source stand for is one of several kinds, and a curve can be undone. */
function toVersion3(recipe: Json, file: string | null): Json {
  const source = part(recipe, 'source');
  if (!source) return { ...recipe, version: 3 };
  for (const key of ['heights', 'curve']) {
    if (key in source) throw newKey(`source.${key}`, recipe['version'], 3, file);
  }
  const { low, high, ...rest } = source;
  if ((low === undefined) !== (high === undefined)) {
    throw new LevelGridError('recipe-value', {
      file,
      found: `no ${low === undefined ? 'elevation of code 0 ("source.low")' : 'elevation of the highest code ("source.high")'}`,
      expected: 'low and high belong together',
      remedy: `Correct source.${low === undefined ? 'low' : 'high'}.`,
    });
  }
  const heights = low === undefined ? { as: 'elevations' } : { as: 'ends', low, high };
  return { ...recipe, version: 3, source: { ...rest, heights } };
}

/** What version 3 said of the reading of a source, and version 4 of steps: how it is told there, in the order in which it was done. */
const BECAME_STEPS: readonly (readonly [key: string, step: (value: unknown) => Json])[] = [
  ['blend', (reach) => ({ op: 'blend', reach })],
  ['squares', (squares) => ({ op: 'reproject', ...(squares as Json) })],
  ['curve', (curve) => ({ op: 'linearise', curve })],
];

/** `recipe/4`: what is done to the ground before the fit are steps, in order. Squares and a curve excluded each other. */
function toVersion4(recipe: Json, file: string | null): Json {
  const source = part(recipe, 'source');
  if (!source) return { ...recipe, version: 4 };
  const steps = BECAME_STEPS.flatMap(([key, step]) => (source[key] === undefined ? [] : [step(source[key])]));
  checkVersion3(source, file);
  const rest = Object.fromEntries(Object.entries(source).filter(([key]) => !BECAME_STEPS.some(([k]) => k === key)));
  return { ...recipe, version: 4, source: rest, ...(steps.length > 0 ? { steps } : {}) };
}

/** What of a source version 3 did not allow together. */
function checkVersion3(source: Json, file: string | null): void {
  const { curve, squares, blend, spacing, files, heights } = source;
  const fault = (key: string, expected: string): LevelGridError =>
    new LevelGridError('recipe-value', {
      file,
      found: `"source.${key}" beside the other choices of the source`,
      expected,
      remedy: `Correct source.${key}.`,
    });
  const as = typeof heights === 'object' && heights !== null ? (heights as Json)['as'] : undefined;
  if (squares !== undefined) {
    if (typeof squares !== 'object' || squares === null || Array.isArray(squares))
      throw fault('squares', 'a zone and a spacing');
    if ((squares as Json)['spacing'] !== spacing) throw fault('spacing', 'the spacing of the squares');
    if (curve !== undefined) throw fault('curve', 'no curve on a raster in degrees');
  }
  if (blend !== undefined && (files === undefined || curve !== undefined))
    throw fault('blend', 'several files without a display curve, whose seams are blended');
  if (blend !== undefined && as === 'ends') throw fault('heights', 'heights by step and base where seams are blended');
}

const newKey = (key: string, version: unknown, since: number, file: string | null): LevelGridError =>
  new LevelGridError('recipe-key', {
    file,
    found: `"${key}" in a recipe of version ${String(version)}`,
    expected: 'only keys of that version',
    remedy: `Write version ${since} to use it.`,
  });

const STEPS: Readonly<Record<number, (recipe: Json, file: string | null) => Json>> = {
  1: toVersion2,
  2: toVersion3,
  3: toVersion4,
};

/** A recipe of any known version, carried over to the newest step by step. Throws `recipe-version` for others. */
export function migrateRecipe(recipe: Json, file: string | null): Json {
  const given = recipe['version'];
  if ('steps' in recipe && typeof given === 'number' && Object.hasOwn(STEPS, given))
    throw newKey('steps', given, 4, file);
  let current = recipe;
  while (current['version'] !== RECIPE_VERSION) {
    const version = current['version'];
    const step = typeof version === 'number' && Object.hasOwn(STEPS, version) ? STEPS[version] : undefined;
    if (!step) {
      throw new LevelGridError('recipe-version', {
        file,
        found:
          version === undefined
            ? 'no recipe version'
            : `unknown recipe version ${String(JSON.stringify(version)).slice(0, 40)}`,
        expected: `a version from 1 to ${RECIPE_VERSION}`,
        remedy: `Open it with the Level Grid that wrote it, or write version ${RECIPE_VERSION}.`,
      });
    }
    current = step(current, file);
  }
  return current;
}
