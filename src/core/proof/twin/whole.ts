import type { Recipe } from '../../recipe';
import type { Axis, Compiled, GroundSums } from './compiled';
import { isExact, type ExpectedGrid, type SourceFacts } from './layout';
import type { PlacedBand } from './operations/operation';
import { tapsOf, type Tap } from './weights';

/** Vertices that a result may have for all of them to be worked out: 1009 a side. */
export const MOST_WHOLE = 1009 * 1009;
/** Products that may be summed for that. */
const MOST_PRODUCTS = 6e8;

/** A row of vertices, and the share of a row of samples in it. */
interface Share {
  readonly vertex: number;
  readonly share: number;
}

function axisOf(taps: readonly (readonly Tap[])[]): Axis {
  const first = new Int32Array(taps.length);
  const start = new Int32Array(taps.length + 1);
  taps.forEach((list, i) => {
    // of a kernel that reaches nothing: none
    first[i] = list[0]?.at ?? 0;
    start[i + 1] = start[i]! + (list.length > 0 ? list.at(-1)!.at - first[i] + 1 : 0);
  });
  const shares = new Float64Array(start[taps.length]!);
  taps.forEach((list, i) => {
    for (const { at, share } of list) shares[start[i]! + at - first[i]!] = share;
  });
  return { first, start, shares };
}

/**
 * The fitted ground at every vertex, in double precision: each row of the source is weighed across, and what comes of it
 * added to the vertices whose kernels reach it. Rows may come in any order, and in parts.
 */
export class WholeGround {
  readonly width: number;
  readonly height: number;
  /** Sums of share × sample, and of the shares of samples that hold a height; the first over the second is the ground. */
  private all: { readonly sums: Float64Array; readonly weights: Float64Array } | null = null;
  private readonly kernel: GroundSums | null;
  /** Which rows of vertices a row of samples goes into. */
  private readonly byRow = new Map<number, Share[]>();
  /** 1 for rows of vertices that some row of samples goes into. */
  private readonly reached: Uint8Array;
  private readonly rowSums: Float64Array;
  /** The row as doubles: each sample goes into several kernels. */
  private samples = new Float64Array(0);
  private readonly rowWeights: Float64Array;

  /** Null where there are too many vertices, or their kernels are too wide. */
  static of(
    recipe: Recipe,
    grid: ExpectedGrid,
    source: SourceFacts,
    compiled: Compiled | null = null,
  ): WholeGround | null {
    if (grid.width * grid.height > MOST_WHOLE) return null;
    const taken = isExact(recipe, grid, source);
    const along = (m: number, n: number, from: number): Tap[][] =>
      Array.from({ length: m }, (_, i) => {
        if (!taken) return tapsOf(recipe.fit.filter, i, n, m, grid.lies);
        const at = from + i;
        return at >= 0 && at < n ? [{ at, share: 1 }] : [];
      });
    const across = axisOf(along(grid.width, source.width, taken ? grid.startX : 0));
    if (across.shares.length * source.height > MOST_PRODUCTS) return null;
    return new WholeGround(grid, across, along(grid.height, source.height, taken ? grid.startY : 0), compiled);
  }

  private constructor(
    { width, height }: ExpectedGrid,
    private readonly across: Axis,
    down: readonly (readonly Tap[])[],
    compiled: Compiled | null,
  ) {
    this.width = width;
    this.height = height;
    this.kernel = compiled?.ground(width, height, across) ?? null;
    const zeros = (): Float64Array => new Float64Array(width * height);
    if (!this.kernel) this.all = { sums: zeros(), weights: zeros() };
    this.rowSums = new Float64Array(width);
    this.rowWeights = new Float64Array(width);
    this.reached = Uint8Array.from(down, (taps) => (taps.length > 0 ? 1 : 0));
    down.forEach((taps, vertex) => {
      for (const { at, share } of taps) {
        const list = this.byRow.get(at);
        if (list) list.push({ vertex, share });
        else this.byRow.set(at, [{ vertex, share }]);
      }
    });
  }

