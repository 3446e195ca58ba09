import { confirmed } from '@/core/edits';
import type { Assumable, Recipe } from '@/core/recipe';
import { choose } from '../hooks';

/** What a field of a placeholder needs to be confirmed. */
export function confirmOf(recipe: Recipe, which: readonly Assumable[]): { onConfirm?: () => void } {
  const open = which.some((w) => recipe.source.assumed?.includes(w));
  return open ? { onConfirm: () => choose((r) => confirmed(r, which)) } : {};
}
