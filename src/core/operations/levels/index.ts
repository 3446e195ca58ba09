import type * as z from 'zod';
import { formatShort } from '../../base';
import type { StoredSamples } from '../../raster';
import { afterHeights, floatsFor, tell } from '../heights';
import { ORDER, type ChangeTally, type Operation } from '../operation';
import { pointwise } from '../pointwise';
import type { levelsSchema } from './schema';

/** Points in samples of the stage. */
type Points = readonly (readonly [from: number, to: number])[];

/** What a height becomes. */
function curveThrough(points: Points): (value: number) => number {
  const [first, last] = [points[0]!, points.at(-1)!];
  return (value) => {
    if (value <= first[0]) return value - first[0] + first[1];
    if (value >= last[0]) return value - last[0] + last[1];
    let k = 1;
    while (value > points[k]![0]) k++;
    const [a, b] = [points[k - 1]!, points[k]!];
    return a[1] + ((value - a[0]) / (b[0] - a[0])) * (b[1] - a[1]);
  };
}

/** A curve of elevation to elevation: summits compressed, lowland lifted. */
export const levels: Operation<z.infer<typeof levelsSchema>, { readonly points: Points }> = {
  words: ({ points }) =>
    `levels: ${points
      .slice(0, 4)
      .map(([from, to]) => `${formatShort(from)} m to ${formatShort(to)} m`)
      .join(', ')}${points.length > 4 ? ` and ${points.length - 4} more` : ''}`,
  order: ORDER.heights,
  plan: (stage, { points }, { sampleOf }) => ({
    stage: afterHeights(stage, 'levels'),
    resolved: { points: points.map(([from, to]) => [sampleOf(stage, from), sampleOf(stage, to)] as const) },
  }),
  open: ({ base, orientation }, { points }, stage, tally) => {
    const info = afterHeights(stage, 'levels').info;
    const become = curveThrough(points);
    const work = (told?: ChangeTally) => (data: StoredSamples) => {
      const out = floatsFor(info, data.length);
      for (let i = 0; i < data.length; i++) {
        const value = data[i] as number;
        const next = value - value === 0 ? become(value) : NaN;
        out[i] = next;
        if (value - value === 0) tell(told, value, out[i]!);
      }
      return out;
    };
    return { base: pointwise(base, info, work(), work(tally)), orientation, files: null };
  },
};
