'use client';
import { LevelGridError } from '@/core/base';
import type { Plan } from '@/core/plan';
import type { RasterInfo } from '@/core/raster';
import { typedText } from '@/core/run';
import type { Recipe } from '@/core/recipe';
import { changedRows, editRecipe, packKey, patchSession, useRecipe, useSession } from '@/state';

export const usePlan = (): Plan | null => useSession((s) => s.plan);
export const useCurrentRecipe = (): Recipe | null => useRecipe((s) => s.recipe);

/** What a pack of the open project would be made of: one with another key is out of date. */
export function usePackKey(): string {
  const recipe = useCurrentRecipe();
  const facts = useSession((s) => s.facts);
  return packKey(recipe, facts);
}

/** The raster that enters the fit; of a source that is still being read, that one as it lies. */
export function useEnteringInfo(): RasterInfo | null {
  const facts = useSession((s) => s.facts);
  const arriving = useSession((s) => s.arrived !== null);
  const entering = usePlan()?.work.entering;
  return (arriving ? null : entering?.info) ?? facts?.info ?? null;
}

/** An edit from a control that has no place for a message: where it can't be used the page says so. */
export function choose(edit: (recipe: Recipe) => unknown): void {
  try {
    editRecipe(edit);
  } catch (reason) {
    if (reason instanceof LevelGridError) patchSession({ error: reason.toRecord() });
    else throw reason;
  }
}

/** An edit of the list of steps, with the size of the ground that a window on it stays on. */
export function useStepEdit(): (
  edit: (recipe: Recipe, source: { readonly width: number; readonly height: number }) => Recipe,
) => void {
  const info = usePlan()?.work.entering.stage.info;
  return (edit) => {
    if (info) choose((r) => edit(r, { width: info.width, height: info.height }));
  };
}

/** A row of the card whose value is not the one of the last pack. */
export interface ChangedRow {
  readonly id: string;
  readonly label: string;
  readonly before: string;
  readonly now: string;
}

/** What has changed on the card since the last pack of this project, or since its source was replaced. */
export function useChangedRows(): readonly ChangedRow[] {
  const pack = useSession((s) => s.pack);
  const before = useSession((s) => s.replacement?.card);
  const plan = usePlan();
  const card = pack?.document.card ?? before;
  if (!card || !plan) return [];
  return changedRows(card, plan.document.card).map(({ row, before: old }) => ({
    id: row.id,
    label: row.label,
    before: typedText(old),
    now: typedText(row),
  }));
}
