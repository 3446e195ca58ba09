import type { StepOf } from '../../../recipe';
import { windings } from './area';
import { changed, samplesOf, type Grid } from './heights';
import type { TwinOperation } from './operation';

/** Pairs of neighbours on opposite sides, and how much the bend of the ground between them counts (thin plate). */
const PAIRS: readonly (readonly [dx: number, dy: number, weight: number])[] = [
  [1, 0, 8],
  [0, 1, 8],
  [1, 1, -2],
  [1, -1, -2],
  [2, 0, -1],
  [0, 2, -1],
];
/** Sweeps by how often the grid has been halved. */
const SWEEPS = [6, 24];
const MORE_SWEEPS = 64;

/** The step between heights: of whole numbers the largest that all of them lie on, else the smallest gap. */
function stepBetween(at: Float64Array): number {
  const heights = [...new Set(at)].filter((v) => !Number.isNaN(v)).sort((a, b) => a - b);
  if (heights.length < 2 || heights.length > 65_536) return 0;
  const gaps = heights.slice(1).map((v, i) => v - heights[i]!);
  if (heights.every(Number.isSafeInteger)) {
    const shared = (a: number, b: number): number => (b === 0 ? a : shared(b, a % b));
    return gaps.reduce(shared, 0);
  }
  const span = heights.at(-1)! - heights[0]!;
  return span / Math.round(span / gaps.reduce((a, b) => Math.min(a, b)));
}

interface Level extends Grid {
  readonly free: Uint8Array;
}

const thinned = ({ width, height, at, free }: Level): Level => {
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)];
  const from = (i: number): number => 2 * Math.floor(i / w) * width + 2 * (i % w);
  return {
    width: w,
    height: h,
    at: Float64Array.from({ length: w * h }, (_, i) => at[from(i)]!),
    free: Uint8Array.from({ length: w * h }, (_, i) => free[from(i)]!),
  };
};

type Hold = (value: number, stored: number) => number;

/** How the ground bends around a sample that has all twelve neighbours; no number where one of them is void. */
function bendInside(s: Float64Array, i: number, w: number): number {
  const own = 2 * s[i]!;
  const sides = s[i - 1]! + s[i + 1]! - own + (s[i - w]! + s[i + w]! - own);
  const corners = s[i - w - 1]! + s[i + w + 1]! - own + (s[i - w + 1]! + s[i + w - 1]! - own);
  const beyond = s[i - 2]! + s[i + 2]! - own + (s[i - 2 * w]! + s[i + 2 * w]! - own);
  return 8 * sides - 2 * corners - beyond;
}

/** The same where some are missing: pairs that are not whole bend nothing. */
function bendAround({ width, height, at }: Grid, x: number, y: number): number {
  const own = at[y * width + x]!;
  let bend = 0;
  for (const [dx, dy, weight] of PAIRS) {
    if (x < dx || x + dx >= width) continue;
    const [one, other] = [y - dy, y + dy];
    if (Math.min(one, other) < 0 || Math.max(one, other) >= height) continue;
    const by = at[one * width + x - dx]! - own + (at[other * width + x + dx]! - own);
    if (by === by) bend += weight * by;
  }
  return bend;
}

/** The surface of a grid, begun on one half as fine. */
function surfaceOf(level: Level, hold: Hold, halved = 0): Float64Array {
  const { width, height, at, free } = level;
  let surface = at.slice();
  if (Math.min(width, height) > 8) {
    const half = thinned(level);
    const under = surfaceOf(half, hold, halved + 1);
    for (let i = 0; i < surface.length; i++) {
      if (!free[i]) continue;
      const [x, y] = [(i % width) / 2, Math.floor(i / width) / 2];
      const [x1, y1] = [Math.min(half.width - 1, Math.ceil(x)), Math.min(half.height - 1, Math.ceil(y))];
      let sum = 0;
      for (const row of [Math.floor(y), y1])
        for (const column of [Math.floor(x), x1]) sum += under[row * half.width + column]!;
      if (!Number.isNaN(sum)) surface[i] = hold(sum / 4, at[i]!);
    }
  }
  for (let sweep = 0; sweep < (SWEEPS[halved] ?? MORE_SWEEPS); sweep++) {
    const next = surface.slice();
    const before = { ...level, at: surface };
    for (let y = 0, i = 0; y < height; y++)
      for (let x = 0; x < width; x++, i++) {
        if (!free[i]) continue;
        const own = surface[i]!;
        const inside = x > 1 && y > 1 && x < width - 2 && y < height - 2;
        let bend = inside ? bendInside(surface, i, width) : NaN;
        if (bend !== bend) bend = bendAround(before, x, y);
        next[i] = hold(own + (0.6 * bend) / 20, at[i]!);
      }
    surface = next;
  }
  return surface;
}

/** Stairs made slopes a second time, each sample by how the ground bends between its neighbours. */
export const healSteps: TwinOperation<StepOf<'heal-steps'>> = (before, { step: typed, stored, ring }, context) => ({
  stage: changed(before, context, (grid) => {
    const { width, height, at } = grid;
    const step = Math.abs(typed === undefined ? stepBetween(at) : typed / samplesOf(context).unit);
    if (step === 0) return at.slice();
    const outline = ring?.map(([e, s]) => [e / context.spacing, s / context.spacing] as const);
    const free = Uint8Array.from(at, (own, i) => {
      const [x, y] = [i % width, Math.floor(i / width)];
      const beside = [x > 0 ? i - 1 : -1, x + 1 < width ? i + 1 : -1, i - width, y + 1 < height ? i + width : -1];
      const away = beside.filter((j) => j >= 0).map((j) => Math.abs(at[j]! - own));
      const flat = away.includes(0) && away.filter((d) => d > 1.001 * step).length < 2;
      return Number(flat && (!outline || windings(outline, [x, y]) % 2 !== 0));
    });
    const held = at.filter((v) => !Number.isNaN(v));
    const [least, most] = [
      held.reduce((a, b) => Math.min(a, b), Infinity),
      held.reduce((a, b) => Math.max(a, b), -Infinity),
    ];
    const [down, up] = stored === 'cut' ? [0, step * (127 / 128)] : [step / 2, step * (63 / 128)];
    const hold: Hold = (value, own) => Math.min(own + up, most, Math.max(own - down, least, value));
    return surfaceOf({ ...grid, free }, hold);
  }),
  counts: true,
});
