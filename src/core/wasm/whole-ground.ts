import { freshKernels, sharedKernels, type Kernels } from './instance';

/** Which samples each vertex of an axis is made of: see Axis of core/proof/twin/compiled.ts. */
interface KernelShares {
  readonly first: Int32Array;
  readonly start: Int32Array;
  readonly shares: Float64Array;
}

/** The ground that a proof works out at every vertex: sums and weights of each, f64. See wasm/assembly/proof.ts. */
export class WholeGroundKernel {
  private readonly first: number;
  private readonly start: number;
  private readonly shares: number;
  private readonly rowSums: number;
  private readonly rowWeights: number;
  private readonly allSums: number;
  private readonly allWeights: number;
  private samples = 0;
  private room = 0;

  private constructor(
    private readonly k: Kernels,
    private readonly width: number,
    private readonly height: number,
    { first, start, shares }: KernelShares,
  ) {
    this.first = k.put(first);
    this.start = k.put(start);
    this.shares = k.put(shares);
    this.rowSums = k.take(width * 8);
    this.rowWeights = k.take(width * 8);
    const bytes = width * height * 8;
    this.allSums = k.take(bytes);
    this.allWeights = k.take(bytes);
    k.u8.fill(0, this.allSums, this.allSums + bytes);
    k.u8.fill(0, this.allWeights, this.allWeights + bytes);
  }

  /** Null without a kernel. */
  static create(width: number, height: number, across: KernelShares): WholeGroundKernel | null {
    const k = freshKernels();
    return k ? new WholeGroundKernel(k, width, height, across) : null;
  }

  /** Weighs a row of samples, all of them finite, of which the first stands in column `from`. */
  weigh(row: ArrayLike<number> & ArrayBufferView, from: number): void {
    const { k, width } = this;
    const n = row.length;
    if (n > this.room) {
      this.room = n;
      this.samples = k.take(n * 8);
    }
    const mark = k.mark();
    if (row instanceof Uint16Array) k.run.doublesOfCodes(k.put(row), this.samples, n);
    else if (row instanceof Float32Array) k.run.doublesOfFloats(k.put(row), this.samples, n);
    else new Float64Array(k.u8.buffer, this.samples, n).set(row);
    k.release(mark);
    k.run.weighRow(this.samples, n, from, this.first, this.start, this.shares, width, this.rowSums, this.rowWeights);
  }

  /** Takes the sums and weights of a row that was weighed elsewhere. */
  take(sums: Float64Array, weights: Float64Array): void {
    this.k.write(this.rowSums, sums);
    this.k.write(this.rowWeights, weights);
  }

  /** Adds the row that was weighed last to the vertices of row `y`, by this share. */
  add(y: number, share: number): void {
    const { k, width } = this;
    k.run.addShare(this.allSums + y * width * 8, this.rowSums, share, width);
    k.run.addShare(this.allWeights + y * width * 8, this.rowWeights, share, width);
  }

  /** Sums and weights of all vertices, row after row, where they lie. */
  all(): { readonly sums: Float64Array; readonly weights: Float64Array } {
    const { k, width, height, allSums, allWeights } = this;
    const of = (at: number): Float64Array => new Float64Array(k.u8.buffer, at, width * height);
    return { sums: of(allSums), weights: of(allWeights) };
  }
}

/** Lowest and highest of some samples that have a value, ±∞ where none has, and how many have none. Null without a kernel. */
export function endsKernel(
  samples: Uint16Array | Float32Array,
): { readonly min: number; readonly max: number; readonly voids: number } | null {
  const k = sharedKernels();
  if (!k || samples.length === 0) return null;
  const mark = k.mark();
  const out = k.take(32);
  const at = k.put(samples);
  const codes = samples instanceof Uint16Array;
  if (codes) k.run.endsOfCodes(at, samples.length, out);
  else k.run.endsOfFloats(at, samples.length, out);
  const view = new DataView(k.u8.buffer, out, 12);
  const end = (byte: number): number => (codes ? view.getUint32(byte, true) : view.getFloat32(byte, true));
  const found = { min: end(0), max: end(4), voids: codes ? 0 : view.getUint32(8, true) };
  k.release(mark);
  return found;
}
