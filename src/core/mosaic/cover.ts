/** A rectangle of samples in a whole. */
export interface Covered {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Samples of a whole that lie in none of these, which may overlap: counted in the grid that all their edges make. */
export function uncovered(parts: readonly Covered[], width: number, height: number): number {
  const cuts = (edges: readonly number[]): number[] => [...new Set(edges)].sort((a, b) => a - b);
  const xs = cuts([0, width, ...parts.flatMap((p) => [p.x, p.x + p.width])]);
  const ys = cuts([0, height, ...parts.flatMap((p) => [p.y, p.y + p.height])]);
  let missing = 0;
  for (let j = 0; j + 1 < ys.length; j++)
    for (let i = 0; i + 1 < xs.length; i++) {
      const [x, y] = [xs[i]!, ys[j]!];
      const covered = parts.some((p) => x >= p.x && x < p.x + p.width && y >= p.y && y < p.y + p.height);
      if (!covered) missing += (xs[i + 1]! - x) * (ys[j + 1]! - y);
    }
  return missing;
}
