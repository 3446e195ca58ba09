import { checkpoint, type JobContext } from '../../base';
import type { DeferredPlaces, PlacedBand, TwinStage } from './operations/operation';
import type { Recipe } from '../../recipe';
import type { Compiled, Extremes } from './compiled';
import { isExact, placeAmong, type ExpectedGrid, type SourceFacts } from './layout';
import type { Place } from './places';
import { tapsAround, tapsOf, type Tap } from './weights';
import type { WholeGround } from './whole';

/** What a vertex of the fitted ground is before it has an elevation. */
export type GroundValue =
  /** A value in the source's own units, and how far the samples lie apart that it is made of. */
  | { readonly kind: 'ground'; readonly stored: number; readonly spread: number }
  /** Nearly as much of its kernel met voids as ground: whether it is one is decided by the last bits. */
  | { readonly kind: 'either'; readonly stored: number; readonly spread: number }
  | { readonly kind: 'void' }
  /** Beyond the source. */
  | { readonly kind: 'rim' };

/** What one pass over the source finds. */
export interface SourceReading {
  readonly min: number | null;
  readonly max: number | null;
  readonly voids: number;
  readonly values: readonly GroundValue[];
  /** Of any vertex, where all were worked out. */
  readonly all: ((x: number, y: number) => GroundValue) | null;
}

/** A vertex keeps its height where at least half of its kernel's weight met ground. */
const HALF = 0.5;
const NEARLY = 1e-6;

type StoredBandData = PlacedBand['data'];

interface Sum {
  /** Columns and their shares. */
  readonly columns: Int32Array;
  readonly shares: Float64Array;
  readonly down: readonly Tap[];
  value: number;
  weight: number;
  /** Of the samples that went in. */
  low: number;
  high: number;
}

/** The ground that is wanted. */
interface Wanted {
  readonly facts: SourceFacts;
  readonly recipe: Recipe;
  readonly grid: ExpectedGrid;
}

/** A sum of nothing yet. */
const sumOf = (across: readonly Tap[], down: readonly Tap[]): Sum => ({
  columns: Int32Array.from(across, (tap) => tap.at),
  shares: Float64Array.from(across, (tap) => tap.share),
  down,
  value: 0,
  weight: 0,
  low: Infinity,
  high: -Infinity,
});

/**
 * The fitted ground at single vertices, summed up in double precision from the source's samples, each found by its
 * column and row. One pass from north to south; of the source it keeps nothing but these sums. `whole`: sums up every
 * vertex besides.
 */
export async function readGround(
  stage: TwinStage,
  { facts: source, recipe, grid }: Wanted,
  places: readonly Place[],
  { whole, compiled }: { readonly whole: WholeGround | null; readonly compiled: Compiled | null },
  job: JobContext,
): Promise<SourceReading> {
  const from = stage.samples;
  const sums = places.map((place) => sumFor(recipe, grid, source, stage, place));
  // the sums that need a row, by that row
  const byRow = new Map<number, { sum: Sum; share: number }[]>();
  for (const sum of sums)
    for (const { at, share } of sum?.down ?? []) {
      if (!sum) continue;
      const list = byRow.get(at);
      if (list) list.push({ sum, share });
      else byRow.set(at, [{ sum, share }]);
    }
  let min = Infinity;
  let max = -Infinity;
  let voids = 0;
  for await (const band of from.bands(job)) {
    checkpoint(job);
    const { y, x, rows, width, data } = band;
    whole?.add(band);
    const extremes = extremesOf(data, compiled);
    min = Math.min(min, extremes.min);
    max = Math.max(max, extremes.max);
    voids += extremes.voids;
    for (let r = 0; r < rows; r++) {
      for (const { sum, share } of byRow.get(y + r) ?? []) {
        weigh(sum, share, data, r * width - x, x, width);
      }
    }
    job.report?.(y + rows, source.height);
  }
  // between files there may be nothing
  if (from.files > 1) voids++;
  const exact = !stage.deferred && isExact(recipe, grid, source);
  const keeps = stage.deferred?.hold === true || (recipe.fit.clamp && !exact);
  const held = (value: number): number => (keeps ? Math.min(max, Math.max(min, value)) : value);
  const valueOf = (sum: number, weight: number, spread: number): GroundValue => {
    const stored = held(sum / weight);
    if (voids > 0 && Math.abs(weight - HALF) < NEARLY) return { kind: 'either', stored, spread };
    return weight > HALF ? { kind: 'ground', stored, spread } : { kind: 'void' };
  };
  const values = sums.map((sum): GroundValue =>
    sum ? valueOf(sum.value, sum.weight, Math.max(0, sum.high - sum.low)) : { kind: 'rim' },
  );
  const any = min <= max;
  // nothing is known of the samples around each: they may lie as far apart as any do
  const apart = any ? max - min : 0;
  const all = (x: number, y: number): GroundValue => {
    const found = whole?.at(x, y);
    return found ? valueOf(found.sum, found.weight, apart) : { kind: 'rim' };
  };
  return { min: any ? min : null, max: any ? max : null, voids, values, all: whole ? all : null };
}

