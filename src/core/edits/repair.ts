import type { Recipe } from '../recipe';

/** One part of a recipe, by its path, and what it becomes. */
export interface Replacing {
  readonly path: readonly string[];
  readonly value?: unknown;
}

/** A recipe with one part replaced, by its path; an empty path is all of it. What a repair of a check does. */
export function repaired(recipe: Recipe, { path, value }: Replacing): unknown {
  if (path.length === 0) return value;
  const copy = structuredClone(recipe) as Record<string, unknown>;
  let at = copy;
  for (const key of path.slice(0, -1)) at = (at[key] ??= {}) as Record<string, unknown>;
  const last = path.at(-1);
  if (last !== undefined) at[last] = value;
  return copy;
}

/** Another name of the project, which the names of its files follow. */
export function renamed(recipe: Recipe, name: string): Recipe {
  return { ...recipe, name };
}
