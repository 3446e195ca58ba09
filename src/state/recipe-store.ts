import { create } from 'zustand';
import { temporal } from 'zundo';
import { parseRecipe, type Recipe } from '../core/recipe';

export interface RecipeState {
  readonly recipe: Recipe | null;
}

/** The document. Undo is a list of recipes. */
export const useRecipe = create<RecipeState>()(
  temporal((): RecipeState => ({ recipe: null }), {
    limit: 200,
    equality: (a, b) => JSON.stringify(a.recipe) === JSON.stringify(b.recipe),
  }),
);

/** Replaces the recipe by an edited one, checked. Throws a typed error and changes nothing where it is not valid. */
export function editRecipe(change: (recipe: Recipe) => unknown): void {
  const { recipe } = useRecipe.getState();
  if (recipe) useRecipe.setState({ recipe: parseRecipe(JSON.parse(JSON.stringify(change(recipe)))) });
}

/** A recipe with one value replaced, by its path; what a repair of a check does. */
export function withValue(recipe: Recipe, path: readonly string[], value: unknown): unknown {
  const copy = structuredClone(recipe) as Record<string, unknown>;
  let at = copy;
  for (const key of path.slice(0, -1)) at = (at[key] ??= {}) as Record<string, unknown>;
  const last = path.at(-1);
  if (last !== undefined) at[last] = value;
  return copy;
}

/** Starts another document: there is nothing to undo in it yet. */
export function loadRecipe(recipe: Recipe | null): void {
  useRecipe.setState({ recipe });
  useRecipe.temporal.getState().clear();
}

/** The document with everything that can be undone and redone in it, to come back to. */
export function keepRecipe(): () => void {
  const { recipe } = useRecipe.getState();
  const { pastStates, futureStates } = useRecipe.temporal.getState();
  return () => {
    useRecipe.setState({ recipe });
    useRecipe.temporal.setState({ pastStates, futureStates });
  };
}

export const undo = (): void => {
  useRecipe.temporal.getState().undo();
};
export const redo = (): void => {
  useRecipe.temporal.getState().redo();
};
