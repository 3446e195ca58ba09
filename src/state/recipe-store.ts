import { create } from 'zustand';
import { temporal } from 'zundo';
import { parseRecipe, type Recipe } from '../core/recipe';

/** Values as they were really typed into the target, by the row of the card, where they differ from it. */
export type Typed = Readonly<Record<string, number | string>>;

/** The document: every choice, the project's name among them, what was typed into the target, and for which source. */
export interface RecipeState {
  readonly recipe: Recipe | null;
  readonly typed: Typed;
  /** Tells a source from the one it replaced: even where no choice differs, undo takes the old one back. */
  readonly source: number;
}

/** Undo is a list of documents. */
export const useRecipe = create<RecipeState>()(
  temporal((): RecipeState => ({ recipe: null, typed: {}, source: 0 }), {
    limit: 200,
    equality: (a, b) => JSON.stringify(a) === JSON.stringify(b),
  }),
);

/**
 * Replaces the recipe by an edited one, checked; `source`: it is for another one from now on. Throws a typed error and
 * changes nothing where it is not valid.
 */
export function editRecipe(change: (recipe: Recipe) => unknown, source = useRecipe.getState().source): void {
  const { recipe, typed } = useRecipe.getState();
  if (!recipe) return;
  const next = parseRecipe(JSON.parse(JSON.stringify(change(recipe))));
  // another target was told nothing yet
  useRecipe.setState({ recipe: next, typed: next.target === recipe.target ? typed : {}, source });
}

/** Until `resumeUndo`, edits change the document and are no steps of their own: a drag is undone at once. */
export const pauseUndo = (): void => useRecipe.temporal.getState().pause();
export const resumeUndo = (): void => useRecipe.temporal.getState().resume();

/** Notes what was typed into the target for one row of the card; null: as on the card. */
export function noteTyped(row: string, value: number | string | null): void {
  const { [row]: _, ...others } = useRecipe.getState().typed;
  useRecipe.setState({ typed: value === null ? others : { ...others, [row]: value } });
}

/** Everything was typed as on the card. */
export function typedAsOnCard(): void {
  useRecipe.setState({ typed: {} });
}

/** Starts another document: there is nothing to undo in it yet. */
export function loadRecipe(recipe: Recipe | null, typed: Typed = {}): void {
  useRecipe.setState({ recipe, typed, source: 0 });
  useRecipe.temporal.getState().clear();
}

/** The document with everything that can be undone and redone in it, to come back to. */
export function keepRecipe(): () => void {
  const { recipe, typed, source } = useRecipe.getState();
  const { pastStates, futureStates } = useRecipe.temporal.getState();
  return () => {
    useRecipe.setState({ recipe, typed, source });
    useRecipe.temporal.setState({ pastStates, futureStates });
  };
}

/** Called when a step back or forth has led to another source; `takeBack` is the way to where it came from. */
type Stepped = (source: number, takeBack: () => void) => void;
let stepped: Stepped = () => undefined;

/** Who else must follow a step in the history: the source, where it was replaced. */
export function onHistoryStep(follow: Stepped): void {
  stepped = follow;
}

function step(move: 'undo' | 'redo', back: 'undo' | 'redo'): void {
  const from = useRecipe.getState().source;
  useRecipe.temporal.getState()[move]();
  const to = useRecipe.getState().source;
  if (from !== to) stepped(to, () => useRecipe.temporal.getState()[back]());
}

export const undo = (): void => step('undo', 'redo');
export const redo = (): void => step('redo', 'undo');

/** The name of the open project: the one in its recipe. */
export const projectName = ({ recipe }: RecipeState): string => recipe?.name ?? '';
