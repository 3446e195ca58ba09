import { checkpoint, LevelGridError, type JobContext } from '../base';
import { floatsAt, PreciseResampleKernel, ResampleKernel, type KernelPlace } from '../wasm';
import { toHeights } from './datum';
import { axisWeights, type AxisWeights, type Filter } from './kernels';
import { clampInPlace, columnPass, columnPassAround, LEAST_WEIGHT, rowPass, rowPassAround } from './passes';
import type { Registrations } from './registration';
import { bandRows, type Band, type HeightStream } from './types';

export interface ResampleOptions {
  /** Vertices of the result. */
  readonly width: number;
  readonly height: number;
  readonly filter: Filter;
  /** Keeps results within these bounds (the source's lowest and highest); null lets kernels overshoot. */
  readonly clamp: { readonly low: number; readonly high: number } | null;
  /** True where the source may hold voids: weights are then renormalised around them, at about three times the cost. */
  readonly voids: boolean;
  /** Sums in double precision instead of single: at about twice the cost, for results that must be finer than Float32. */
  readonly precise?: boolean;
  /** What samples are on both sides; left out: vertices. */
  readonly registrations?: Registrations | undefined;
}

/**
 * Resamples a stream of height bands, vertex to vertex, in two passes: rows as they come, columns from a ring of row
 * results as tall as the widest kernel. Memory: (taps + 1) rows of the result. Every output depends on its own
 * position in the whole raster alone, never on band borders, so shared edges stay equal.
 */
export function resample(source: HeightStream, options: ResampleOptions): HeightStream {
  const { width, height, filter, clamp, voids, precise = false, registrations } = options;
  return {
    width,
    height,
    datum: source.datum,
    async *bands(job?: JobContext): AsyncGenerator<Band> {
      const across = axisWeights(
        { sourceSamples: source.width, resultSamples: width, from: 0, to: width, registrations },
        filter,
      );
      const square = source.height === source.width && height === width;
      const down = square
        ? across
        : axisWeights(
            { sourceSamples: source.height, resultSamples: height, from: 0, to: height, registrations },
            filter,
          );
      const low = clamp?.low ?? -Infinity;
      const high = clamp?.high ?? Infinity;
      const rowsPerBand = bandRows(width);
      const asCodes = source.codes !== undefined && !voids;
      const sides: Sides = {
        across,
        down,
        sourceWidth: source.width,
        width,
        rowsPerBand,
        low,
        high,
        datum: source.datum,
      };
      const passes = voids || precise ? precisePasses(sides) : singlePasses(sides);
      let bandStart = 0;
      let filled = 0;
      let next = 0;
      for await (const { y, rows, data } of asCodes && source.codes ? source.codes(job) : source.bands(job)) {
        checkpoint(job);
        for (let r = 0; r < rows; r += passes.together) {
          const count = Math.min(passes.together, rows - r);
          passes.rows(data.subarray(r * source.width, (r + count) * source.width), y + r);
          // every output row whose last tap is among these rows can be finished
          while (next < height && (down.first[next] as number) + down.taps <= y + r + count) {
            passes.column(filled, next);
            next++;
            filled++;
            if (filled === rowsPerBand || next === height) {
              yield passes.band(bandStart, filled);
              bandStart = next;
              filled = 0;
            }
          }
        }
      }
      if (next < height) {
        throw new LevelGridError('truncated', {
          found: `${next} of ${height} rows`,
          expected: 'a source that delivers all its rows',
          remedy: 'Read the source file again.',
        });
      }
    },
  };
}

/** The two passes, by a kernel or its twin. */
interface Passes {
  /** Rows that go through the row pass at once. */
  readonly together: number;
  /** Row pass of up to `together` rows; the first is row `row` of the source. */
  rows(data: Float32Array | Uint16Array, row: number): void;
  /** Column pass of row `row` of the result into row `slot` of the band. */
  column(slot: number, row: number): void;
  /** The first `rows` rows of the band, as row `y` and the following of the result. */
  band(y: number, rows: number): Band;
}

/** What the passes are made from. */
interface Sides {
  readonly across: AxisWeights;
  readonly down: AxisWeights;
  readonly sourceWidth: number;
  readonly width: number;
  readonly rowsPerBand: number;
  readonly low: number;
  readonly high: number;
  readonly datum: number;
}

function singlePasses(sides: Sides): Passes {
  const { across, down, sourceWidth, width, rowsPerBand, low, high, datum } = sides;
  const kernel = ResampleKernel.create(across, down, sourceWidth, width, rowsPerBand, datum);
  if (!kernel) return plainPasses(sides);
  return {
    together: ResampleKernel.together,
    rows: (data, row) => {
      kernel.rows(data, row);
    },
    column: (slot, row) => {
      kernel.column(slot, row, low, high);
    },
    band: (y, rows) => bandAt(y, rows, kernel.band(rows)),
  };
}

/** In double precision, around voids where there are any. */
function precisePasses(sides: Sides): Passes {
  const { across, down, sourceWidth, width, rowsPerBand, low, high, datum } = sides;
  const kernel = PreciseResampleKernel.create(across, down, sourceWidth, width, rowsPerBand, datum);
  if (!kernel) return plainPrecisePasses(sides);
  return {
    together: PreciseResampleKernel.together,
    rows: (data, row) => {
      kernel.rows(data, row);
    },
    column: (slot, row) => {
      kernel.column(slot, row, low, high, LEAST_WEIGHT);
    },
    band: (y, rows) => bandAt(y, rows, kernel.band(rows)),
  };
}

const bandAt = (y: number, rows: number, place: KernelPlace): Band => ({
  y,
  rows,
  place,
  // looked up each time: the memory may have grown since
  get data() {
    return floatsAt(place);
  },
});

function plainPasses({ across, down, width, rowsPerBand, low, high, datum }: Sides): Passes {
  const ringRows = down.taps;
  const ring = new Float32Array(ringRows * width);
  const band = new Float32Array(rowsPerBand * width);
  return {
    together: 1,
    rows: (line, row) => {
      const into = ring.subarray((row % ringRows) * width, (row % ringRows) * width + width);
      rowPass(into, asHeights(line, datum), across, width);
    },
    column: (slot, row) => {
      const out = band.subarray(slot * width, (slot + 1) * width);
      columnPass(out, ring, down, row, ringRows, width);
      clampInPlace(out, low, high);
    },
    band: (y, rows) => ({ y, rows, data: band.subarray(0, rows * width) }),
  };
}

function plainPrecisePasses({ across, down, width, rowsPerBand, low, high, datum }: Sides): Passes {
  const ringRows = down.taps;
  const stride = width * 2;
  const ring = new Float64Array(ringRows * stride);
  const band = new Float32Array(rowsPerBand * width);
  return {
    together: 1,
    rows: (line, row) => {
      const into = ring.subarray((row % ringRows) * stride, (row % ringRows) * stride + stride);
      rowPassAround(into, asHeights(line, datum), across, width);
    },
    column: (slot, row) => {
      const out = band.subarray(slot * width, (slot + 1) * width);
      columnPassAround(out, ring, down, row, ringRows, width);
      clampInPlace(out, low, high);
    },
    band: (y, rows) => ({ y, rows, data: band.subarray(0, rows * width) }),
  };
}

const asHeights = (line: Float32Array | Uint16Array, datum: number): Float32Array =>
  line instanceof Uint16Array ? toHeights(line, datum) : line;
