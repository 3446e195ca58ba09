import type { Step } from '@/core/recipe';
import { usePlan } from '../hooks';

/** What the fields of a step get. */
export interface Fields<S extends Step> {
  readonly step: S;
  readonly change: (to: S) => void;
}

/** Lowest and highest of the ground, in true metres: where a choice begins. */
export function useEnds(): { readonly low: number; readonly high: number } {
  return usePlan()?.work.trueEnds ?? { low: 0, high: 1 };
}
