import { fittedWindow } from '../chain';
import type { Work } from '../plan';
import type { Recipe } from '../recipe';
import { elevationAt, writtenHeights, type MapSource } from './tiles';

/** Elevations along a line on the map, source and result, at even distances. */
export interface Profile {
  readonly source: Float32Array;
  /** As the target will show it: fitted, rounded to codes, read back. NaN beyond the grid. */
  readonly result: Float32Array;
  /** Metres from A to B in the target's world. */
  readonly length: number;
  /** Steepest slope of the source in degrees, and rise from A to B in metres. */
  readonly steepest: number;
  readonly rise: number;
}

/** A position on the map, in source samples. */
export interface MapPoint {
  readonly x: number;
  readonly y: number;
}

/** World height of the result at a place given in source samples; NaN beyond the grid. */
export function resultAt(source: MapSource, work: Work, at: MapPoint): number {
  const { geometry } = work;
  const vx = (at.x - geometry.sourceStart.x) / geometry.sourcePerVertex.x;
  const vy = (at.y - geometry.sourceStart.y) / geometry.sourcePerVertex.y;
  if (vx < -1e-6 || vy < -1e-6 || vx > geometry.width - 1 + 1e-6 || vy > geometry.height - 1 + 1e-6) return NaN;
  const x = Math.max(0, Math.min(geometry.width - 2, Math.floor(vx)));
  const y = Math.max(0, Math.min(geometry.height - 2, Math.floor(vy)));
  const [a = 0, b = 0, c = 0, d = 0] = writtenHeights(
    fittedWindow(source.fitting ?? source.levels[0]!, work.fit, { x, y, width: 2, height: 2 }),
    work,
  );
  const u = vx - x;
  const v = vy - y;
  return (a * (1 - u) + b * u) * (1 - v) + (c * (1 - u) + d * u) * v;
}

export function profile(
  source: MapSource,
  recipe: Recipe,
  work: Work,
  a: MapPoint,
  b: MapPoint,
  count: number,
): Profile {
  const sourceHeights = new Float32Array(count);
  const result = new Float32Array(count);
  const metres = work.entering.spacing * recipe.fit.worldScale;
  const length = Math.hypot(b.x - a.x, b.y - a.y) * metres;
  let steepest = 0;
  for (let i = 0; i < count; i++) {
    const t = i / (count - 1);
    const at = { x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t };
    sourceHeights[i] = elevationAt(source, 0, at.x, at.y) ?? NaN;
    result[i] = resultAt(source, work, at);
    if (i > 0 && length > 0) {
      const grade = Math.abs(sourceHeights[i]! - sourceHeights[i - 1]!) / (length / (count - 1));
      if (grade > steepest) steepest = grade;
    }
  }
  return {
    source: sourceHeights,
    result,
    length,
    steepest: (Math.atan(steepest) * 180) / Math.PI,
    rise: sourceHeights[count - 1]! - sourceHeights[0]!,
  };
}