  add({ y, x, rows, width, data }: PlacedBand): void {
    for (let r = 0; r < rows; r++) {
      const into = this.byRow.get(y + r);
      if (into) this.addRow(data.subarray(r * width, (r + 1) * width), x, into);
    }
  }

  /** One row of samples, of which the first stands in column `from`: weighed across, then added to the vertices' rows. */
  private addRow(row: PlacedBand['data'], from: number, into: readonly Share[]): void {
    const { kernel, width, rowSums, rowWeights } = this;
    const whole = allNumbers(row);
    if (kernel && whole) kernel.weigh(row, from);
    else if (whole) this.weighNumbers(row, from);
    else this.weighSome(row, from);
    if (kernel) {
      if (!whole) kernel.take(rowSums, rowWeights);
      for (const { vertex, share } of into) kernel.add(vertex, share);
      return;
    }
    const { sums, weights } = this.all!;
    for (const { vertex, share } of into) {
      const at = vertex * width;
      for (let i = 0; i < width; i++) {
        sums[at + i]! += share * rowSums[i]!;
        weights[at + i]! += share * rowWeights[i]!;
      }
    }
  }

  /** A row without gaps: where it holds all that a vertex is made of, its weight is known. */
  private weighNumbers(row: PlacedBand['data'], from: number): void {
    const { width, across, rowSums, rowWeights } = this;
    const { first, start, shares } = across;
    const n = row.length;
    if (this.samples.length < n) this.samples = new Float64Array(n);
    const { samples } = this;
    samples.set(row);
    for (let i = 0; i < width; i++) {
      const begin = start[i]!;
      const taps = start[i + 1]! - begin;
      const column = first[i]! - from;
      const low = Math.max(0, -column);
      const high = Math.min(taps, n - column);
      // four sums side by side: one would wait for itself
      let a = 0;
      let b = 0;
      let c = 0;
      let d = 0;
      let k = low;
      for (; k + 3 < high; k += 4) {
        const share = begin + k;
        const at = column + k;
        a += shares[share]! * samples[at]!;
        b += shares[share + 1]! * samples[at + 1]!;
        c += shares[share + 2]! * samples[at + 2]!;
        d += shares[share + 3]! * samples[at + 3]!;
      }
      for (; k < high; k++) a += shares[begin + k]! * samples[column + k]!;
      rowSums[i] = a + b + c + d;
      let weight = taps > 0 ? 1 : 0;
      if (low > 0 || high < taps) {
        weight = 0;
        for (let t = low; t < high; t++) weight += shares[begin + t]!;
      }
      rowWeights[i] = weight;
    }
  }

  /** A row with gaps: only samples that hold a height count. */
  private weighSome(row: PlacedBand['data'], from: number): void {
    const { width, across, rowSums, rowWeights } = this;
    const { first, start, shares } = across;
    const n = row.length;
    for (let i = 0; i < width; i++) {
      const begin = start[i]!;
      const column = first[i]! - from;
      const high = Math.min(start[i + 1]! - begin, n - column);
      let sum = 0;
      let weight = 0;
      for (let k = Math.max(0, -column); k < high; k++) {
        const sample = row[column + k] as number;
        // neither a number nor finite
        if (sample - sample !== 0) continue;
        const share = shares[begin + k]!;
        sum += share * sample;
        weight += share;
      }
      rowSums[i] = sum;
      rowWeights[i] = weight;
    }
  }

  /** Of vertex `x`, `y`; null where it lies beyond the source, so that no sample can reach it. */
  at(x: number, y: number): { readonly sum: number; readonly weight: number } | null {
    const { across, reached, width } = this;
    if (reached[y] === 0 || across.start[x] === across.start[x + 1]) return null;
    const i = y * width + x;
    const { sums, weights } = (this.all ??= this.kernel!.all());
    return { sum: sums[i]!, weight: weights[i]! };
  }
}

/** Whether all samples are finite; whole numbers are. */
function allNumbers(row: PlacedBand['data']): boolean {
  if (!(row instanceof Float32Array) && !(row instanceof Float64Array)) return true;
  for (let i = 0; i < row.length; i++) {
    const sample = row[i] as number;
    if (sample - sample !== 0) return false;
  }
  return true;
}
