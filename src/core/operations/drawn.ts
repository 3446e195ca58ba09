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

/** The ground at a place, between its four samples; NaN where one of them is a void. */
export function groundAt({ data, width, height }: Whole, [x, y]: Place): number {
  const column = Math.max(0, Math.min(width - 2, Math.floor(x)));
  const row = Math.max(0, Math.min(height - 2, Math.floor(y)));
  const [u, v] = [width > 1 ? x - column : 0, height > 1 ? y - row : 0];
  const at = (c: number, r: number): number => data[Math.min(height - 1, r) * width + Math.min(width - 1, c)]!;
  const north = u === 0 ? at(column, row) : at(column, row) * (1 - u) + at(column + 1, row) * u;
  if (v === 0) return north;
  const south = u === 0 ? at(column, row + 1) : at(column, row + 1) * (1 - u) + at(column + 1, row + 1) * u;
  return north * (1 - v) + south * v;
}

/** Where a place lies beside a stretch from `a` to `b`: the share of the way to its foot, and how far away that is. */
export function footOn(place: Place, a: Place, b: Place): { readonly share: number; readonly away: number } {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const long = dx * dx + dy * dy;
  const along = long === 0 ? 0 : ((place[0] - a[0]) * dx + (place[1] - a[1]) * dy) / long;
  const share = Math.max(0, Math.min(1, along));
  return { share, away: Math.hypot(place[0] - a[0] - share * dx, place[1] - a[1] - share * dy) };
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
