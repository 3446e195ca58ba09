'use client';
import { LevelGridError } from '@/core/base';
import type { Plan } from '@/core/plan';
import { typedText } from '@/core/run';
import type { Recipe } from '@/core/recipe';
import { editRecipe, patchSession, useRecipe, useSession } from '@/state';

export const usePlan = (): Plan | null => useSession((s) => s.plan);
export const useCurrentRecipe = (): Recipe | null => useRecipe((s) => s.recipe);

/** Changes one part of the recipe. A value that can't be used is told in the message above the bench. */
export function change<K extends 'source' | 'fit' | 'height' | 'output' | 'split'>(
  part: K,
  values: Partial<NonNullable<Recipe[K]>>,
): void {
  editRecipe((r) => ({ ...r, [part]: { ...r[part], ...values } }));
}

/** The same for choices that are no fields: the fault shows as the page's message instead of being thrown. */
export function choose<K extends 'source' | 'fit' | 'height' | 'output' | 'split'>(
  part: K,
  values: Partial<NonNullable<Recipe[K]>>,
): void {
  try {
    change(part, values);
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
