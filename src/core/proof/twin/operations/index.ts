import type { StepId, StepOf } from '../../../recipe';
import { blend } from './blend';
import { linearise } from './linearise';
import { mirror } from './mirror';
import type { TwinOperation } from './operation';
import { reproject } from './reproject';
import { swapAxes } from './swap-axes';
import { turn } from './turn';
import { values } from './values';

export { ChangeCount } from './operation';
export type { Rastered, SampleSource, TwinChange, TwinContext, TwinOperation, TwinStage, TwinStep } from './operation';

/** The twin of each operation: none can be left out, or the types don't fit. */
export const TWINS: { readonly [K in StepId]: TwinOperation<StepOf<K>> } = {
  turn,
  mirror,
  'swap-axes': swapAxes,
  values,
  linearise,
  blend,
  reproject,
};
