import type { RawLayout } from '../formats';
import type { Assumable, Recipe } from '../recipe';

/** What a source says in elevations and metres; a value that is left out stays. */
export interface SourceValues {
  readonly low?: number;
  readonly high?: number;
  readonly spacing?: number;
}

/** The recipe with these no longer placeholders. */
export function confirmed(recipe: Recipe, which: readonly Assumable[]): Recipe {
  const { assumed = [], ...source } = recipe.source;
  const left = assumed.filter((a) => !which.includes(a));
  return { ...recipe, source: left.length > 0 ? { ...source, assumed: left } : source };
}

/** Typed values. What was typed is a placeholder no longer; what follows from it stays one. */
export function withSourceValues(recipe: Recipe, values: SourceValues, typed: readonly Assumable[]): Recipe {
  return confirmed({ ...recipe, source: { ...recipe.source, ...values } }, typed);
}

/** Floats as metres already: no elevations are needed, and the range follows the ground. */
export function asMetres(recipe: Recipe): Recipe {
  const { low: _, high: __, ...source } = recipe.source;
  const next = confirmed({ ...recipe, source }, ['low', 'high']);
  return next.height.range === 'codes' ? { ...next, height: { ...next.height, range: 'source' } } : next;
}

/** Floats as shares from 0 to 1, whose ends have elevations that nobody has said yet. */
export function asShares(recipe: Recipe): Recipe {
  const { assumed = [] } = recipe.source;
  const all: Assumable[] = ['low', 'high', ...(assumed.includes('spacing') ? (['spacing'] as const) : [])];
  return { ...recipe, source: { ...recipe.source, low: 0, high: 500, assumed: all } };
}

/** Another reading of a headerless file. */
export function withRawLayout(recipe: Recipe, raw: RawLayout | null): Recipe {
  const { raw: _, ...source } = recipe.source;
  return { ...recipe, source: raw ? { ...source, raw: { ...raw } } : source };
}

interface Sides {
  readonly width: number;
  readonly height: number;
}

/** What stays when a source is replaced by one of another size. */
export type Keeps = 'extent' | 'spacing';

/** The source that a recipe is for, and its spacing. */
export interface Before extends Sides {
  readonly spacing: number;
}

/**
 * The recipe for a source of another size: the ground keeps its extent (the samples lie closer or further apart), or
 * its spacing (the ground becomes larger or smaller). Every other choice stays.
 */
export function forReplacement(recipe: Recipe, before: Before, after: Sides, keeps: Keeps): Recipe {
  const same = keeps === 'spacing' || before.width < 2 || after.width < 2;
  const spacing = same ? before.spacing : (before.spacing * (before.width - 1)) / (after.width - 1);
  return spacing === recipe.source.spacing ? recipe : { ...recipe, source: { ...recipe.source, spacing } };
}
