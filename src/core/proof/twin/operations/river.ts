import type { StepOf } from '../../../recipe';
import { changed, samplesOf, type Grid } from './heights';
import type { TwinOperation } from './operation';

type Point = readonly [number, number];

/** The ground between four samples, as far as they have a height; no number where less than half of it has. */
function between({ width, height, at }: Grid, [x, y]: Point): number {
  const [c, r] = [Math.floor(x), Math.floor(y)];
  const corners = [
    [c, r],
    [c + 1, r],
    [c, r + 1],
    [c + 1, r + 1],
  ] as const;
  const there = corners
    .filter(([column, row]) => column < width && row < height)
    .map(([column, row]) => ({
      share: (1 - Math.abs(x - column)) * (1 - Math.abs(y - row)),
      value: at[row * width + column]!,
    }))
    .filter(({ value }) => !Number.isNaN(value));
  const whole = there.reduce((n, { share }) => n + share, 0);
  if (whole < 0.499999999) return NaN;
  return there.reduce((n, { share, value }) => n + (share / whole) * value, 0);
}

/** How far it is to a stretch, and the share of the way along it. */
function toStretch([x, y]: Point, [ax, ay]: Point, [bx, by]: Point): readonly [away: number, share: number] {
  const long = Math.hypot(bx - ax, by - ay);
  if (long === 0) return [Math.hypot(x - ax, y - ay), 0];
  const along = ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long;
  const held = Math.min(long, Math.max(0, along));
  const [fx, fy] = [ax + ((bx - ax) * held) / long, ay + ((by - ay) * held) / long];
  return [Math.hypot(x - fx, y - fy), held / long];
}

/** Samples no farther than `reach` east, west, north and south of a stretch. */
function* around({ width, height }: Grid, [ax, ay]: Point, [bx, by]: Point, reach: number): Generator<number> {
  for (
    let row = Math.max(0, Math.floor(Math.min(ay, by) - reach));
    row <= Math.min(height - 1, Math.max(ay, by) + reach);
    row++
  )
    for (
      let column = Math.max(0, Math.floor(Math.min(ax, bx) - reach));
      column <= Math.min(width - 1, Math.max(ax, bx) + reach);
      column++
    )
      yield row * width + column;
}

/** The line as it is walked: to the valley floor and through the border where that is asked for, in half samples. */
function walked(
  grid: Grid,
  { snap, throughBorder, width }: StepOf<'river'>,
  line: readonly Point[],
  spacing: number,
): Point[] {
  let points = line.map((p): Point => p);
  if (snap)
    points = points.map(([x, y]) => {
      let best: Point = [x, y];
      let low = Infinity;
      for (const i of around(grid, [x, y], [x, y], width / spacing)) {
        const [column, row] = [i % grid.width, Math.floor(i / grid.width)];
        const height = grid.at[i]!;
        if (Math.hypot(column - x, row - y) > width / spacing || !(height < low)) continue;
        low = height;
        best = [column, row];
      }
      return best;
    });
  if (throughBorder) {
    const beyond = ([ax, ay]: Point, [bx, by]: Point): Point => {
      // the first of the four borders that is met
      let share = Infinity;
      if (bx > ax) share = Math.min(share, (grid.width - 1 - bx) / (bx - ax));
      if (bx < ax) share = Math.min(share, bx / (ax - bx));
      if (by > ay) share = Math.min(share, (grid.height - 1 - by) / (by - ay));
      if (by < ay) share = Math.min(share, by / (ay - by));
      if (share === Infinity) return [bx, by];
      const [x, y] = [bx + share * (bx - ax), by + share * (by - ay)];
      return [Math.min(grid.width - 1, Math.max(0, x)), Math.min(grid.height - 1, Math.max(0, y))];
    };
    points = [beyond(points[1]!, points[0]!), ...points, beyond(points.at(-2)!, points.at(-1)!)];
  }
  return points.flatMap((p, i): Point[] => {
    const from = points[i - 1];
    if (!from) return [p];
    const parts = Math.max(1, Math.ceil(Math.hypot(p[0] - from[0], p[1] - from[1]) / 0.5 - 1e-9));
    return Array.from({ length: parts }, (_, k): Point => {
      const share = (k + 1) / parts;
      return [from[0] * (1 - share) + p[0] * share, from[1] * (1 - share) + p[1] * share];
    });
  });
}

/** A bed or a dam a second time: each sample looks for the nearest place of the whole line. */
export const river: TwinOperation<StepOf<'river'>> = (before, step, context) => ({
  stage: changed(before, context, (grid) => {
    const { mode, depth, width, banks, uphill } = step;
    const { spacing } = context;
    const { unit } = samplesOf(context);
    const line = step.line.map(([east, south]): Point => [east / spacing, south / spacing]);
    const places = walked(grid, step, line, spacing);
    const down = mode === 'deepen';
    const bed: number[] = [];
    for (const place of places) {
      const own = between(grid, place) + ((down ? -1 : 1) * depth) / unit;
      const last = bed.at(-1) ?? NaN;
      if (Number.isNaN(own)) bed.push(last);
      else if (uphill || Number.isNaN(last)) bed.push(own);
      else bed.push(down ? Math.min(last, own) : Math.max(last, own));
    }
    const [flat, reach] = [width / 2 / spacing, (width / 2 + banks) / spacing];
    const nearest = new Float64Array(grid.at.length).fill(Infinity);
    const levels = new Float64Array(grid.at.length).fill(NaN);
    for (let k = 1; k < places.length; k++)
      for (const i of around(grid, places[k - 1]!, places[k]!, reach)) {
        const [away, share] = toStretch([i % grid.width, Math.floor(i / grid.width)], places[k - 1]!, places[k]!);
        const level = bed[k - 1]! * (1 - share) + bed[k]! * share;
        const nearer = away - nearest[i]!;
        // where two are as near, the lower bed or the higher dam
        if (nearer > 1e-9) continue;
        if (nearer >= -1e-9) levels[i] = down ? Math.min(levels[i]!, level) : Math.max(levels[i]!, level);
        else {
          nearest[i] = away;
          levels[i] = level;
        }
      }
    return grid.at.map((own, i) => {
      const [least, level] = [nearest[i]!, levels[i]!];
      if (Number.isNaN(own)) return NaN;
      if (least > reach + 1e-9 || Number.isNaN(level)) return own;
      const back = least > flat + 1e-9 && reach > flat ? (least - flat) / (reach - flat) : 0;
      const wanted = level * (1 - back) + own * back;
      return down ? Math.min(own, wanted) : Math.max(own, wanted);
    });
  }),
  counts: true,
});
