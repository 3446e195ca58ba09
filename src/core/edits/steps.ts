import {
  composed,
  inverted,
  operationOf,
  ORDER,
  orientationOf,
  orientedSides,
  placeAfter,
  type Orientation,
} from '../operations';
import { groundSpacing, type Curve, type RasterInfo } from '../raster';
import type { Recipe, Step, StepId, StepOf } from '../recipe';
import { squaredInfo, squaresFor } from '../squares';
import { withBestFit } from './fit';
import { confirmed, heightsGivenAs } from './source';

interface Sides {
  readonly width: number;
  readonly height: number;
}

/**
 * Other steps. Where they lay the ground otherwise than before, what depends on it follows: an exchange of axes exchanges
 * pairs (size, place, tiles), and a window or a padded source stays on its ground. `source`: size of the ground before
 * turns and mirrors; left out, only pairs are exchanged.
 */
export function withSteps(recipe: Recipe, steps: readonly Step[], source?: Sides): Recipe {
  const change = composed(inverted(orientationOf(recipe.steps)), orientationOf(steps));
  const next = { ...recipe, steps: [...steps] };
  return laidOtherwise(next, change, source && orientedSides(orientationOf(recipe.steps), source));
}

/** The fit of a recipe whose ground is laid otherwise; `ground`: its size before that. */
function laidOtherwise(recipe: Recipe, change: Orientation, ground: Sides | undefined): Recipe {
  const { fit, split } = recipe;
  const { swap, flipX, flipY } = change;
  if (!swap && !flipX && !flipY) return recipe;
  const { size } = fit;
  const exchanged = typeof size === 'number' || !swap ? size : ([size[1], size[0]] as [number, number]);
  const [x, y] = fit.at;
  const at: [number, number] = swap ? [y, x] : [x, y];
  const tiles = split && swap ? { ...split, across: split.down, down: split.across } : split;
  return {
    ...recipe,
    fit: { ...fit, size: exchanged, at: ground ? placeOn(recipe, change, ground) : at },
    ...(tiles ? { split: tiles } : {}),
  };
}

/** `fit.at` by which the grid lies on the same ground as before. */
function placeOn({ fit }: Recipe, change: Orientation, ground: Sides): [number, number] {
  const never = fit.method === 'resample' && fit.at[0] === 0 && fit.at[1] === 0;
  if (never) return [0, 0];
  const [width, height] = typeof fit.size === 'number' ? [fit.size, fit.size] : fit.size;
  const sign = fit.method === 'pad' ? -1 : 1;
  const [x, y] = [sign * fit.at[0], sign * fit.at[1]];
  const a = placeAfter(change, ground, { x, y });
  const b = placeAfter(change, ground, { x: x + width - 1, y: y + height - 1 });
  // no nought below nought: a recipe is compared as text
  return [sign * Math.min(a.x, b.x) + 0, sign * Math.min(a.y, b.y) + 0];
}

/** One more step, in the place where it can stand; of those that there can be one of, in the place of the one before. */
export function withStep(recipe: Recipe, step: Step, source?: Sides): Recipe {
  const { order, once } = operationOf(step);
  const others = once ? recipe.steps.filter((s) => s.op !== step.op) : recipe.steps;
  const orderOf = (s: Step): number => operationOf(s).order;
  // ground is made metric before it is laid otherwise, which changes no sample
  if (order === ORDER.metric)
    return withSteps(
      recipe,
      [...others.filter((s) => orderOf(s) < ORDER.laying), step, ...others.filter((s) => orderOf(s) === ORDER.laying)],
      source,
    );
  const last = others.findLastIndex((s) => orderOf(s) <= order);
  return withSteps(recipe, [...others.slice(0, last + 1), step, ...others.slice(last + 1)], source);
}

/** Without the step at this place. */
export const withoutStep = (recipe: Recipe, index: number, source?: Sides): Recipe =>
  withSteps(
    recipe,
    recipe.steps.filter((_, i) => i !== index),
    source,
  );

