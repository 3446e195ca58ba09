/** This near to a sample, in samples, a place is that sample: the outline of the raster is not lost to rounding. */
const ON_SAMPLE = 1e-6;

/** Rows of a raster: row y lies at y & (capacity − 1), `capacity` a power of two. */
export interface Ring {
  readonly data: Float32Array;
  readonly capacity: number;
  readonly width: number;
  /** Rows of the whole raster. */
  readonly height: number;
}

/**
 * Two lines of places in the raster: column and row of every `side`-th square, one more than is needed to the last.
 * Between them places lie evenly.
 */
export interface Lines {
  readonly above: Float64Array;
  readonly below: Float64Array;
  /** A multiple of four. */
  readonly side: number;
}

/** One row of squares, `down` of the way from one line to the next: the plain twin of the kernel. */
export function squaresRow(out: Float32Array, { above, below, side }: Lines, down: number, ring: Ring): void {
  const { width, height } = ring;
  const between = (i: number): number => above[i]! + (below[i]! - above[i]!) * down;
  for (let start = 0, c = 0; start < out.length; start += side, c += 2) {
    const end = Math.min(out.length, start + side);
    const x0 = between(c);
    const y0 = between(c + 1);
    const dx = (between(c + 2) - x0) / side;
    const dy = (between(c + 3) - y0) / side;
    const columns = new Places(x0, dx);
    const rows = new Places(y0, dy);
    // have all of them 4 × 4 samples around?
    const inside = columns.within(side, width - 3) && rows.within(side, height - 3);
    // in floats, the rounding of differences is that of metres and not of the whole elevation
    const base = inside ? ring.data[rowAt(ring, rows.sample(0)) + columns.sample(0)]! : NaN;
    for (let x = start; x < end; x++) {
      const k = x - start;
      const value = inside ? floatCubic(ring, columns, rows, k, base) : NaN;
      out[x] = value === value ? value : squareAt(ring, x0 + dx * k, y0 + dy * k);
    }
  }
}

const rowAt = ({ capacity, width }: Ring, y: number): number => (y & (capacity - 1)) * width;

const f = Math.fround;

/** Places that lie evenly, one way: the sample before the first, and in floats how far behind it the others are. */
class Places {
  private readonly from: number;
  private readonly rest: number;
  private readonly step: number;
  constructor(first: number, step: number) {
    this.from = Math.floor(first);
    this.rest = f(first - this.from);
    this.step = f(step);
  }
  private behind(k: number): number {
    return f(this.rest + f(this.step * k));
  }
  /** The sample before place `k`. */
  sample(k: number): number {
    return this.from + Math.floor(this.behind(k));
  }
  /** How far behind it the place lies. */
  fraction(k: number): number {
    const behind = this.behind(k);
    return f(behind - Math.floor(behind));
  }
  /** Whether the samples before the first `count` places are 1 to `most`. */
  within(count: number, most: number): boolean {
    const ends = [this.from, this.sample(count - 1)] as const;
    return Math.min(...ends) >= 1 && Math.max(...ends) <= most;
  }
}

/** Weights of cubic convolution (a = −1/2) in floats, rounded after each operation as the kernel does. */
function floatWeights(t: number): readonly [number, number, number, number] {
  const rest = f(1 - t);
  const q = f(f(-0.5 * t) * rest);
  const first = f(q * rest);
  const last = f(q * t);
  return [first, f(rest + f(last - f(first + first))), f(t + f(first - f(last + last))), last];
}

/** Cubic convolution of the 4 × 4 around in floats, of differences from `base`; NaN where one of them holds no height. */
function floatCubic(ring: Ring, columns: Places, rows: Places, k: number, base: number): number {
  const { data } = ring;
  const top = rows.sample(k);
  const [u0, u1, u2, u3] = floatWeights(columns.fraction(k));
  const [v0, v1, v2, v3] = floatWeights(rows.fraction(k));
  const at = columns.sample(k) - 1;
  const [a, b, c, d] = [rowAt(ring, top - 1), rowAt(ring, top), rowAt(ring, top + 1), rowAt(ring, top + 2)];
  const term = (weight: number, i: number): number => f(weight * f(data[i]! - base));
  const down = (i: number): number =>
    f(f(f(term(v0, a + at + i) + term(v1, b + at + i)) + term(v2, c + at + i)) + term(v3, d + at + i));
  const near = f(f(u0 * down(0)) + f(u1 * down(1)));
  const far = f(f(u2 * down(2)) + f(u3 * down(3)));
  return f(f(near + far) + base);
}

/** One square by itself, in doubles: near the rim, near voids, outside. */
function squareAt(ring: Ring, column: number, row: number): number {
  const { width, height } = ring;
  if (!(column >= -ON_SAMPLE && row >= -ON_SAMPLE)) return NaN;
  if (!(column <= width - 1 + ON_SAMPLE && row <= height - 1 + ON_SAMPLE)) return NaN;
  // a place a hair before the first sample is that sample
  const left = Math.max(0, Math.min(width - 2, Math.trunc(column)));
  const top = Math.max(0, Math.min(height - 2, Math.trunc(row)));
  const u = Math.max(0, Math.min(1, column - left));
  const v = Math.max(0, Math.min(1, row - top));
  const value = left > 0 && top > 0 && left < width - 2 && top < height - 2 ? cubic(ring, left, top, u, v) : NaN;
  return value === value ? value : linear(ring, left, top, u, v);
}

/** Cubic convolution (a = −1/2) of the 4 × 4 around; NaN where one of them holds no height. */
function cubic(ring: Ring, left: number, top: number, u: number, v: number): number {
  const { data } = ring;
  const u0 = u * (-0.5 + u * (1 - 0.5 * u));
  const u1 = 1 + u * u * (1.5 * u - 2.5);
  const u2 = u * (0.5 + u * (2 - 1.5 * u));
  const u3 = u * u * (0.5 * u - 0.5);
  const v0 = v * (-0.5 + v * (1 - 0.5 * v));
  const v1 = 1 + v * v * (1.5 * v - 2.5);
  const v2 = v * (0.5 + v * (2 - 1.5 * v));
  const v3 = v * v * (0.5 * v - 0.5);
  const at = left - 1;
  const [a, b, c, d] = [rowAt(ring, top - 1), rowAt(ring, top), rowAt(ring, top + 1), rowAt(ring, top + 2)];
  const down = (i: number): number =>
    v0 * data[a + at + i]! + v1 * data[b + at + i]! + v2 * data[c + at + i]! + v3 * data[d + at + i]!;
  return u0 * down(0) + u1 * down(1) + u2 * down(2) + u3 * down(3);
}

/** Between the 2 × 2 around, of those that hold heights; NaN where these have less than half of the weight. */
function linear(ring: Ring, left: number, top: number, u: number, v: number): number {
  const { data, width, height } = ring;
  let sum = 0;
  let weight = 0;
  for (let k = 0; k < 2; k++)
    for (let i = 0; i < 2; i++) {
      const share = (i === 0 ? 1 - u : u) * (k === 0 ? 1 - v : v);
      // of a single row or column there is no next one
      const value = left + i < width && top + k < height ? data[rowAt(ring, top + k) + left + i]! : NaN;
      if (share === 0 || value !== value) continue;
      sum += share * value;
      weight += share;
    }
  return weight >= 0.5 ? sum / weight : NaN;
}
