import type { StepOf } from '../../../recipe';
import { unitOfStored } from '../heights';
import { onGround, type TwinOperation } from './operation';

/** A display curve undone a second time, in double precision, by its definition. */
export const linearise: TwinOperation<StepOf<'linearise'>> = (before, { curve }, { recipe, file, count }) => {
  const { bitDepth, sampleType } = file;
  const white = sampleType === 'float' ? 1 : sampleType === 'int' ? 2 ** (bitDepth - 1) - 1 : 2 ** bitDepth - 1;
  const unit = unitOfStored(recipe, file);
  const undone = (value: number): number => {
    const shown = value / white;
    if (shown < 0) return -undone(-value);
    if (curve !== 'srgb') return Math.exp(curve * Math.log(shown));
    // the straight piece near black ends at 0.04045
    return shown > 0.04045 ? Math.exp(2.4 * Math.log((shown + 0.055) / 1.055)) : shown / 12.92;
  };
  return {
    stage: onGround(before, ({ samples, ...ground }) => ({
      ...ground,
      pieces: null,
      samples: {
        ...samples,
        async *bands(job) {
          const { note, end } = count.begin();
          for await (const band of samples.bands(job)) {
            const data = Float64Array.from(band.data as ArrayLike<number>, (value) => {
              const share = undone(value);
              const change = share * white - value;
              // less is rounding
              if (Math.abs(change) > white * 2 ** -21) note(change * unit);
              return share;
            });
            yield { ...band, data };
          }
          end();
        },
      },
    })),
    counts: true,
  };
};