/** Without any step of this kind. */
export const withoutSteps = (recipe: Recipe, op: StepId, source?: Sides): Recipe =>
  withSteps(
    recipe,
    recipe.steps.filter((s) => s.op !== op),
    source,
  );

/** The step at this place switched on or off; what it says stays. */
export function withStepSwitched(recipe: Recipe, index: number, on: boolean, source?: Sides): Recipe {
  const steps = recipe.steps.map((step, i): Step => {
    if (i !== index) return step;
    const { off: _, ...rest } = step;
    return on ? rest : { ...rest, off: true as const };
  });
  return withSteps(recipe, steps, source);
}

/** The step at this place, said otherwise. */
export const withStepChanged = (recipe: Recipe, index: number, step: Step, source?: Sides): Recipe =>
  withSteps(
    recipe,
    recipe.steps.map((s, i) => (i === index ? step : s)),
    source,
  );

/** A step moved to another place of the list. */
export function withStepMoved(recipe: Recipe, from: number, to: number, source?: Sides): Recipe {
  const step = recipe.steps[from];
  if (!step) return recipe;
  const steps = recipe.steps.filter((_, i) => i !== from);
  steps.splice(Math.max(0, Math.min(steps.length, to)), 0, step);
  return withSteps(recipe, steps, source);
}

/** The step of a kind that there is one of, where it is on. */
export function stepOf<K extends StepId>(recipe: Recipe, op: K): Extract<Step, { op: K }> | undefined {
  const found = recipe.steps.find((s) => s.op === op && !s.off);
  return found as Extract<Step, { op: K }> | undefined;
}

/** Another display curve undone, or none: only ends have one between them, and it knows of no halves of codes. */
export function withCurve(
  recipe: Recipe,
  ends: Pick<RasterInfo, 'bitDepth' | 'sampleType'>,
  curve: Curve | null,
): Recipe {
  if (curve === null) return withoutSteps(recipe, 'linearise');
  const said = heightsGivenAs(recipe, ends, 'ends');
  const { heights } = said.source;
  const { truncated: _, ...rounded } = { truncated: undefined, ...heights };
  const whole = { ...said, source: { ...said.source, heights: rounded } };
  return withStep(whole, { op: 'linearise', curve });
}

/** Steps at the seams of several files spread over so many samples on either side, or left as they are. */
export const withBlend = (recipe: Recipe, reach: number | null): Recipe =>
  reach === null ? withoutSteps(recipe, 'blend') : withStep(recipe, { op: 'blend', reach });

/** What the step that makes ground metric says. */
export type Reprojection = Omit<StepOf<'reproject'>, 'op'>;

/**
 * Ground in degrees, or of a map that stretches it, made metric; `ground`: its size then, for which the grid is chosen
 * anew where it is known.
 */
export function madeMetric(recipe: Recipe, metric: Reprojection, ground?: Sides): Recipe {
  const next = confirmed(withStep(recipe, { op: 'reproject', ...metric }), ['spacing']);
  return ground ? withBestFit(next, orientedSides(orientationOf(next.steps), ground)) : next;
}

/** The same, or as it lies; `info`: the source as it lies. */
export function withReprojection(recipe: Recipe, metric: Reprojection | null, info: RasterInfo): Recipe {
  if (metric) return madeMetric(recipe, metric, squaredInfo(info, squaresFor(info, metric)));
  const { spacing } = recipe.source;
  const plain = { ...recipe, source: { ...recipe.source, spacing: groundSpacing(info)?.north ?? spacing } };
  const next = withoutSteps(plain, 'reproject');
  return withBestFit(next, orientedSides(orientationOf(next.steps), info));
}

/** Steps in an order in which each can stand, as far as there is one; those that can stay among themselves do. */
export const withStepsInOrder = (recipe: Recipe, source?: Sides): Recipe =>
  withSteps(
    recipe,
    [...recipe.steps].sort((a, b) => operationOf(a).order - operationOf(b).order),
    source,
  );
