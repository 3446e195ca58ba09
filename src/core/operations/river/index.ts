import type * as z from 'zod';
import { formatLength } from '../../base';
import { boxAround, footOn, groundAt, placesOn, type Place } from '../drawn';
import { afterHeights, checkWhole, onWhole, tell, type Whole } from '../heights';
import { ORDER, type Operation } from '../operation';
import type { riverSchema } from './schema';

/** In samples and their units. */
interface Resolved {
  readonly line: readonly Place[];
  readonly mode: 'deepen' | 'raise';
  readonly depth: number;
  readonly half: number;
  readonly banks: number;
  readonly snap: boolean;
  readonly throughBorder: boolean;
  readonly uphill: boolean;
}

/** Heights before and after; what lies near the line comes on top. */
const HELD = { heights: 2, bytes: 0 };
/** Distances that differ by less, in samples, are the same. */
const AS_NEAR = 1e-9;
/** Places at which the bed is known lie so many samples apart at most. */
const STATIONS = 0.5;

/** A point moved to the lowest sample no farther away than `reach`; it stays where there is none. */
function lowestNear(ground: Whole, place: Place, reach: number): Place {
  const { left, right, top, bottom } = boxAround([place], reach, ground);
  let best = place;
  let low = Infinity;
  for (let y = top; y <= bottom; y++)
    for (let x = left; x <= right; x++) {
      const value = ground.data[y * ground.width + x]!;
      if (Math.hypot(x - place[0], y - place[1]) <= reach && value < low) {
        low = value;
        best = [x, y];
      }
    }
  return best;
}

/** Where a stretch from `inner` through `end` meets the border. */
function onBorder(inner: Place, end: Place, { width, height }: Whole): Place {
  const [dx, dy] = [end[0] - inner[0], end[1] - inner[1]];
  const way = (at: number, step: number, last: number): number =>
    step === 0 ? Infinity : ((step > 0 ? last : 0) - at) / step;
  const share = Math.min(way(end[0], dx, width - 1), way(end[1], dy, height - 1));
  if (!Number.isFinite(share)) return end;
  const held = (v: number, last: number): number => Math.max(0, Math.min(last, v));
  return [held(end[0] + share * dx, width - 1), held(end[1] + share * dy, height - 1)];
}

/** The line as it is followed, with the height of the bed at each place. */
function bedOf(
  ground: Whole,
  { line, mode, depth, half, snap, throughBorder, uphill }: Resolved,
): {
  readonly places: readonly Place[];
  readonly bed: Float64Array;
} {
  const points = snap ? line.map((p) => lowestNear(ground, p, 2 * half)) : [...line];
  if (throughBorder) {
    points.unshift(onBorder(points[1]!, points[0]!, ground));
    points.push(onBorder(points.at(-2)!, points.at(-1)!, ground));
  }
  const places: Place[] = [points[0]!];
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1]!, points[i]!];
    const parts = Math.max(1, Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1]) / STATIONS - AS_NEAR));
    for (let k = 1; k <= parts; k++)
      places.push([a[0] + ((b[0] - a[0]) * k) / parts, a[1] + ((b[1] - a[1]) * k) / parts]);
  }
  const sign = mode === 'deepen' ? -1 : 1;
  const bed = new Float64Array(places.length);
  let known = NaN;
  places.forEach((place, i) => {
    const own = groundAt(ground, place) + sign * depth;
    // over a void the bed goes on as it was
    const next = own === own ? own : known;
    const bound = sign < 0 ? Math.min(known, next) : Math.max(known, next);
    known = uphill || bound !== bound ? next : bound;
    bed[i] = known;
  });
  return { places, bed };
}

/** A bed or a dam along a line. */
export const river: Operation<z.infer<typeof riverSchema>, Resolved> = {
  words: ({ mode, depth, width, line }) =>
    `${mode === 'deepen' ? 'a bed' : 'a dam'} along a line of ${line.length} points, ${formatLength(depth)} ${mode === 'deepen' ? 'deep' : 'high'}, ${formatLength(width)} wide`,
  order: ORDER.heights,
  plan: (stage, { line, mode, depth, width, banks, snap, throughBorder, uphill }, { unitOf }) => {
    checkWhole(stage.info, 'a bed along a line', HELD);
    return {
      stage: afterHeights(stage, 'a bed along a line'),
      resolved: {
        line: placesOn(stage, line, 'a point of a line'),
        mode,
        depth: depth / unitOf(stage),
        half: width / 2 / stage.spacing,
        banks: banks / stage.spacing,
        snap: snap === true,
        throughBorder: throughBorder === true,
        uphill: uphill === true,
      },
    };
  },
  open: (input, resolved, stage, tally) =>
    onWhole(
      input,
      afterHeights(stage, 'a bed along a line').info,
      (ground, told) => {
        const { places, bed } = bedOf(ground, resolved);
        const { half, banks, mode } = resolved;
        const reach = half + banks;
        const { width } = ground;
        const before = ground.data.slice();
        /** The nearest stretch so far, of each sample that one reaches. */
        const nearest = new Map<number, { away: number; bed: number }>();
        for (let i = 1; i < places.length; i++) {
          const [a, b] = [places[i - 1]!, places[i]!];
          const { left, right, top, bottom } = boxAround([a, b], reach, ground);
          for (let y = top; y <= bottom; y++)
            for (let x = left; x <= right; x++) {
              const { share, away } = footOn([x, y], a, b);
              if (away > reach + AS_NEAR) continue;
              const level = bed[i - 1]! + (bed[i]! - bed[i - 1]!) * share;
              const found = nearest.get(y * width + x);
              if (!found || away < found.away - AS_NEAR) nearest.set(y * width + x, { away, bed: level });
              // of stretches that are as near, the one that changes more
              else if (away <= found.away + AS_NEAR && (mode === 'deepen' ? level < found.bed : level > found.bed))
                found.bed = level;
            }
        }
        for (const [i, { away, bed: level }] of nearest) {
          const own = before[i]!;
          if (own !== own || level !== level) continue;
          const back = away <= half + AS_NEAR || banks === 0 ? 0 : (away - half) / banks;
          const wanted = level + (own - level) * back;
          ground.data[i] = mode === 'deepen' ? Math.min(own, wanted) : Math.max(own, wanted);
          tell(told, own, ground.data[i]);
        }
      },
      tally,
    ),
};
