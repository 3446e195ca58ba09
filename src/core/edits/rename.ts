import type { Recipe } from '../recipe';

/** Another name of the project, which the names of its files follow. */
export function renamed(recipe: Recipe, name: string): Recipe {
  return { ...recipe, name };
}
