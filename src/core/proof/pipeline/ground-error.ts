import { GroundComparisonKernel, type RowFigures } from '../../wasm';
import type { Band, HeightStream } from '../../raster';
import type { Geometry } from '../../plan';
import { ErrorMeter, RowErrors, type ErrorFigures, type ErrorMap } from '../error-meter';

/**
 * Ground error: at every source sample that the grid covers, the fitted ground between its vertices (bilinear, as a
 * target draws it) against the sample. Fed with the bands of the fitted ground; reads the source beside it.
 */
export class GroundErrorMeter {
  private readonly meter = new ErrorMeter();
  private readonly rows: AsyncGenerator<SourceRow>;
  private waiting: SourceRow | null = null;
  private readonly datum: number;
  private previous: Float32Array | null = null;
  private readonly left: Int32Array;
  private readonly share: Float64Array;
  private readonly from: number;
  private readonly to: number;
  private readonly kernel: GroundComparisonKernel | null;

  constructor(
    source: HeightStream,
    private readonly geometry: Geometry,
    /** Metres per unit of a height sample. */
    private readonly unit: number,
    private readonly map: ErrorMap | null,
  ) {
    this.rows = rowsOf(source);
    this.datum = source.datum;
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
    this.kernel = GroundComparisonKernel.create(this.left, this.share, width, map, source.datum);
  }

  async add(band: Band): Promise<void> {
    const { width, height, sourceStart, sourcePerVertex } = this.geometry;
    this.kernel?.band(band.data);
    for (;;) {
      this.waiting ??= (await this.rows.next()).value ?? null;
      if (!this.waiting) break;
      const at = (this.waiting.y - sourceStart.y) / sourcePerVertex.y;
      if (at > height - 1 + 1e-9) break;
      if (at >= -1e-9) {
        const top = Math.max(0, Math.min(height - 2, Math.floor(at)));
        if (top + 1 >= band.y + band.rows) break;
        const share = Math.max(0, Math.min(1, at - top));
        this.meter.addRow(this.compare(this.waiting.row, band, top, share, Math.round(at)));
      }
      this.waiting = null;
    }
    if (!this.kernel) this.previous = band.data.slice((band.rows - 1) * width, band.rows * width);
  }

  /** A row of the source between rows `top` and `top + 1` of the ground. */
  private compare(source: SourceRow['row'], band: Band, top: number, share: number, y: number): RowFigures {
    const { geometry, map, kernel, left, share: shares, from, to, unit } = this;
    const start = map?.rowStart(Math.min(y, geometry.height - 1)) ?? 0;
    const first = top - band.y;
    if (kernel) return kernel.compare(source, first, from, to, share, start, unit);
    const { width } = geometry;
    const upper = first < 0 ? this.previous! : band.data.subarray(first * width, (first + 1) * width);
    const lower = band.data.subarray((first + 1) * width, (first + 2) * width);
    return compareGround(heightsOf(source, this.datum), upper, lower, left, shares, from, to, share, unit, map, start);
  }

  /** Completes the map and gives the figures. */
  finish(): ErrorFigures {
    this.kernel?.finish();
    return this.meter.figures();
  }

  /** Lets go of the source. */
  async close(): Promise<void> {
    await this.rows.return(undefined);
  }
}

/** The plain twin of the kernel. */
export function compareGround(
  source: Float32Array,
  upper: Float32Array,
  lower: Float32Array,
  left: Int32Array,
  shares: Float64Array,
  from: number,
  to: number,
  share: number,
  unit: number,
  map: Pick<ErrorMap, 'cells' | 'columnOf'> | null,
  start: number,
): RowFigures {
  const errors = new RowErrors(map, start);
  for (let x = from; x < to; x++) {
    const l = left[x]!;
    const s = shares[x]!;
    const a = upper[l]! + (upper[l + 1]! - upper[l]!) * s;
    const b = lower[l]! + (lower[l + 1]! - lower[l]!) * s;
    const error = (a + (b - a) * share - source[x]!) * unit;
    if (error === error) errors.add(x - from, error, l);
  }
  return errors.figures();
}

/** A row of the source: heights above the datum, or 16-bit codes as stored. */
interface SourceRow {
  readonly y: number;
  readonly row: Float32Array | Uint16Array;
}

/** Rows of a stream. Valid until the next one is requested. */
async function* rowsOf(source: HeightStream): AsyncGenerator<SourceRow> {
  const { width } = source;
  for await (const { y, rows, data } of source.codes ? source.codes() : source.bands())
    for (let r = 0; r < rows; r++) yield { y: y + r, row: data.subarray(r * width, (r + 1) * width) };
}

const heightsOf = (row: SourceRow['row'], datum: number): Float32Array =>
  row instanceof Float32Array ? row : Float32Array.from(row, (code) => code - datum);