/** Adds a row's part to a sum: `data[start + c]` is column c, of which those from `from` on are there. */
function weigh(sum: Sum, share: number, data: StoredBandData, start: number, from: number, count: number): void {
  const { columns, shares } = sum;
  for (let k = 0; k < columns.length; k++) {
    const column = columns[k]!;
    if (column < from || column >= from + count) continue;
    const sample = data[start + column] as number;
    // neither a number nor finite
    if (sample - sample !== 0) continue;
    const weight = share * shares[k]!;
    sum.value += weight * sample;
    sum.weight += weight;
    if (sample < sum.low) sum.low = sample;
    if (sample > sum.high) sum.high = sample;
  }
}

function sumFor(
  recipe: Recipe,
  grid: ExpectedGrid,
  source: SourceFacts,
  { deferred }: TwinStage,
  { x, y }: Place,
): Sum | null {
  if (deferred) return sumLater(recipe, grid, source, deferred, { x, y });
  if (isExact(recipe, grid, source)) {
    const column = grid.startX + x;
    const row = grid.startY + y;
    if (column < 0 || row < 0 || column >= source.width || row >= source.height) return null;
    return sumOf([{ at: column, share: 1 }], [{ at: row, share: 1 }]);
  }
  return sumOf(
    tapsOf(recipe.fit.filter, x, source.width, grid.width, grid.lies),
    tapsOf(recipe.fit.filter, y, source.height, grid.height, grid.lies),
  );
}

/** Less than this much beyond the outermost samples is on the ground. */
const ON_GROUND = 1e-6;

/** A vertex of ground that becomes metric in the fit: looked up at its own place, the kernel as wide as vertices lie apart there. */
function sumLater(
  { fit }: Recipe,
  grid: ExpectedGrid,
  source: SourceFacts,
  { width, height, find }: DeferredPlaces,
  { x, y }: Place,
): Sum | null {
  const stretched = fit.method === 'resample';
  const acrossAt = (i: number): number => placeAmong(i, source.width, grid.width, grid.lies);
  const downAt = (i: number): number => placeAmong(i, source.height, grid.height, grid.lies);
  const perX = stretched ? acrossAt(1) - acrossAt(0) : 1;
  const perY = stretched ? downAt(1) - downAt(0) : 1;
  const u = stretched ? acrossAt(x) : grid.startX + x;
  const v = stretched ? downAt(y) : grid.startY + y;
  if (u < -ON_GROUND || v < -ON_GROUND || u > source.width - 1 + ON_GROUND || v > source.height - 1 + ON_GROUND)
    return null;
  const [column, row] = find(u, v);
  const none = sumOf([], []);
  if (!(column >= -ON_GROUND && row >= -ON_GROUND)) return none;
  if (!(column <= width - 1 + ON_GROUND && row <= height - 1 + ON_GROUND)) return none;
  const [east, west] = [find(u + perX / 2, v), find(u - perX / 2, v)];
  const [below, above] = [find(u, v + perY / 2), find(u, v - perY / 2)];
  const wide = (axis: 0 | 1): number => Math.hypot(east[axis] - west[axis], below[axis] - above[axis]);
  return sumOf(tapsAround(fit.filter, column, wide(0), width), tapsAround(fit.filter, row, wide(1), height));
}

/** Lowest and highest of a band, and what is no number. */
const extremesOf = (data: StoredBandData, compiled: Compiled | null): Extremes =>
  (data instanceof Uint16Array || data instanceof Float32Array ? compiled?.ends(data) : null) ?? plainExtremes(data);

/** The same without compiled code. */
export function plainExtremes(data: ArrayLike<number>): Extremes {
  let min = Infinity;
  let max = -Infinity;
  let voids = 0;
  for (let i = 0; i < data.length; i++) {
    const value = data[i] as number;
    // neither a number nor finite
    if (value - value !== 0) voids++;
    else {
      if (value < min) min = value;
      if (value > max) max = value;
    }
  }
  return { min, max, voids };
}
