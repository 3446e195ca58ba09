import type { StepOf } from '../../../recipe';
import { changed, samplesOf } from './heights';
import type { TwinOperation } from './operation';

/** Another range a second time, in metres. */
export const range: TwinOperation<StepOf<'range'>> = (before, { low, high, base, factor }, context) => ({
  stage: changed(before, context, ({ at }) => {
    const { unit, offset, of } = samplesOf(context);
    return at.map((sample) => {
      if (Number.isNaN(sample)) return NaN;
      let elevation = offset + unit * sample;
      if (high !== undefined) elevation = Math.min(high, elevation);
      if (low !== undefined) elevation = Math.max(low, elevation);
      return of((elevation - (base ?? 0)) * (factor ?? 1));
    });
  }),
  counts: true,
});
