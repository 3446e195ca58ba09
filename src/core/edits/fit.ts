import { firstFit } from '../grid';
import { withSize } from '../plan';
import type { Recipe } from '../recipe';
import { targetById } from '../targets';
import { wholeSide } from '../tiles';

interface Sides {
  readonly width: number;
  readonly height: number;
}

/** Which sides of a tile a size is for. */
export type Side = 'both' | 'across' | 'down';

const sidesOf = (size: Recipe['fit']['size']): Sides =>
  typeof size === 'number' ? { width: size, height: size } : { width: size[0], height: size[1] };

/** Where a source lies in the middle: see `fit.at` of the recipe. */
function centred(method: Recipe['fit']['method'], source: Sides, whole: Sides): [number, number] {
  const half = (a: number, b: number): number => Math.floor((a - b) / 2);
  if (method === 'resample') return [0, 0];
  return method === 'crop'
    ? [half(source.width, whole.width), half(source.height, whole.height)]
    : [half(whole.width, source.width), half(whole.height, source.height)];
}

/** Sets the vertices of one tile along both sides or one; the whole follows, and cropped ground stays in the middle. */
export function withTileSide(recipe: Recipe, vertices: number, source: Sides, side: Side = 'both'): Recipe {
  const { across = 1, down = 1, edges = 'shared' } = recipe.split ?? {};
  const now = sidesOf(recipe.fit.size);
  const whole = {
    width: side === 'down' ? now.width : wholeSide(vertices, across, edges),
    height: side === 'across' ? now.height : wholeSide(vertices, down, edges),
  };
  const size: Recipe['fit']['size'] = whole.width === whole.height ? whole.width : [whole.width, whole.height];
  return withSize(recipe, size, { at: centred(recipe.fit.method, source, whole) });
}

/** Another way to lay the ground on the grid; the source starts in the middle. */
export function withMethod(recipe: Recipe, method: Recipe['fit']['method'], source: Sides): Recipe {
  return {
    ...recipe,
    fit: { ...recipe.fit, method, at: centred(method, source, sidesOf(recipe.fit.size)) },
  };
}

/** Another target keeps the ground and the heights, and takes the size that fits the source best. */
export function withTarget(recipe: Recipe, id: string, source: Sides): Recipe {
  const target = targetById(id);
  const { split: _, ...rest } = recipe;
  const { size, method, at } = firstFit(target.grid, target.square, source, target.budgets.components);
  const sized = withSize(rest, size, { method, at });
  const { scale: __, anchor: ___, ...height } = recipe.height;
  return {
    ...sized,
    target: target.id,
    // a fixed scale of one target means nothing to another
    height: recipe.height.strategy === 'fixed' ? { ...height, strategy: 'full' } : recipe.height,
    output: { ...recipe.output, format: target.formats[0] ?? 'png' },
  };
}
