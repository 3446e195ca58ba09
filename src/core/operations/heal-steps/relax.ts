import { checkpoint, type JobContext } from '../../base';
import { PlateKernel, type PlateBounds } from '../../wasm';
import type { Samples } from '../heights';

/*
 * Towards the smoothest surface between bounds: a thin plate, of which the sum of squared second differences is least
 * (J. Duchon, 1977), by sweeps in which each sample takes a share of what its twelve neighbours ask of it and stays within
 * its bounds (projected relaxation), from coarse grids to fine ones (cascade; P. Deuflhard, 1994). A number of sweeps is
 * part of the definition: the same samples give the same surface, bit for bit.
 */

/** Sweeps on the grid of the ground, on one half as fine, and on all coarser ones. */
const SWEEPS = [6, 24, 64] as const;
/** Of what a sweep asks for, so much is done: more than 0.625 would make rough ground swing. */
const SHARE = 0.6;
/** Grids with fewer samples on a side have no coarser one. */
const LEAST_SIDE = 9;

interface Grid {
  readonly width: number;
  readonly height: number;
  /** As they came, NaN where there is no height; and 1 for those that may move. */
  readonly data: Samples;
  readonly flat: Uint8Array;
}

/** Every second sample both ways. */
function coarser({ width, height, data, flat }: Grid): Grid {
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const thin = new Float64Array(w * h);
  const may = new Uint8Array(w * h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      thin[i] = data[2 * y * width + 2 * x]!;
      may[i] = flat[2 * y * width + 2 * x]!;
    }
  return { width: w, height: h, data: thin, flat: may };
}

/** Where samples begin: as they came, those that may move between the ones of a coarser grid. */
function start(
  surface: Float64Array,
  { width, height, data, flat }: Grid,
  from: Float64Array | null,
  above: Grid | null,
  bounds: PlateBounds,
): void {
  surface.set(data);
  if (!from || !above) return;
  for (let y = 0, i = 0; y < height; y++) {
    const top = (y >> 1) * above.width;
    const bottom = Math.min(above.height - 1, (y + 1) >> 1) * above.width;
    for (let x = 0; x < width; x++, i++) {
      if (flat[i] === 0) continue;
      const left = x >> 1;
      const right = Math.min(above.width - 1, (x + 1) >> 1);
      const mean = (from[top + left]! + from[top + right]! + from[bottom + left]! + from[bottom + right]!) / 4;
      // beside a void it begins as it came
      if (mean === mean) surface[i] = within(mean, data[i]!, bounds);
    }
  }
}

function within(value: number, stored: number, { below, above, lowest, highest }: PlateBounds): number {
  const low = Math.max(stored - below, lowest);
  const high = Math.min(stored + above, highest);
  return value < low ? low : value > high ? high : value;
}

/** Two samples on opposite sides of one: where one is missing, the line through the other goes on. */
const pair = (a: number | undefined, b: number | undefined, own: number): number => {
  const sum = a! + b!;
  return sum === sum ? sum : 2 * own;
};

/** Five rows of a surface: two above, its own, two below. Beyond the border they hold no heights. */
type Rows = readonly [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];

/** What the neighbours of a sample ask of it, whatever is missing. */
function askedAt([up2, up, own, down, down2]: Rows, x: number): number {
  const h = own[x]!;
  const beside = pair(own[x - 1], own[x + 1], h) + pair(up[x], down[x], h);
  const across = pair(up[x - 1], down[x + 1], h) + pair(up[x + 1], down[x - 1], h);
  const beyond = pair(own[x - 2], own[x + 2], h) + pair(up2[x], down2[x], h);
  return 0.4 * beside - 0.1 * across - 0.05 * beyond;
}

