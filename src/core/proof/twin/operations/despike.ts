import type { StepOf } from '../../../recipe';
import { changed, samplesOf } from './heights';
import type { TwinOperation } from './operation';

/** The median test a second time: all heights of the 3 × 3 put in order. */
export const despike: TwinOperation<StepOf<'despike'>> = (before, { threshold }, context) => ({
  stage: changed(before, context, ({ width, height, at }) => {
    const most = threshold / samplesOf(context).unit;
    return at.map((own, i) => {
      if (Number.isNaN(own)) return NaN;
      const [x, y] = [i % width, Math.floor(i / width)];
      const around: number[] = [];
      for (const row of [y - 1, y, y + 1])
        for (const column of [x - 1, x, x + 1]) {
          if (row < 0 || column < 0 || row >= height || column >= width) continue;
          const value = at[row * width + column]!;
          if (!Number.isNaN(value)) around.push(value);
        }
      around.sort((a, b) => a - b);
      const low = around[Math.floor((around.length - 1) / 2)]!;
      const high = around[Math.ceil((around.length - 1) / 2)]!;
      const median = (low + high) / 2;
      return Math.abs(own - median) > most ? median : own;
    });
  }),
  counts: true,
});
