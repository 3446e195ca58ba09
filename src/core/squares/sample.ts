/** This near to a sample, in samples, a place is that sample: the outline of the raster is not lost to rounding. */
const ON_SAMPLE = 1e-6;

/** Rows of a raster: row y lies at y & (capacity − 1), `capacity` a power of two. */
export interface Ring {
  readonly data: Float64Array;
  readonly capacity: number;
  readonly width: number;
  /** Rows of the whole raster. */
  readonly height: number;
}

/** One row of squares at places in the raster. The plain twin of the kernel (wasm/assembly/squares.ts). */
export function squaresRow(out: Float32Array, columns: Float64Array, rows: Float64Array, ring: Ring): void {
  const { width, height } = ring;
  for (let x = 0; x < out.length; x++) {
    const column = columns[x]!;
    const row = rows[x]!;
    if (column < -ON_SAMPLE || row < -ON_SAMPLE || column > width - 1 + ON_SAMPLE || row > height - 1 + ON_SAMPLE) {
      out[x] = NaN;
      continue;
    }
    const left = Math.max(0, Math.min(width - 2, Math.floor(column)));
    const top = Math.max(0, Math.min(height - 2, Math.floor(row)));
    const u = Math.max(0, Math.min(1, column - left));
    const v = Math.max(0, Math.min(1, row - top));
    const value = left > 0 && top > 0 && left < width - 2 && top < height - 2 ? cubic(ring, left, top, u, v) : NaN;
    out[x] = value === value ? value : linear(ring, left, top, u, v);
  }
}

const rowAt = ({ capacity, width }: Ring, y: number): number => (y & (capacity - 1)) * width;

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
  // down the columns first; the kernel does two at once, hence the order of the sums
  const down = (i: number): number =>
    v0 * data[a + at + i]! + v1 * data[b + at + i]! + v2 * data[c + at + i]! + v3 * data[d + at + i]!;
  return u0 * down(0) + u2 * down(2) + (u1 * down(1) + u3 * down(3));
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
