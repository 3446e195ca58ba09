import type { StepOf } from '../../../recipe';
import { lookedUp } from './looked-up';
import type { TwinOperation } from './operation';
import { MOVED } from './rotate';

/** Unknowns of three linear equations, by elimination with the largest pivot first. */
function solved(rows: readonly (readonly number[])[]): number[] {
  const m = rows.map((row) => [...row]);
  for (let k = 0; k < 3; k++) {
    const best = [k, k + 1, k + 2]
      .filter((i) => i < 3)
      .reduce((a, b) => (Math.abs(m[b]![k]!) > Math.abs(m[a]![k]!) ? b : a));
    [m[k], m[best]] = [m[best]!, m[k]!];
    for (let i = 0; i < 3; i++) {
      if (i === k) continue;
      const share = m[i]![k]! / m[k]![k]!;
      m[i] = m[i]!.map((v, c) => v - share * m[k]![c]!);
    }
  }
  return m.map((row, k) => row[3]! / row[k]!);
}

/**
 * Ground moved onto control points a second time: the normal equations of the least squares, with its three unknowns each
 * way, in kilometres so that they are of one size.
 */
export const warp: TwinOperation<StepOf<'warp'>> = (before, { points }, { spacing }) => {
  const km = points.map(([from, to]) => [...from, ...to].map((metres) => metres / 1000));
  const rowOf = ([x, y]: number[]): number[] => [x!, y!, 1];
  const along = (axis: 2 | 3): number[] =>
    solved(
      [0, 1, 2].map((r) => [
        ...[0, 1, 2].map((c) => km.reduce((sum, p) => sum + rowOf(p)[r]! * rowOf(p)[c]!, 0)),
        km.reduce((sum, p) => sum + rowOf(p)[r]! * p[axis]!, 0),
      ]),
    );
  const [[a = 0, b = 0, c = 0], [d = 0, e = 0, f = 0]] = [along(2), along(3)];
  const unit = 1000 / spacing;
  return {
    stage: lookedUp(before, (x, y) => {
      // the place before: what the map brings here (G. Cramer, 1750)
      const [u, v] = [x / unit - c, y / unit - f];
      const area = a * e - b * d;
      return [((u * e - b * v) / area) * unit, ((a * v - u * d) / area) * unit];
    }),
    judged: MOVED,
  };
};
