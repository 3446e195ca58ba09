import type { Recipe } from '../recipe';

/** How files are written. */
export function withOutput(recipe: Recipe, values: Partial<Recipe['output']>): Recipe {
  return { ...recipe, output: { ...recipe.output, ...values } };
}
