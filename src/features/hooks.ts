'use client';
import { LevelGridError } from '@/core/base';
import type { Plan } from '@/core/plan';
import { typedText } from '@/core/run';
import type { Recipe } from '@/core/recipe';
import { editRecipe, patchSession, useRecipe, useSession } from '@/state';

export const usePlan = (): Plan | null => useSession((s) => s.plan);
export const useCurrentRecipe = (): Recipe | null => useRecipe((s) => s.recipe);

/** An edit from a control that has no place for a message: where it can't be used the page says so. */
export function choose(edit: (recipe: Recipe) => unknown): void {
  try {
    editRecipe(edit);
  } catch (reason) {
    if (reason instanceof LevelGridError) patchSession({ error: reason.toRecord() });
    else throw reason;
  }
}

/** A row of the card whose value is not the one of the last pack. */
export interface ChangedRow {
  readonly id: string;
  readonly label: string;
  readonly before: string;
  readonly now: string;
}

/** What has changed on the card since the last pack of this project; nothing where there was none. */
export function useChangedRows(): readonly ChangedRow[] {
  const pack = useSession((s) => s.pack);
  const plan = usePlan();
  if (!pack || !plan) return [];
  const before = new Map(pack.document.card.map((r) => [r.id, r]));
  return plan.document.card.flatMap((row) => {
    const old = before.get(row.id);
    return old && old.value !== row.value
      ? [{ id: row.id, label: row.label, before: typedText(old), now: typedText(row) }]
      : [];
  });
}
