import { checkpoint, type JobContext } from '../base';
import type { OpenRaster } from '../raster';
import type { PlacedPart } from './types';

/** The two outermost lines of each side, from outside inwards, with the part's own factor and shift. */
interface Borders {
  readonly width: number;
  readonly height: number;
  readonly west: readonly [Float64Array, Float64Array];
  readonly east: readonly [Float64Array, Float64Array];
  readonly north: readonly [Float64Array, Float64Array];
  readonly south: readonly [Float64Array, Float64Array];
}

/**
 * What is added along each side of a part so that it meets its neighbours half-way: full at the side itself, nothing
 * `reach` samples inwards, on a straight line between.
 */
export interface Correction {
  readonly west: Float64Array;
  readonly east: Float64Array;
  readonly north: Float64Array;
  readonly south: Float64Array;
}

const share = (distance: number, reach: number): number => Math.max(0, 1 - distance / reach);

async function bordersOf(raster: OpenRaster, part: PlacedPart, job?: JobContext): Promise<Borders> {
  const { width, height } = raster.info;
  const { factor = 1, shift = 0 } = part;
  const two = (length: number): [Float64Array, Float64Array] => [new Float64Array(length), new Float64Array(length)];
  const borders = { width, height, west: two(height), east: two(height), north: two(width), south: two(width) };
  const { west, east, north, south } = borders;
  for await (const { y, rows, data } of raster.bands(job?.signal ? { signal: job.signal } : undefined)) {
    checkpoint(job);
    for (let r = 0; r < rows; r++) {
      const at = (x: number): number => factor * Number(data[r * width + x]) + shift;
      const row = y + r;
      for (const k of [0, 1] as const) {
        west[k][row] = at(Math.min(k, width - 1));
        east[k][row] = at(Math.max(width - 1 - k, 0));
        if (row === Math.min(k, height - 1)) for (let x = 0; x < width; x++) north[k][x] = at(x);
        if (row === Math.max(height - 1 - k, 0)) for (let x = 0; x < width; x++) south[k][x] = at(x);
      }
    }
  }
  return borders;
}

/**
 * Corrections that take the step out of seams whose parts share a line or abut: first from east to west, then, with
 * those done, from north to south, so that corners meet as well. Reads every part once. Overlaps are left as they are.
 */
export async function corrections(
  rasters: readonly OpenRaster[],
  placed: readonly PlacedPart[],
  reach: number,
  job?: JobContext,
): Promise<Correction[]> {
  const borders: Borders[] = [];
  for (const [i, raster] of rasters.entries()) borders.push(await bordersOf(raster, placed[i]!, job));
  const out = borders.map(({ width, height }): Correction => ({
    west: new Float64Array(height),
    east: new Float64Array(height),
    north: new Float64Array(width),
    south: new Float64Array(width),
  }));
  for (const axis of [0, 1] as const) {
    // lines that run north–south have been moved by nothing yet; those that run east–west by the corrections before
    const moved = (i: number, line: Float64Array, y: number): Float64Array =>
      axis === 0 ? line : line.map((v, x) => v + alongRow(out[i]!, borders[i]!.width, x, y, reach));
    placed.forEach((one, a) => {
      placed.forEach((other, b) => {
        const [A, B] = [borders[a]!, borders[b]!];
        const size = axis === 0 ? A.width : A.height;
        const overlap = one.at[axis] + size - other.at[axis];
        if (other.at[axis] <= one.at[axis] || (overlap !== 0 && overlap !== 1)) return;
        const across = axis === 0 ? 1 : 0;
        const lengths = axis === 0 ? [A.height, B.height] : [A.width, B.width];
        const from = Math.max(one.at[across], other.at[across]);
        const to = Math.min(one.at[across] + lengths[0]!, other.at[across] + lengths[1]!);
        if (to - from < 2) return;
        const before =
          axis === 0
            ? A.east
            : ([0, 1].map((k) => moved(a, A.south[k]!, A.height - 1 - k)) as [Float64Array, Float64Array]);
        const after =
          axis === 0 ? B.west : ([0, 1].map((k) => moved(b, B.north[k]!, k)) as [Float64Array, Float64Array]);
        for (let t = from; t < to; t++) {
          const [i, k] = [t - one.at[across], t - other.at[across]];
          const step = stepBetween(before, after, i, k, overlap === 1);
          if (step - step !== 0) continue;
          const [first, second] = axis === 0 ? [out[a]!.east, out[b]!.west] : [out[a]!.south, out[b]!.north];
          first[i] = step / 2;
          second[k] = -step / 2;
        }
      });
    });
  }
  return out;
}

/** How much higher the ground goes on beyond a seam; where parts abut, both are carried on half a sample. */
function stepBetween(
  before: readonly [Float64Array, Float64Array],
  after: readonly [Float64Array, Float64Array],
  i: number,
  k: number,
  shared: boolean,
): number {
  const [a0, a1, b0, b1] = [before[0][i]!, before[1][i]!, after[0][k]!, after[1][k]!];
  return shared ? b0 - a0 : 1.5 * b0 - 0.5 * b1 - (1.5 * a0 - 0.5 * a1);
}

/** What is added at column `x` of row `y` by the sides in the west and the east. */
const alongRow = ({ west, east }: Correction, width: number, x: number, y: number, reach: number): number =>
  west[y]! * share(x, reach) + east[y]! * share(width - 1 - x, reach);

/** Row `y` of a part with what is added to it. */
export function corrected(row: Float64Array, y: number, height: number, by: Correction, reach: number): void {
  const width = row.length;
  const [down, up] = [share(y, reach), share(height - 1 - y, reach)];
  if (by.west[y] !== 0) for (let x = 0; x < Math.min(width, reach); x++) row[x]! += by.west[y]! * share(x, reach);
  if (by.east[y] !== 0)
    for (let x = Math.max(0, width - reach); x < width; x++) row[x]! += by.east[y]! * share(width - 1 - x, reach);
  if (down > 0 || up > 0) for (let x = 0; x < width; x++) row[x]! += by.north[x]! * down + by.south[x]! * up;
}
