import type * as z from 'zod';
import { formatLength, formatShort, LevelGridError } from '../../base';
import { boxAround, footOn, inside, placesOn, type Place } from '../drawn';
import { afterHeights, checkWhole, onWhole, tell, type Whole } from '../heights';
import { ORDER, type Operation } from '../operation';
import type { areaSchema } from './schema';

/** In samples and their units: `by` is an elevation, a rise, or the standard deviation of a Gaussian. */
interface Resolved {
  readonly ring: readonly Place[];
  readonly mode: 'level' | 'raise' | 'smooth';
  readonly by: number;
  readonly border: number;
}

/** Heights before and after; where it is smoothed, sums of the area come on top. */
const HELD = { heights: 2, bytes: 0 };
/** As in smoothing everywhere. */
const REACH = 4;
const MOST_SIGMA = 256;

interface Box {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

/** The ground within a box weighed by a Gaussian over what is there, along rows and then down columns. */
function blurred(
  { data, width, height }: Whole,
  { left, right, top, bottom }: Box,
  sigma: number,
): (x: number, y: number) => number {
  const reach = Math.ceil(REACH * sigma);
  const share = Float64Array.from({ length: reach + 1 }, (_, d) => Math.exp(-(d * d) / (2 * sigma * sigma)));
  const [from, to] = [Math.max(0, top - reach), Math.min(height - 1, bottom + reach)];
  const wide = right - left + 1;
  const sums = new Float64Array(wide * (to - from + 1));
  const weights = new Float64Array(sums.length);
  for (let y = from; y <= to; y++)
    for (let x = left; x <= right; x++) {
      const at = (y - from) * wide + x - left;
      for (let u = Math.max(0, x - reach); u <= Math.min(width - 1, x + reach); u++) {
        const value = data[y * width + u]!;
        if (value !== value) continue;
        const w = share[Math.abs(u - x)]!;
        sums[at] = sums[at]! + w * value;
        weights[at] = weights[at]! + w;
      }
    }
  return (x, y) => {
    let [sum, weight] = [0, 0];
    for (let v = Math.max(from, y - reach); v <= Math.min(to, y + reach); v++) {
      const at = (v - from) * wide + x - left;
      const w = share[Math.abs(v - y)]!;
      sum += w * sums[at]!;
      weight += w * weights[at]!;
    }
    return sum / weight;
  };
}

/** A drawn area levelled, raised or smoothed. */
export const area: Operation<z.infer<typeof areaSchema>, Resolved> = {
  words: ({ mode, by }) =>
    mode === 'level'
      ? `an area brought to ${formatShort(by)} m`
      : mode === 'smooth'
        ? `an area smoothed over ${formatLength(by)}`
        : `an area ${by < 0 ? 'lowered' : 'raised'} by ${formatLength(Math.abs(by))}`,
  order: ORDER.heights,
  plan: (stage, { ring, mode, by, border }, { sampleOf, unitOf }) => {
    checkWhole(stage.info, 'a drawn area', HELD);
    const sigma = by / stage.spacing;
    if (mode === 'smooth' && sigma > MOST_SIGMA)
      throw new LevelGridError('too-large', {
        found: `a radius of ${formatLength(by)}, ${formatShort(sigma, 1)} samples`,
        expected: `at most ${MOST_SIGMA} samples`,
        remedy: 'Take a smaller radius.',
      });
    return {
      stage: afterHeights(stage, 'a drawn area'),
      resolved: {
        ring: placesOn(stage, ring, 'a corner of an area'),
        mode,
        by: mode === 'level' ? sampleOf(stage, by) : mode === 'raise' ? by / unitOf(stage) : sigma,
        border: border / stage.spacing,
      },
    };
  },
  open: (input, { ring, mode, by, border }, stage, tally) =>
    onWhole(
      input,
      afterHeights(stage, 'a drawn area').info,
      (ground, told) => {
        const { width } = ground;
        const before = ground.data.slice();
        const box = boxAround(ring, 0, ground);
        const { left, right, top, bottom } = box;
        const smooth = mode === 'smooth' ? blurred({ ...ground, data: before }, box, by) : null;
        for (let y = top; y <= bottom; y++)
          for (let x = left; x <= right; x++) {
            const i = y * width + x;
            const own = before[i]!;
            if (own !== own || !inside(ring, [x, y])) continue;
            const away = ring.reduce(
              (least, a, k) => Math.min(least, footOn([x, y], a, ring[(k + 1) % ring.length]!).away),
              Infinity,
            );
            const share = border === 0 ? 1 : Math.min(1, away / border);
            const wanted = smooth ? smooth(x, y) : mode === 'level' ? by : own + by;
            ground.data[i] = own + share * (wanted - own);
            tell(told, own, ground.data[i]);
          }
      },
      tally,
    ),
};
