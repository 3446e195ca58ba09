import { blend } from './blend';
import { fillVoids } from './fill-voids';
import { despike } from './despike';
import { healSteps } from './heal-steps';
import { smooth } from './smooth';
import { sea } from './sea';
import { levels } from './levels';
import { range } from './range';
import { crop } from './crop';
import { pad } from './pad';
import { river } from './river';
import { lake } from './lake';
import { area } from './area';
import { rotate } from './rotate';
import { warp } from './warp';
import { linearise } from './linearise';
import { mirror } from './mirror';
import type { Operation } from './operation';
import { reproject } from './reproject';
import type { Step, StepId, StepOf } from './schemas';
import { swapAxes } from './swap-axes';
import { AS_IT_LIES, composed, type Orientation } from './orientation';
import { turn } from './turn';
import { values } from './values';

export {
  ChangeTally,
  ORDER,
  type Deferred,
  type Operation,
  type PlanContext,
  type Stage,
  type StageRaster,
  type StoredType,
} from './operation';
export { verticesOn } from './deferred';
export { residualsOf as controlPointsBeside } from './warp';
export {
  AS_IT_LIES,
  composed,
  inverted,
  isAsItLies,
  oriented,
  orientedSides,
  orientationWords,
  placeAfter,
  placeBefore,
  type Orientation,
} from './orientation';

/** Everything that can be done to the ground before it is fitted: none can be forgotten, or the types don't fit. */
const OPERATIONS: { readonly [K in StepId]: Operation<StepOf<K>> } = {
  turn,
  mirror,
  'swap-axes': swapAxes,
  values,
  linearise,
  blend,
  reproject,
  'fill-voids': fillVoids,
  despike,
  'heal-steps': healSteps,
  smooth,
  sea,
  levels,
  range,
  crop,
  pad,
  river,
  lake,
  area,
  rotate,
  warp,
};

/** The operation of a step. */
export const operationOf = (step: Step): Operation => OPERATIONS[step.op];

/** How steps lay the ground, all together: those that are on. */
export function orientationOf(steps: readonly Step[]): Orientation {
  let found = AS_IT_LIES;
  for (const step of steps) {
    if (step.off) continue;
    const lays = operationOf(step).lays?.(step);
    if (lays) found = composed(found, lays);
  }
  return found;
}

/** A step in a few words. */
export const stepWords = (step: Step): string => operationOf(step).words(step);