/** What neighbours ask of the samples of a row, into `asked`. */
function askedOf(rows: Rows, asked: Float64Array): void {
  const [up2, up, own, down, down2] = rows;
  const n = own.length;
  for (let x = 2; x < n - 2; x++) {
    const beside = own[x - 1]! + own[x + 1]! + (up[x]! + down[x]!);
    const across = up[x - 1]! + down[x + 1]! + (up[x + 1]! + down[x - 1]!);
    const beyond = own[x - 2]! + own[x + 2]! + (up2[x]! + down2[x]!);
    asked[x] = 0.4 * beside - 0.1 * across - 0.05 * beyond;
  }
  for (let x = 0; x < n; x++) if (x < 2 || x >= n - 2 || asked[x]! !== asked[x]!) asked[x] = askedAt(rows, x);
}

/** Rows that are used again and again. */
interface Scratch {
  /** The last three rows as they were before a sweep. */
  readonly kept: readonly Float64Array[];
  readonly asked: Float64Array;
  readonly stored: Float64Array;
  readonly none: Float64Array;
}

const scratchFor = (width: number): Scratch => ({
  kept: [0, 1, 2].map(() => new Float64Array(width)),
  asked: new Float64Array(width),
  stored: new Float64Array(width),
  none: new Float64Array(width).fill(NaN),
});

/** One sweep over all samples, each by what the others were before it; in place. */
function sweep(
  { width, height, data, flat }: Grid,
  surface: Float64Array,
  scratch: Scratch,
  share: number,
  bounds: PlateBounds,
): void {
  const { kept, asked, stored, none } = scratch;
  const rowOf = (y: number): Float64Array => (y >= height ? none : surface.subarray(y * width, (y + 1) * width));
  for (let y = 0; y < height; y++) {
    const into = rowOf(y);
    const own = kept[y % 3]!;
    own.set(into);
    stored.set(data.subarray(y * width, (y + 1) * width));
    const up = y > 0 ? kept[(y + 2) % 3]! : none;
    const up2 = y > 1 ? kept[(y + 1) % 3]! : none;
    askedOf([up2, up, own, rowOf(y + 1), rowOf(y + 2)], asked);
    follow(into, asked, stored, flat.subarray(y * width, (y + 1) * width), share, bounds);
  }
}

/** Moves those samples of a row that may, within their bounds. */
function follow(
  row: Float64Array,
  asked: Float64Array,
  stored: Float64Array,
  flat: Uint8Array,
  share: number,
  { below, above, lowest, highest }: PlateBounds,
): void {
  for (let x = 0; x < row.length; x++) {
    if (flat[x] === 0) continue;
    const value = row[x]! + share * (asked[x]! - row[x]!);
    const from = stored[x]! - below;
    const to = stored[x]! + above;
    const low = from > lowest ? from : lowest;
    const high = to < highest ? to : highest;
    row[x] = value < low ? low : value > high ? high : value;
  }
}

/** What sweeps over a grid: its kernel, or the plain twin of that. */
interface Sweeper {
  readonly surface: Float64Array;
  sweep(share: number, bounds: PlateBounds): void;
}

function plainSweeper(grid: Grid): Sweeper {
  const surface = new Float64Array(grid.width * grid.height);
  const scratch = scratchFor(grid.width);
  return { surface, sweep: (share, bounds) => sweep(grid, surface, scratch, share, bounds) };
}

/** The surface, as fine as the ground. `plain`: without the kernel, with the same result to the bit. */
export function relaxed(ground: Grid, bounds: PlateBounds, job?: JobContext, plain = false): Float64Array {
  const grids: Grid[] = [ground];
  for (let last = ground; Math.min(last.width, last.height) >= LEAST_SIDE; grids.push(last)) last = coarser(last);
  let surface: Float64Array | null = null;
  for (let k = grids.length - 1; k >= 0; k--) {
    const grid = grids[k]!;
    const { width, height, data, flat } = grid;
    const sweeper: Sweeper = (plain ? null : PlateKernel.create(width, height, data, flat)) ?? plainSweeper(grid);
    start(sweeper.surface, grid, surface, grids[k + 1] ?? null, bounds);
    for (let n = 0; n < SWEEPS[Math.min(k, 2)]!; n++) {
      if (job) checkpoint(job);
      sweeper.sweep(SHARE, bounds);
    }
    surface = sweeper.surface;
  }
  return surface!;
}
