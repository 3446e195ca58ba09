import type { StepOf } from '../../../recipe';
import { changed, samplesOf, type Grid } from './heights';
import type { TwinOperation } from './operation';

type Point = readonly [number, number];

/** How often the outline goes around a place: none where it lies outside, counted by crossings with their way. */
export function windings(ring: readonly Point[], [x, y]: Point): number {
  let around = 0;
  ring.forEach(([ax, ay], i) => {
    const [bx, by] = ring[(i + 1) % ring.length]!;
    // above zero where the place lies to the left of the way from a to b
    const left = (bx - ax) * (y - ay) - (x - ax) * (by - ay);
    if (ay <= y && by > y && left > 0) around++;
    if (ay > y && by <= y && left < 0) around--;
  });
  return around;
}

function toOutline(ring: readonly Point[], [x, y]: Point): number {
  let least = Infinity;
  ring.forEach(([ax, ay], i) => {
    const [bx, by] = ring[(i + 1) % ring.length]!;
    const square = (bx - ax) ** 2 + (by - ay) ** 2;
    const share = square > 0 ? Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / square)) : 0;
    least = Math.min(least, Math.hypot(x - ax - share * (bx - ax), y - ay - share * (by - ay)));
  });
  return least;
}

/** A Gaussian mean around a sample, along rows first. */
function meanAround({ width, height, at }: Grid, x: number, y: number, sigma: number): number {
  const reach = Math.ceil(4 * sigma);
  const share = (d: number): number => Math.exp(-0.5 * (d / sigma) ** 2);
  let [sum, weight] = [0, 0];
  for (let row = Math.max(0, y - reach); row <= Math.min(height - 1, y + reach); row++) {
    let [rowSum, rowWeight] = [0, 0];
    for (let column = Math.max(0, x - reach); column <= Math.min(width - 1, x + reach); column++) {
      const value = at[row * width + column]!;
      if (Number.isNaN(value)) continue;
      rowSum += share(column - x) * value;
      rowWeight += share(column - x);
    }
    sum += share(row - y) * rowSum;
    weight += share(row - y) * rowWeight;
  }
  return sum / weight;
}

/** A drawn area a second time. Of an outline that crosses itself the parts that it goes around an odd number of times. */
export const area: TwinOperation<StepOf<'area'>> = (before, { ring, mode, by, border }, context) => ({
  stage: changed(before, context, (grid) => {
    const { spacing } = context;
    const { unit, of } = samplesOf(context);
    const outline = ring.map(([east, south]): Point => [east / spacing, south / spacing]);
    const [xs, ys] = [outline.map(([x]) => x), outline.map(([, y]) => y)];
    const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    return grid.at.map((own, i) => {
      const place: Point = [i % grid.width, Math.floor(i / grid.width)];
      const near = place[0] >= left && place[0] <= right && place[1] >= top && place[1] <= bottom;
      if (Number.isNaN(own) || !near || windings(outline, place) % 2 === 0) return own;
      const share = border > 0 ? Math.min(1, (toOutline(outline, place) * spacing) / border) : 1;
      const wanted =
        mode === 'level'
          ? of(by)
          : mode === 'raise'
            ? own + by / unit
            : meanAround(grid, ...(place as [number, number]), by / spacing);
      return own * (1 - share) + wanted * share;
    });
  }),
  counts: true,
});
