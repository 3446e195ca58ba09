import type { StepOf } from '../../../recipe';
import { laid } from './laying';
import type { TwinOperation } from './operation';

export const swapAxes: TwinOperation<StepOf<'swap-axes'>> = (before) => ({
  stage: laid(before, true, (column, row) => [row, column]),
});
