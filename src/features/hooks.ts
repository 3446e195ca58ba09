'use client';
import { LevelGridError } from '@/core/base';
import type { Plan } from '@/core/plan';
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
