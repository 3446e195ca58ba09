import type * as z from 'zod';
import { formatLength } from '../../base';
import { placesOn } from '../drawn';
import { afterHeights, checkWhole, onWhole, tell } from '../heights';
import { ORDER, type Operation } from '../operation';
import { squaredDistances } from '../sea/distance';
import { reachable, wet } from '../sea/select';
import type { lakeSchema } from './schema';

/** In samples and their units. */
interface Resolved {
  readonly column: number;
  readonly row: number;
  readonly depth: number;
  readonly banks: number;
  readonly flat: number;
}

/** Metres by which the surface of a lake may differ. */
const FLAT = 0.01;
/** Heights; three marks and a distance. */
const HELD = { heights: 1, bytes: 3 + 4 };

/** A flat lake given a bed. */
export const lake: Operation<z.infer<typeof lakeSchema>, Resolved> = {
  words: ({ depth }) => `a lake gets a bed ${formatLength(depth)} deep`,
  order: ORDER.heights,
  plan: (stage, { spot, depth, banks }, { unitOf }) => {
    checkWhole(stage.info, 'the bed of a lake', HELD);
    const [[x, y]] = placesOn(stage, [spot], 'the spot of a lake') as [readonly [number, number]];
    return {
      stage: afterHeights(stage, 'the bed of a lake'),
      resolved: {
        column: Math.round(x),
        row: Math.round(y),
        depth: depth / unitOf(stage),
        banks: banks / stage.spacing,
        flat: FLAT / unitOf(stage),
      },
    };
  },
  open: (input, { column, row, depth, banks, flat }, stage, tally) =>
    onWhole(
      input,
      afterHeights(stage, 'the bed of a lake').info,
      (ground, told) => {
        const { data, width, height } = ground;
        const spot = row * width + column;
        const level = data[spot]!;
        if (level !== level) return;
        const marks = reachable(wet(ground, { level, tolerance: flat, maxSlope: null }), ground, [spot]);
        const shore = marks.map((mark, i) => (mark === 0 && data[i] === data[i] ? 1 : 0));
        const away = squaredDistances(shore, width, height);
        for (let i = 0; i < data.length; i++) {
          if (marks[i] === 0) continue;
          const before = data[i]!;
          const share = banks === 0 ? 1 : Math.min(1, Math.sqrt(away[i]!) / banks);
          data[i] = level - depth * share;
          tell(told, before, data[i]!);
        }
      },
      tally,
    ),
};
