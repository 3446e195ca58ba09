import type { Band, HeightStream } from '../raster';
import type { Geometry } from '../plan';
import { ErrorMeter, type ErrorMap } from './error-meter';

/**
 * Ground error: at every source sample that the grid covers, the fitted ground between its vertices (bilinear, as a
 * target draws it) against the sample. Fed with the bands of the fitted ground; reads the source beside it.
 */
export class GroundErrorMeter {
  readonly meter = new ErrorMeter();
  private readonly rows: AsyncGenerator<{ y: number; row: Float32Array }>;
  private waiting: { y: number; row: Float32Array } | null = null;
  private previous: Float32Array | null = null;
  private readonly left: Int32Array;
  private readonly share: Float64Array;
  private readonly from: number;
  private readonly to: number;

  constructor(
    source: HeightStream,
    private readonly geometry: Geometry,
    /** Metres per unit of a height sample. */
    private readonly unit: number,
    private readonly map: ErrorMap | null,
  ) {
    this.rows = rowsOf(source);
    const { width, sourceStart, sourcePerVertex } = geometry;
    const n = source.width;
    this.left = new Int32Array(n);
    this.share = new Float64Array(n);
    let from = n;
    let to = 0;
    for (let x = 0; x < n; x++) {
      const at = (x - sourceStart.x) / sourcePerVertex.x;
      if (at < -1e-9 || at > width - 1 + 1e-9) continue;
      from = Math.min(from, x);
      to = x + 1;
      const left = Math.max(0, Math.min(width - 2, Math.floor(at)));
      this.left[x] = left;
      this.share[x] = Math.max(0, Math.min(1, at - left));
    }
    this.from = from;
    this.to = to;
  }

  async add(band: Band): Promise<void> {
    const { width, height, sourceStart, sourcePerVertex } = this.geometry;
    for (;;) {
      this.waiting ??= (await this.rows.next()).value ?? null;
      if (!this.waiting) break;
      const at = (this.waiting.y - sourceStart.y) / sourcePerVertex.y;
      if (at > height - 1 + 1e-9) break;
      if (at >= -1e-9) {
        const top = Math.max(0, Math.min(height - 2, Math.floor(at)));
        if (top + 1 >= band.y + band.rows) break;
        const upper =
          top < band.y ? this.previous : band.data.subarray((top - band.y) * width, (top - band.y + 1) * width);
        const lower = band.data.subarray((top + 1 - band.y) * width, (top + 2 - band.y) * width);
        if (upper) this.compare(this.waiting.row, upper, lower, Math.max(0, Math.min(1, at - top)), Math.round(at));
      }
      this.waiting = null;
    }
    this.previous = band.data.slice((band.rows - 1) * width, band.rows * width);
  }

  private compare(source: Float32Array, upper: Float32Array, lower: Float32Array, share: number, y: number): void {
    const { left, share: shares, unit, map } = this;
    const cells = map?.cells ?? null;
    const columns = map?.columnOf ?? null;
    const start = map?.rowStart(Math.min(y, this.geometry.height - 1)) ?? 0;
    let max = 0;
    let sum = 0;
    let squares = 0;
    let count = 0;
    const end = this.to;
    for (let x = this.from; x < end; x++) {
      const l = left[x]!;
      const s = shares[x]!;
      const a = upper[l]! + (upper[l + 1]! - upper[l]!) * s;
      const b = lower[l]! + (lower[l + 1]! - lower[l]!) * s;
      const error = Math.abs((a + (b - a) * share - source[x]!) * unit);
      if (error !== error) continue;
      if (error > max) max = error;
      sum += error;
      squares += error * error;
      count++;
      if (columns && cells) {
        const cell = start + columns[l]!;
        if (error > cells[cell]!) cells[cell] = error;
      }
    }
    this.meter.addRow(max, sum, squares, count);
  }

  /** Lets go of the source. */
  async close(): Promise<void> {
    await this.rows.return(undefined);
  }
}

async function* rowsOf(source: HeightStream): AsyncGenerator<{ y: number; row: Float32Array }> {
  for await (const { y, rows, data } of source.bands()) {
    for (let r = 0; r < rows; r++) yield { y: y + r, row: data.subarray(r * source.width, (r + 1) * source.width) };
  }
}
