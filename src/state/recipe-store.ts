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

/** Called when a step back or forth has been taken, with the recipe before and after it. */
type Stepped = (from: Recipe | null, to: Recipe | null) => void;
let stepped: Stepped = () => undefined;

/** Who else must follow a step in the history: the source, where it was replaced. */
export function onHistoryStep(follow: Stepped): void {
  stepped = follow;
}

function step(move: () => void): void {
  const from = useRecipe.getState().recipe;
  move();
  const to = useRecipe.getState().recipe;
  if (from !== to) stepped(from, to);
}

export const undo = (): void => step(() => useRecipe.temporal.getState().undo());
export const redo = (): void => step(() => useRecipe.temporal.getState().redo());
