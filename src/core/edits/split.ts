import type { Recipe } from '../recipe';
import { targetOf } from '../targets';
import { wholeSide } from '../tiles';
import { withSize } from './fit';

export type Split = NonNullable<Recipe['split']>;

const DEFAULT: Split = {
  across: 1,
  down: 1,
  edges: 'shared',
  pattern: '{name}-r{row:2}c{col:2}',
  first: 0,
  rows: 'north',
};

/**
 * Other tiles. The ground stays as it is: where it can't be divided so, the plan says it and offers totals that can.
 * One tile needs no split.
 */
export function withSplit(recipe: Recipe, values: Partial<Split>): Recipe {
  // cells have no edge to share
  const edges = targetOf(recipe.target).registration === 'cell' ? ('abutting' as const) : DEFAULT.edges;
  const split = { ...DEFAULT, edges, ...recipe.split, ...values };
  const { split: _, ...rest } = recipe;
  const { layout, ...fit } = rest.fit;
  // with other tiles the layout is another one; under other names it is not
  const tiles = values.across ?? values.down ?? values.edges;
  const next = { ...rest, fit: layout && tiles === undefined ? { ...fit, layout } : fit };
  return split.across === 1 && split.down === 1 ? next : { ...next, split };
}

/** Tiles of this size: the whole follows. */
export function withTiles(recipe: Recipe, tile: number): Recipe {
  const { across = 1, down = 1, edges = 'shared' } = recipe.split ?? {};
  const w = wholeSide(tile, across, edges);
  const h = wholeSide(tile, down, edges);
  return withSize(recipe, w === h ? w : [w, h], { method: 'resample', at: [0, 0] });
}
