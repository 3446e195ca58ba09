import { formatLength, LevelGridError } from '../base';
import type { Whole } from './heights';
import type { Stage } from './operation';

/* What is drawn on the ground: places in metres east and south of its north-west sample, before turns. */

/** A place in samples: column and row, with fractions. */
export type Place = readonly [x: number, y: number];

/** Drawn places in samples of a stage. Throws where one lies outside the ground; `what`: what was drawn. */
export function placesOn(stage: Stage, drawn: readonly (readonly [number, number])[], what: string): Place[] {
  const { spacing, info } = stage;
  const places = drawn.map(([east, south]): Place => [east / spacing, south / spacing]);
  const outside = places.findIndex(([x, y]) => !(x >= 0 && y >= 0 && x <= info.width - 1 && y <= info.height - 1));
  if (outside < 0) return places;
  const [east, south] = drawn[outside]!;
  throw new LevelGridError('crop-outside', {
    found: `${what} ${formatLength(east)} east and ${formatLength(south)} south of the first sample`,
    expected: `a place on the ground, ${formatLength((info.width - 1) * spacing)} × ${formatLength((info.height - 1) * spacing)}`,
    remedy: 'Move it onto the ground.',
  });
}

/** Of what lies around a place so much must hold a height: half of it, and not less by its last bits. */
const ENOUGH = 0.5 - 1e-9;

/** The ground at a place, between its four samples; of these only those with a height count. NaN where less than half is there. */
export function groundAt({ data, width, height }: Whole, [x, y]: Place): number {
  const [column, row] = [Math.floor(x), Math.floor(y)];
  let sum = 0;
  let weight = 0;
  for (let r = row; r <= row + 1; r++)
    for (let c = column; c <= column + 1; c++) {
      if (c >= width || r >= height) continue;
      const share = (1 - Math.abs(x - c)) * (1 - Math.abs(y - r));
      const value = data[r * width + c]!;
      if (value !== value) continue;
      sum += share * value;
      weight += share;
    }
  return weight >= ENOUGH ? sum / weight : NaN;
}

/** Where a place lies beside a stretch from `a` to `b`: the share of the way to its foot, and how far away that is. */
export function footOn(place: Place, a: Place, b: Place): { readonly share: number; readonly away: number } {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const long = dx * dx + dy * dy;
  const along = long === 0 ? 0 : ((place[0] - a[0]) * dx + (place[1] - a[1]) * dy) / long;
  const share = Math.max(0, Math.min(1, along));
  return { share, away: Math.hypot(place[0] - a[0] - share * dx, place[1] - a[1] - share * dy) };
}

/** Whether a place lies within a ring: a ray to the east crosses it an odd number of times. */
export function inside(ring: readonly Place[], [x, y]: Place): boolean {
  let within = false;
  ring.forEach((a, i) => {
    const b = ring[(i + 1) % ring.length]!;
    if (a[1] > y !== b[1] > y && x < a[0] + ((y - a[1]) / (b[1] - a[1])) * (b[0] - a[0])) within = !within;
  });
  return within;
}

/** Samples no farther than `reach` from a box of places. */
export function boxAround(
  places: readonly Place[],
  reach: number,
  { width, height }: Pick<Whole, 'width' | 'height'>,
): { readonly left: number; readonly right: number; readonly top: number; readonly bottom: number } {
  const xs = places.map(([x]) => x);
  const ys = places.map(([, y]) => y);
  return {
    left: Math.max(0, Math.floor(Math.min(...xs) - reach)),
    right: Math.min(width - 1, Math.ceil(Math.max(...xs) + reach)),
    top: Math.max(0, Math.floor(Math.min(...ys) - reach)),
    bottom: Math.min(height - 1, Math.ceil(Math.max(...ys) + reach)),
  };
}
