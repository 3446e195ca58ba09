import { formatShort, type LevelGridError, type Repair } from '../../base';
import { planChain } from '../../chain';
import { withStepsInOrder } from '../../edits';
import type { HeightRange } from '../../height';
import type { RasterInfo } from '../../raster';
import type { Recipe } from '../../recipe';
import type { Target } from '../../targets';
import { mendedPattern } from '../../tiles';
import type { ChainStep, PlanCheck } from '../document';
import type { Geometry } from '../geometry';
import { croppedFit, divisibleSize, squareFit } from '../repairs';

/** What was refused. */
interface Refused {
  readonly recipe: Recipe;
  readonly target: Target;
  /** As it lies, and as it enters the fit. */
  readonly source: RasterInfo;
  readonly info: RasterInfo;
  readonly geometry: Geometry;
  readonly range: HeightRange;
}

/** Why nothing can be written, as a check with the repair that there is. */
export function refusalCheck(refusal: LevelGridError, refused: Refused): PlanCheck {
  const { code, found, expected, remedy } = refusal;
  const step: ChainStep =
    code.startsWith('split') || code === 'file-name'
      ? 'split'
      : code === 'voids'
        ? 'clean'
        : code === 'calibration'
          ? 'height'
          : code === 'step-order' || code === 'mosaic'
            ? 'clean'
            : 'fit';
  const repair = refusalRepair(refusal, refused);
  return {
    id: code,
    state: 'fault',
    message: `Found ${found}; expected ${expected}. ${remedy}`,
    step,
    ...(repair ? { repair } : {}),
  };
}

/** Steps put in an order in which each can stand; the first that can't is switched off where there is none. */
function stepRepair(recipe: Recipe, source: RasterInfo): Repair | null {
  const { refusal } = planChain(recipe, source);
  if (!refusal) return null;
  const ordered = withStepsInOrder(recipe, source);
  return planChain(ordered, source).refusal === null
    ? { label: 'put the steps in order', edit: 'order-steps', args: { source: sidesOf(source) } }
    : { label: 'switch this step off', edit: 'switch-step', args: { index: refusal.index, on: false } };
}

const sidesOf = ({ width, height }: RasterInfo): { width: number; height: number } => ({ width, height });

function refusalRepair(
  { code }: LevelGridError,
  { recipe, target, source, info, geometry, range }: Refused,
): Repair | null {
  // eslint-disable-next-line @typescript-eslint/switch-exhaustiveness-check -- other refusals have no repair by a click
  switch (code) {
    case 'voids': {
      const lowest = Math.round((range.pivot / recipe.fit.worldScale) * 1000) / 1000;
      return { label: `give voids ${formatShort(lowest)} m`, edit: 'voids', args: { elevation: lowest } };
    }
    case 'calibration':
      return { label: 'take the range of the source', edit: 'range', args: { range: 'source' } };
    case 'file-name': {
      if (!recipe.split) return null;
      const mended = mendedPattern(recipe.split.pattern, target.names.refusedBeforeNumbers);
      return mended === recipe.split.pattern
        ? null
        : { label: `write ${mended}`, edit: 'split', args: { pattern: mended } };
    }
    case 'split-indivisible':
    case 'size-not-on-ladder':
      return divisibleSize(recipe, target, info, geometry.width);
    case 'split-unequal':
    case 'no-extent':
      return squareFit(recipe, info);
    case 'crop-outside':
      return croppedFit(recipe, target, info);
    case 'step-order':
    case 'mosaic':
      return stepRepair(recipe, source);
    default:
      return null;
  }
}
