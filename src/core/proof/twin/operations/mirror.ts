import type { StepOf } from '../../../recipe';
import { laid } from './laying';
import type { TwinOperation } from './operation';

export const mirror: TwinOperation<StepOf<'mirror'>> = (before, { axis }) => ({
  stage: laid(before, false, (column, row, width, height) =>
    axis === 'x' ? [width - 1 - column, row] : [column, height - 1 - row],
  ),
});
