import type { StepOf } from '../../../recipe';
import { changed, samplesOf } from './heights';
import type { TwinOperation } from './operation';

/** Levels a second time, in metres: what each elevation has risen by is a line from point to point. */
export const levels: TwinOperation<StepOf<'levels'>> = (before, { points }, context) => ({
  stage: changed(before, context, ({ at }) => {
    const { unit, offset, of } = samplesOf(context);
    return at.map((sample) => {
      if (Number.isNaN(sample)) return NaN;
      const elevation = offset + unit * sample;
      const above = points.findIndex(([from]) => from >= elevation);
      const right = points[above < 0 ? points.length - 1 : above]!;
      const left = points[Math.max(0, (above < 0 ? points.length : above) - 1)]!;
      const rise = ([from, to]: readonly [number, number]): number => to - from;
      const run = right[0] - left[0];
      const share = run > 0 && above > 0 ? (elevation - left[0]) / run : 0;
      const by = above > 0 ? rise(left) * (1 - share) + rise(right) * share : rise(above < 0 ? right : points[0]!);
      return of(elevation + by);
    });
  }),
  counts: true,
});
