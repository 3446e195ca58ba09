import type * as z from 'zod';
import { checkpoint, formatShort, LevelGridError, type JobContext } from '../../base';
import { afterHeights, checkWhole, onWhole, type Whole } from '../heights';
import { ORDER, type Operation } from '../operation';
import { membrane } from './membrane';
import type { fillVoidsSchema } from './schema';
import { voidsOf, type Void } from './voids';

type Params = z.infer<typeof fillVoidsSchema>;

interface Resolved {
  readonly method: Params['method'];
  /** In samples of the stage. */
  readonly elevation: number | null;
}

const WORDS: Record<Exclude<Params['method'], 'elevation'>, string> = {
  membrane: 'voids filled smoothly from their edges',
  distance: 'voids filled from their edges, nearer ones counting more',
  lowest: 'voids filled with the lowest sample beside each',
};

/** Heights and a mark; a void comes on top while it is filled, by the size of its own. */
const HELD = { heights: 1, bytes: 1 };

/** Each sample of a void as the mean of its border samples, weighed by the inverse square of their distance. */
function byDistance({ data, width }: Whole, { samples, border }: Void, job?: JobContext): Float64Array {
  const count = border.length;
  const xs = Float64Array.from(border, (i) => i % width);
  const ys = Float64Array.from(border, (i) => Math.floor(i / width));
  const values = Float64Array.from(border, (i) => data[i]!);
  return Float64Array.from(samples, (i, k) => {
    if (k % 1024 === 0) checkpoint(job);
    const [x, y] = [i % width, Math.floor(i / width)];
    let sum = 0;
    let weight = 0;
    for (let b = 0; b < count; b++) {
      const [dx, dy] = [xs[b]! - x, ys[b]! - y];
      const w = 1 / (dx * dx + dy * dy);
      sum += w * values[b]!;
      weight += w;
    }
    return sum / weight;
  });
}

const lowestOf = ({ data }: Whole, { border }: Void): number =>
  border.reduce((low, i) => Math.min(low, data[i]!), Infinity);

const nothing = (): LevelGridError =>
  new LevelGridError('voids', {
    found: 'ground without a single height',
    expected: 'some ground around the voids that are to be filled',
    remedy: 'Switch the steps off that made it so, or give voids an elevation.',
  });

/** Voids filled, each by itself. */
export const fillVoids: Operation<Params, Resolved> = {
  words: ({ method, elevation }) =>
    method === 'elevation' ? `voids become ${formatShort(elevation ?? 0)} m` : WORDS[method],
  order: ORDER.heights,
  plan: (stage, { method, elevation }, { sampleOf }) => {
    checkWhole(stage.info, 'filling voids', HELD);
    return {
      stage: afterHeights(stage, 'filling voids'),
      resolved: { method, elevation: elevation === undefined ? null : sampleOf(stage, elevation) },
    };
  },
  open: (input, { method, elevation }, stage, tally) =>
    onWhole(
      input,
      afterHeights(stage, 'filling voids').info,
      (ground, told, job) => {
        const { data } = ground;
        // all are looked at before any is filled, or one would be the border of the next
        const voids = [...voidsOf(ground)];
        const all = voids.reduce((n, v) => n + v.samples.length, 0);
        let done = 0;
        for (const hole of voids) {
          checkpoint(job);
          const { samples, border } = hole;
          if (elevation === null && border.length === 0) throw nothing();
          const filled =
            elevation !== null
              ? elevation
              : method === 'lowest'
                ? lowestOf(ground, hole)
                : method === 'distance'
                  ? byDistance(ground, hole, job)
                  : membrane(ground, hole, job);
          samples.forEach((i, k) => (data[i] = typeof filled === 'number' ? filled : filled[k]!));
          told?.add(NaN, samples.length);
          done += samples.length;
          job?.report?.(done, all);
        }
      },
      tally,
    ),
};
