import { flattened } from '../plan';
import type { Recipe } from '../recipe';
import { targetById } from '../targets';

type Height = Recipe['height'];

/** Elevations in true metres, as a recipe names them. */
export interface TrueSpan {
  readonly low: number;
  readonly high: number;
}

/** Another source of the range; a pinned one begins with the elevations of the source's codes, which keep every sample. */
export function withRange(recipe: Recipe, range: Height['range'], codes: TrueSpan): Recipe {
  const { low, high } = recipe.height;
  const pinned = { range, low: low ?? codes.low, high: high ?? codes.high };
  return { ...recipe, height: { ...recipe.height, ...(range === 'pinned' ? pinned : { range }) } };
}

/** Another use of the range, with what it needs to be complete. */
export function withStrategy(
  recipe: Recipe,
  strategy: Height['strategy'],
  begin: { readonly scale: number; readonly low: number },
): Recipe {
  const { height } = recipe;
  const needed: Partial<Height> =
    strategy === 'headroom'
      ? { below: height.below ?? 5, above: height.above ?? 5 }
      : strategy === 'fixed'
        ? {
            scale: height.scale ?? begin.scale,
            anchor: height.anchor ?? { at: 'lowest' as const, elevation: begin.low },
          }
        : {};
  return { ...recipe, height: { ...height, ...needed, strategy } };
}

/** Ground flattened until it fits the fixed scale; the recipe itself where there is no such factor. */
export function flattenedToFit(recipe: Recipe, ground: TrueSpan): Recipe {
  const height = flattened(recipe, targetById(recipe.target), ground);
  return height ? { ...recipe, height } : recipe;
}

/** Heights as they are: what does not fit a fixed scale is clipped. */
export function clippedToFit(recipe: Recipe): Recipe {
  return { ...recipe, height: { ...recipe.height, exaggeration: 1 } };
}

/** World zero at another elevation; sea level begins at the lowest ground. */
export function withOffset(recipe: Recipe, offset: Height['offset'], lowest: number): Recipe {
  const sea = offset === 'sea' && recipe.height.sea === undefined ? { sea: lowest } : {};
  return { ...recipe, height: { ...recipe.height, offset, ...sea } };
}
