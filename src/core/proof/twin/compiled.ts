/** Lowest and highest of some samples that have a value, ±∞ where none has, and how many have none. */
export interface Extremes {
  readonly min: number;
  readonly max: number;
  readonly voids: number;
}

/** The samples that each vertex of an axis is made of: from the first on, side by side. */
export interface Axis {
  readonly first: Int32Array;
  /** Where the shares of a vertex begin; one more than vertices. */
  readonly start: Int32Array;
  readonly shares: Float64Array;
}

/** Sums at every vertex, filled row by row. */
export interface GroundSums {
  /** Weighs a row of samples, all of them finite, of which the first stands in column `from`. */
  weigh(row: ArrayLike<number> & ArrayBufferView, from: number): void;
  /** Takes the sums and weights of a row that was weighed elsewhere. */
  take(sums: Float64Array, weights: Float64Array): void;
  /** Adds the row that was weighed last to the vertices of row `y`, by this share. */
  add(y: number, share: number): void;
  /** Of all vertices, row after row. */
  all(): { readonly sums: Float64Array; readonly weights: Float64Array };
}

/**
 * Compiled code that does what loops of the twin do, to the bit. It is handed in: the twin itself reaches for nothing
 * beside its own files, so that it can share no slip with what it judges. Null where none can run.
 */
export interface Compiled {
  readonly ground: (width: number, height: number, across: Axis) => GroundSums | null;
  readonly ends: (samples: Uint16Array | Float32Array) => Extremes | null;
}
