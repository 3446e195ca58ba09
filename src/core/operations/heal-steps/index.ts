import type * as z from 'zod';
import { formatShort } from '../../base';
import { inside, placesOn, type Place } from '../drawn';
import { afterHeights, checkWhole, onWhole, tell } from '../heights';
import { ORDER, type Operation } from '../operation';
import { relaxed } from './relax';
import type { healStepsSchema } from './schema';
import { flatRuns, stepOf } from './terraces';

/** In the unit of samples; `step`: null where it is found from them. */
interface Resolved {
  readonly step: number | null;
  readonly cut: boolean;
  readonly ring: readonly Place[] | null;
}

/** Heights as they came, the surface as doubles, coarser ones, and what may move. */
const HELD = { heights: 1, bytes: 12 };
/** The upper end of a step belongs to the next one: a sample keeps away from it by this share. */
const SHORT_OF_NEXT = 1 / 128;

/**
 * Flat runs of a coarse source become the smooth ground that they were stored of: each of their samples moves within its own
 * step alone, so that it is stored as it was; samples of no flat run (cliffs, ridges, steep and rough ground) stay, and so do the
 * lowest and highest.
 */
export const healSteps: Operation<z.infer<typeof healStepsSchema>, Resolved> = {
  words: ({ step, ring }) =>
    `stairs${step === undefined ? '' : ` of ${formatShort(step)} m`} made slopes${ring ? ' within an area' : ''}`,
  order: ORDER.heights,
  plan: (stage, { step, stored, ring }, { unitOf }) => {
    checkWhole(stage.info, 'making slopes of stairs', HELD);
    return {
      stage: afterHeights(stage, 'making slopes of stairs'),
      resolved: {
        step: step === undefined ? null : step / unitOf(stage),
        cut: stored === 'cut',
        ring: ring ? placesOn(stage, ring, 'a corner of an area') : null,
      },
    };
  },
  open: (input, { step: typed, cut, ring }, stage, tally) =>
    onWhole(
      input,
      afterHeights(stage, 'making slopes of stairs').info,
      ({ data, width, height }, told, job) => {
        const step = Math.abs(typed ?? stepOf(data));
        if (step === 0) return;
        let [lowest, highest] = [Infinity, -Infinity];
        for (const value of data) {
          if (value < lowest) lowest = value;
          if (value > highest) highest = value;
        }
        const flat = flatRuns({ data, width, height }, step, ring ? (x, y) => inside(ring, [x, y]) : null);
        const below = cut ? 0 : step / 2;
        const above = step - below - step * SHORT_OF_NEXT;
        const surface = relaxed({ data, width, height, flat }, { below, above, lowest, highest }, job);
        for (let i = 0; i < data.length; i++) {
          if (flat[i] === 0) continue;
          const before = data[i]!;
          data[i] = surface[i]!;
          tell(told, before, data[i]!);
        }
      },
      tally,
    ),
};
