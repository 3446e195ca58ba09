import { middleCode, rangeOfScale } from '../height';
import type { Recipe } from '../recipe';
import { targetOf } from '../targets';

type Height = Recipe['height'];

/** Elevations in true metres, as a recipe names them. */
export interface TrueSpan {
  readonly low: number;
  readonly high: number;
}

/** Choices of the heights that nothing else follows from. */
export type HeightValues = Partial<
  Pick<Height, 'above' | 'below' | 'bottom' | 'exaggeration' | 'high' | 'low' | 'scale' | 'top'>
>;

export function withHeight(recipe: Recipe, values: HeightValues): Recipe {
  return { ...recipe, height: { ...recipe.height, ...values } };
}

/** The fixed scale hung up at another code, or at another elevation. */
export function withAnchor(recipe: Recipe, values: Partial<NonNullable<Height['anchor']>>): Recipe {
  const { at, elevation } = recipe.height.anchor ?? { at: 'lowest' as const, elevation: 0 };
  return { ...recipe, height: { ...recipe.height, anchor: { at, elevation, ...values } } };
}

/** Another source of the range; a pinned one begins with the elevations of the source's codes, which keep every sample. */
export function withRange(recipe: Recipe, range: Height['range'], codes: TrueSpan): Recipe {
  const { low, high } = recipe.height;
  const pinned = { range, low: low ?? codes.low, high: high ?? codes.high };
  return { ...recipe, height: { ...recipe.height, ...(range === 'pinned' ? pinned : { range }) } };
}

/** All codes on the ground as it is fitted. */
export function spentOnGround(recipe: Recipe): Recipe {
  return { ...recipe, height: { ...recipe.height, range: 'ground', strategy: 'full' } };
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

/**
 * Ground flattened until it fits a fixed scale: the factor on heights, and the anchor moved where the ground reaches
 * below the elevation of the lowest code (or above that of the highest). `ground` in true metres.
 */
function flattened(recipe: Recipe, ground: TrueSpan): Height | null {
  const { height } = recipe;
  const target = targetOf(recipe.target);
  // a target whose codes are so many metres apart begins at the lowest ground
  const own = target.heights.kind === 'fixed-step' && height.strategy !== 'fixed';
  if (!(ground.high > ground.low) || (!own && (height.strategy !== 'fixed' || height.scale === undefined))) return null;
  const total = rangeOfScale(height.scale ?? 0, target) / recipe.fit.worldScale;
  if (own) {
    const down = Math.floor((total / (ground.high - ground.low)) * 1e6) / 1e6;
    return down < 1e-3 ? null : { ...height, exaggeration: down };
  }
  const given = height.anchor ?? { at: 'lowest' as const, elevation: ground.low };
  const elevation =
    given.at === 'lowest'
      ? Math.min(given.elevation, ground.low)
      : given.at === 'highest'
        ? Math.max(given.elevation, ground.high)
        : given.elevation;
  const below = { lowest: 0, middle: middleCode(target) / target.highestCode, highest: 1 }[given.at];
  const down = elevation - ground.low;
  const up = ground.high - elevation;
  const factor = Math.min(down > 0 ? (below * total) / down : Infinity, up > 0 ? ((1 - below) * total) / up : Infinity);
  if (!Number.isFinite(factor) || !(factor > 0)) return null;
  // rounded down: rounded up, the highest vertex would be clipped
  const exaggeration = Math.floor(factor * 1e6) / 1e6;
  if (exaggeration < 1e-3) return null;
  return { ...height, exaggeration, anchor: { at: given.at, elevation } };
}

/** What `flattenedToFit` would multiply heights with; null where there is no such factor. */
export function flatteningFactor(recipe: Recipe, ground: TrueSpan): number | null {
  return flattened(recipe, ground)?.exaggeration ?? null;
}

/** Ground flattened until it fits the fixed scale; the recipe itself where there is no such factor. */
export function flattenedToFit(recipe: Recipe, ground: TrueSpan): Recipe {
  const height = flattened(recipe, ground);
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

/** Another elevation of the sea; null: none, and world zero no longer there. */
export function withSea(recipe: Recipe, elevation: number | null): Recipe {
  const { sea: _, ...height } = recipe.height;
  if (elevation !== null) return { ...recipe, height: { ...height, sea: elevation } };
  return { ...recipe, height: height.offset === 'sea' ? { ...height, offset: 'lowest-code' } : height };
}

/** The range held where it is, whatever the ground becomes: values that are typed already stay right. */
export function withRangeHeld(recipe: Recipe, { low, high }: TrueSpan): Recipe {
  const { below: _, above: __, ...height } = recipe.height;
  const strategy = height.strategy === 'fixed' ? height.strategy : 'full';
  return { ...recipe, height: { ...height, range: 'pinned', low, high, strategy } };
}

/** All choices of the heights as they are given. */
export const withHeightChoices = (recipe: Recipe, height: Height): Recipe => ({ ...recipe, height });
