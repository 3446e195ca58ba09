import { LevelGridError } from '../base';
import { besides, firstFit, sizesOf, verticesOf, type ComponentLayout } from '../grid';
import type { Recipe } from '../recipe';
import { firstOutput, targetOf } from '../targets';
import { wholeSide } from '../tiles';
import { suited } from './suited';

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

/** Where along one side a window of `now` samples lies after it was `before` long: its middle stays, within the source. */
function moved(at: number, source: number, before: number, now: number): number {
  const middle = Math.floor((source - now) / 2);
  // what lay in the middle stays there, to the sample; so does a window that is larger than the source
  if (at === Math.floor((source - before) / 2) || now >= source) return middle;
  return Math.max(0, Math.min(source - now, at + Math.floor((before - now) / 2)));
}

/**
 * `fit.at` for another size or another way to lay the ground on it. A window that the artist has placed keeps its
 * middle, also while the ground is resampled or padded for a while.
 */
function placed(
  { fit }: Recipe,
  to: { readonly method: Recipe['fit']['method']; readonly whole: Sides },
  source: Sides,
): [number, number] {
  const before = sidesOf(fit.size);
  const never = fit.method === 'resample' && fit.at[0] === 0 && fit.at[1] === 0;
  if (never) return centred(to.method, source, to.whole);
  /** A padded source that is larger than the grid is a window too, counted the other way round. */
  const along = (at: number, samples: number, was: number, now: number): number => {
    if (to.method === 'pad' && now >= samples) return Math.floor((now - samples) / 2);
    const middle = Math.floor((samples - was) / 2);
    const window = fit.method === 'pad' ? (was < samples ? -at : middle) : at;
    const place = moved(window, samples, was, now);
    return to.method === 'pad' ? 0 - place : place;
  };
  const at: [number, number] = [
    along(fit.at[0], source.width, before.width, to.whole.width),
    along(fit.at[1], source.height, before.height, to.whole.height),
  ];
  // resampled ground remembers only a window that somebody has moved
  const middle = centred('crop', source, to.whole);
  return to.method === 'resample' && at[0] === middle[0] && at[1] === middle[1] ? [0, 0] : at;
}

/** Choices of the fit that nothing else follows from. */
export type FitValues = Partial<
  Pick<Recipe['fit'], 'clamp' | 'filter' | 'layout' | 'mixed' | 'origin' | 'rim' | 'worldScale'>
>;

export function withFit(recipe: Recipe, values: FitValues): Recipe {
  return { ...recipe, fit: { ...recipe.fit, ...values } };
}

/** Another size of the whole, where given with another way to lay the ground on it. A layout of the old size goes. */
export function withSize(
  recipe: Recipe,
  size: Recipe['fit']['size'],
  more: Partial<Pick<Recipe['fit'], 'at' | 'method'>> = {},
): Recipe {
  const { layout: _, tiles: _tiles, tileSide: _side, sharedRow: _row, ...fit } = recipe.fit;
  return { ...recipe, fit: { ...fit, size, ...more } };
}

/** The artist's own ceiling of vertices per side of one import; null: none. */
export function withCeiling(recipe: Recipe, vertices: number | null): Recipe {
  const { atMost: _, ...fit } = recipe.fit;
  return { ...recipe, fit: vertices === null ? fit : { ...fit, atMost: vertices } };
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

/** The cropped window with its first column and row here, held within the source. */
export function withWindowAt(recipe: Recipe, column: number, row: number, source: Sides): Recipe {
  const { width, height } = sidesOf(recipe.fit.size);
  const hold = (at: number, room: number): number => Math.max(0, Math.min(Math.max(0, room), Math.round(at)));
  return withPlace(recipe, { column: hold(column, source.width - width), row: hold(row, source.height - height) });
}

/** The cropped window, or the padded source, in the middle. */
export function withGroundCentred(recipe: Recipe, source: Sides): Recipe {
  const [column, row] = centred(recipe.fit.method, source, sidesOf(recipe.fit.size));
  return withPlace(recipe, { column, row });
}

/** The size and the way to fit that suit such a source best on this target. */
export function withBestFit(recipe: Recipe, source: Sides): Recipe {
  const target = targetOf(recipe.target);
  const { size, method, at } = firstFit(target.grid, target.square, source, target.budgets);
  const square = typeof size === 'number' || size[0] !== size[1] ? size : size[0];
  const { atMost = Infinity } = recipe.fit;
  // what the artist has set holds on every target; ground of another shape is told of it by a check
  const below = sizesOf(target.grid).filter((n) => n <= atMost);
  const lowered = typeof square === 'number' && square > atMost && method === 'resample' ? below.at(-1) : undefined;
  return withSize(recipe, lowered ?? square, { method, at });
}

/** Sets the vertices of one tile along both sides or one; the whole follows, and a cropped window keeps its middle. */
export function withTileSide(recipe: Recipe, vertices: number, source: Sides, side: Side = 'both'): Recipe {
  const { across = 1, down = 1, edges = 'shared' } = recipe.split ?? {};
  const now = sidesOf(recipe.fit.size);
  const whole = {
    width: side === 'down' ? now.width : wholeSide(vertices, across, edges),
    height: side === 'across' ? now.height : wholeSide(vertices, down, edges),
  };
  const size: Recipe['fit']['size'] = whole.width === whole.height ? whole.width : [whole.width, whole.height];
  return withSize(recipe, size, { at: placed(recipe, { method: recipe.fit.method, whole }, source) });
}

/** The same for a number that was typed: one that the target does not take is refused, with those next to it. */
export function withTypedSide(recipe: Recipe, vertices: number, source: Sides, side: Side = 'both'): Recipe {
  const { grid } = targetOf(recipe.target);
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

/** Another way to lay the ground on the grid; it starts in the middle, or where a window was placed before. */
export function withMethod(recipe: Recipe, method: Recipe['fit']['method'], source: Sides): Recipe {
  return {
    ...recipe,
    fit: { ...recipe.fit, method, at: placed(recipe, { method, whole: sidesOf(recipe.fit.size) }, source) },
  };
}

/** The same choices for another target: what it does not take is told by checks. */
export const forTarget = (recipe: Recipe, target: Recipe['target']): Recipe => ({ ...recipe, target });

/** Another target keeps the ground and the heights, and takes the size that fits the source best. */
export function withTarget(recipe: Recipe, named: Recipe['target'], source: Sides): Recipe {
  const target = targetOf(named);
  const { split: _, ...rest } = recipe;
  const before = targetOf(recipe.target);
  const { mixed, ...fit } = rest.fit;
  // laid sample by sample only since the target before takes every size
  const laid = before.grid.kind === 'any' || mixed === undefined ? fit : rest.fit;
  const sized = withBestFit({ ...rest, fit: laid, target: named }, source);
  const { scale: __, anchor: ___, ...height } = recipe.height;
  // heights are stored in the usual way of a target until another one is chosen
  const { encoding: ____, compression: _____, ...output } = recipe.output;
  const next: Recipe = {
    ...sized,
    // a miniature that only the target before asked for
    ...(before.spacing === undefined ? {} : { fit: { ...sized.fit, worldScale: 1 } }),
    // a fixed scale of one target means nothing to another
    height: recipe.height.strategy === 'fixed' ? { ...height, strategy: 'full' } : recipe.height,
    output: { ...output, ...firstOutput(target) },
  };
  const steps = before.halfTurn ? next.steps.filter((s) => s.op !== 'turn' || s.quarters !== 2) : next.steps;
  return suited({ ...next, steps: [...steps] }, target, source);
}
