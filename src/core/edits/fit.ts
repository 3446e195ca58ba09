import { LevelGridError } from '../base';
import { besides, firstFit, sizesOf, verticesOf, type ComponentLayout } from '../grid';
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

/** Choices of the fit that nothing else follows from. */
export type FitValues = Partial<Pick<Recipe['fit'], 'clamp' | 'filter' | 'layout' | 'origin' | 'rim' | 'worldScale'>>;

export function withFit(recipe: Recipe, values: FitValues): Recipe {
  return { ...recipe, fit: { ...recipe.fit, ...values } };
}

/** Another size of the whole, where given with another way to lay the ground on it. A layout of the old size goes. */
export function withSize(
  recipe: Recipe,
  size: Recipe['fit']['size'],
  more: Partial<Pick<Recipe['fit'], 'at' | 'method'>> = {},
): Recipe {
  const { layout: _, ...fit } = recipe.fit;
  return { ...recipe, fit: { ...fit, size, ...more } };
}

/** The elevation that vertices without ground get; null: they stay voids. */
export function withVoids(recipe: Recipe, elevation: number | null): Recipe {
  const { voids: _, ...fit } = recipe.fit;
  return { ...recipe, fit: elevation === null ? fit : { ...fit, voids: elevation } };
}

/** Another first column or row of the cropped window, or of the padded source: see `fit.at` of the recipe. */
export function withPlace(
  recipe: Recipe,
  { column, row }: { readonly column?: number; readonly row?: number },
): Recipe {
  const [x, y] = recipe.fit.at;
  return { ...recipe, fit: { ...recipe.fit, at: [column ?? x, row ?? y] } };
}

/** The cropped window, or the padded source, in the middle. */
export function withGroundCentred(recipe: Recipe, source: Sides): Recipe {
  const [column, row] = centred(recipe.fit.method, source, sidesOf(recipe.fit.size));
  return withPlace(recipe, { column, row });
}

/** The size and the way to fit that suit such a source best on this target. */
export function withBestFit(recipe: Recipe, source: Sides): Recipe {
  const target = targetById(recipe.target);
  const { size, method, at } = firstFit(target.grid, target.square, source, target.budgets.components);
  const square = typeof size === 'number' || size[0] !== size[1] ? size : size[0];
  return withSize(recipe, square, { method, at });
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

/** The same for a number that was typed: one that the target does not take is refused, with those next to it. */
export function withTypedSide(recipe: Recipe, vertices: number, source: Sides, side: Side = 'both'): Recipe {
  const { grid } = targetById(recipe.target);
  if (sizesOf(grid).includes(vertices)) return withTileSide(recipe, vertices, source, side);
  throw new LevelGridError('size-not-on-ladder', {
    found: `${vertices} vertices a side`,
    expected: 'a size that the target takes',
    remedy: `Next to it: ${besides(grid, vertices).join(' and ')}.`,
  });
}

/** As many components a side as asked for, each as it is now; the vertices follow. */
export function withComponents(
  recipe: Recipe,
  { quads, patches }: Pick<ComponentLayout, 'quads' | 'patches'>,
  components: number,
  source: Sides,
  side: Side = 'both',
): Recipe {
  return withFit(withTypedSide(recipe, verticesOf({ quads, patches, components }), source, side), {
    layout: { quads, patches },
  });
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
  const sized = withBestFit({ ...rest, target: target.id }, source);
  const { scale: __, anchor: ___, ...height } = recipe.height;
  return {
    ...sized,
    // a fixed scale of one target means nothing to another
    height: recipe.height.strategy === 'fixed' ? { ...height, strategy: 'full' } : recipe.height,
    output: { ...recipe.output, format: target.formats[0] ?? 'png' },
  };
}
