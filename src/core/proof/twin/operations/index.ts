import type { StepId, StepOf } from '../../../recipe';
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
import type { TwinOperation } from './operation';
import { reproject } from './reproject';
import { swapAxes } from './swap-axes';
import { turn } from './turn';
import { values } from './values';

export { ChangeCount } from './operation';
export type { Rastered, TwinChange, TwinContext, TwinOperation, TwinStage, TwinStep } from './operation';

/** The twin of each operation: none can be left out, or the types don't fit. */
export const TWINS: { readonly [K in StepId]: TwinOperation<StepOf<K>> } = {
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
