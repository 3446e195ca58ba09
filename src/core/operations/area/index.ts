import type * as z from 'zod';
import { formatLength, formatShort, LevelGridError } from '../../base';
import { boxAround, footOn, placesOn, type Place } from '../drawn';
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

/** Bytes for each sample: heights before and after. */
const BYTES = 8;
/** As in smoothing everywhere. */
const REACH = 4;
const MOST_SIGMA = 256;

/** Whether a place lies within a ring: a ray to the east crosses it an odd number of times. */
function inside(ring: readonly Place[], [x, y]: Place): boolean {
  let within = false;
  ring.forEach((a, i) => {
    const b = ring[(i + 1) % ring.length]!;
    if (a[1] > y !== b[1] > y && x < a[0] + ((y - a[1]) / (b[1] - a[1])) * (b[0] - a[0])) within = !within;
  });
  return within;
}

/** The mean around a sample, weighed by a Gaussian over what is there. */
function blurred({ width, height }: Whole, data: Whole['data'], x: number, y: number, sigma: number): number {
  const reach = Math.ceil(REACH * sigma);
  let [sum, weight] = [0, 0];
  for (let v = Math.max(0, y - reach); v <= Math.min(height - 1, y + reach); v++)
    for (let u = Math.max(0, x - reach); u <= Math.min(width - 1, x + reach); u++) {
      const value = data[v * width + u]!;
      if (value !== value) continue;
      const w = Math.exp(-((u - x) ** 2 + (v - y) ** 2) / (2 * sigma * sigma));
      sum += w * value;
      weight += w;
    }
  return sum / weight;
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
    checkWhole(stage.info, 'a drawn area', BYTES);
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
        const { left, right, top, bottom } = boxAround(ring, 0, ground);
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
            const wanted = mode === 'level' ? by : mode === 'raise' ? own + by : blurred(ground, before, x, y, by);
            ground.data[i] = own + share * (wanted - own);
            tell(told, own, ground.data[i]);
          }
      },
      tally,
    ),
};
