/** A place in the plane. */
export type Pair = readonly [x: number, y: number];

/** An affine map of the plane: x becomes `xx·x + xy·y + x0`, y becomes `yx·x + yy·y + y0`. */
export interface Affine {
  readonly xx: number;
  readonly xy: number;
  readonly x0: number;
  readonly yx: number;
  readonly yy: number;
  readonly y0: number;
}

export const IDENTITY: Affine = { xx: 1, xy: 0, x0: 0, yx: 0, yy: 1, y0: 0 };

/** Where a place comes to lie. */
export const affinePlace = ({ xx, xy, x0, yx, yy, y0 }: Affine, [x, y]: Pair): Pair => [
  xx * x + xy * y + x0,
  yx * x + yy * y + y0,
];

/** Where a way from place to place comes to lie: what is only added falls out. */
export const affineWay = ({ xx, xy, yx, yy }: Affine, [x, y]: Pair): Pair => [xx * x + xy * y, yx * x + yy * y];

/** One map after another. */
export function affineThen(first: Affine, second: Affine): Affine {
  const [xx, yx] = affineWay(second, [first.xx, first.yx]);
  const [xy, yy] = affineWay(second, [first.xy, first.yy]);
  const [x0, y0] = affinePlace(second, [first.x0, first.y0]);
  return { xx, xy, x0, yx, yy, y0 };
}

/** The way back; null where the map leaves no area. */
export function affineBack({ xx, xy, x0, yx, yy, y0 }: Affine): Affine | null {
  const area = xx * yy - xy * yx;
  if (!(Math.abs(area) > 1e-12)) return null;
  const back = { xx: yy / area, xy: -xy / area, yx: -yx / area, yy: xx / area };
  const [x, y] = affineWay({ ...back, x0: 0, y0: 0 }, [x0, y0]);
  return { ...back, x0: -x, y0: -y };
}

/** Of three or more places, their spread across the line that they lie nearest to, as a share of that along it. */
const LEAST_SPREAD = 1e-4;

/**
 * The affine map that brings places nearest to others, by the least sum of squared distances (C. F. Gauss); null where the
 * places lie on one line or in one spot, so that any number of maps would do.
 */
export function nearestAffine(points: readonly (readonly [from: Pair, to: Pair])[]): Affine | null {
  const n = points.length;
  const mean = (of: (point: readonly [Pair, Pair]) => number): number => points.reduce((a, p) => a + of(p), 0) / n;
  const [mx, my] = [mean(([from]) => from[0]), mean(([from]) => from[1])];
  const [tx, ty] = [mean(([, to]) => to[0]), mean(([, to]) => to[1])];
  const sum = (of: (dx: number, dy: number, to: Pair) => number): number =>
    points.reduce((a, [[x, y], [u, v]]) => a + of(x - mx, y - my, [u - tx, v - ty]), 0);
  const [sxx, sxy, syy] = [sum((x) => x * x), sum((x, y) => x * y), sum((_, y) => y * y)];
  const area = sxx * syy - sxy * sxy;
  if (n < 3 || !(area > (LEAST_SPREAD * (sxx + syy)) ** 2)) return null;
  const along = (axis: 0 | 1): Pair => {
    const [a, b] = [sum((x, _, to) => x * to[axis]), sum((_, y, to) => y * to[axis])];
    return [(a * syy - b * sxy) / area, (b * sxx - a * sxy) / area];
  };
  const [[xx, xy], [yx, yy]] = [along(0), along(1)];
  return { xx, xy, x0: tx - xx * mx - xy * my, yx, yy, y0: ty - yx * mx - yy * my };
}
