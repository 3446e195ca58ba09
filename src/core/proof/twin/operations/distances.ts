import type { Grid } from './heights';

/** How far the nearest shore is, no farther than `most`: by looking at it row by row, nearer ones first. */
export function distancesTo(
  shore: readonly boolean[],
  { width, height }: Pick<Grid, 'width' | 'height'>,
  most: number,
): (i: number) => number {
  // in each row, the nearest shore at or before each column, and at or behind it
  const left = new Float64Array(shore.length);
  const right = new Float64Array(shore.length);
  for (let y = 0; y < height; y++) {
    let seen = -Infinity;
    for (let x = 0; x < width; x++) left[y * width + x] = seen = shore[y * width + x] ? x : seen;
    seen = Infinity;
    for (let x = width - 1; x >= 0; x--) right[y * width + x] = seen = shore[y * width + x] ? x : seen;
  }
  return (i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    let best = most;
    for (let dy = 0; dy < best; dy++)
      for (const row of dy === 0 ? [y] : [y - dy, y + dy]) {
        if (row < 0 || row >= height) continue;
        const k = row * width + x;
        const dx = Math.min(x - left[k]!, right[k]! - x);
        best = Math.min(best, Math.sqrt(dx * dx + dy * dy));
      }
    return best;
  };
}
