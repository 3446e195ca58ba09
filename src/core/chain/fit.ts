import type { JobContext } from '../base';
import { orientedSides, oriented, placeBefore, type Orientation } from '../operations';
import { warped, warpedWindow, type MetricVertices } from '../squares';
import {
  heightsOf,
  place,
  resample,
  resampleWindow,
  toHeights,
  type Band,
  type Bounds,
  type Filter,
  type HeightStream,
  type Level,
  type OpenRaster,
  type RasterInfo,
  type Registrations,
  type WindowArea,
} from '../raster';

/**
 * Everything that reaches the samples of the fitted ground, in stored units. Bands, windows and statistics are computed
 * from this object alone, so it is also what they are cached under.
 */
export type FitParameters = {
  /** Vertices of the result. */
  readonly width: number;
  readonly height: number;
  /** Taken off stored samples before they become heights. */
  readonly datum: number;
  /** Height that vertices without ground get; null leaves them as they are. */
  readonly voidFill: number | null;
} & (
  | {
      /** The grid of the source itself: no sample changes. */
      readonly how: 'as-is';
    }
  | {
      /** Crop and pad: samples move whole. `column`, `row`: of the source, at the north-west vertex; negative where a rim lies there. */
      readonly how: 'place';
      readonly column: number;
      readonly row: number;
      readonly rim: number;
    }
  | {
      readonly how: 'resample';
      readonly filter: Filter;
      readonly clamp: Bounds | null;
      /** The source holds voids: weights are renormalised around them. */
      readonly voids: boolean;
      /** Sums in double precision. */
      readonly precise: boolean;
      /** Where not both sides are vertices. */
      readonly registrations?: Registrations;
    }
  | {
      /** Made metric and sampled at the vertices at once. */
      readonly how: 'warp';
      /** Before quarter turns and mirrors, which `orientation` does. */
      readonly vertices: MetricVertices;
      readonly orientation: Orientation;
      readonly filter: Filter;
      readonly clamp: Bounds | null;
      readonly rim: number;
    }
);

/** The ground fitted to the target's grid, as a stream of height samples. */
export function fittedGround(raster: OpenRaster, fit: FitParameters): HeightStream {
  return fitHeights(heightsOf(raster, fit.datum), fit);
}

export function fitHeights(heights: HeightStream, fit: FitParameters): HeightStream {
  const fitted = fitBands(heights, fit);
  return fit.voidFill === null ? fitted : withoutVoids(fitted, fit.voidFill);
}

function fitBands(heights: HeightStream, fit: FitParameters): HeightStream {
  switch (fit.how) {
    case 'as-is':
      return heights;
    case 'place':
      return place(heights, fit);
    case 'resample':
      return resample(heights, fit);
    case 'warp':
      return laid(warped(heights, fit.vertices, fit), fit.orientation);
  }
}

/** Heights laid otherwise. */
function laid(heights: HeightStream, orientation: Orientation): HeightStream {
  const { width, height, datum } = heights;
  const bands: HeightStream['bands'] = (job) => heights.bands(job);
  const raster = oriented({ info: floatInfo(width, height), lateWarnings: [], bands }, orientation);
  return { ...orientedSides(orientation, heights), datum, bands: raster.bands };
}

const floatInfo = (width: number, height: number): RasterInfo => ({
  format: '',
  width,
  height,
  channels: 1,
  bitDepth: 32,
  sampleType: 'float',
  byteOrder: null,
  warnings: [],
});

/** Vertices without ground get one height. */
function withoutVoids({ width, height, datum, ...stream }: HeightStream, fill: number): HeightStream {
  return {
    width,
    height,
    datum,
    async *bands(job?: JobContext): AsyncGenerator<Band> {
      for await (const { y, rows, data } of stream.bands(job)) {
        const filled = data.slice();
        fillVoids(filled, fill);
        yield { y, rows, data: filled };
      }
    },
  };
}

/** Voids become this height, in place. */
export function fillVoids(heights: Float32Array, fill: number): void {
  for (let i = 0; i < heights.length; i++) if (heights[i] !== heights[i]) heights[i] = fill;
}

/** A window of the fitted ground, computed alone from a raster in memory: bit for bit what the bands hold there. */
export function fittedWindow(whole: Level, fit: FitParameters, area: WindowArea): Float32Array {
  const fitted = windowOf(whole, fit, area);
  if (fit.voidFill !== null) fillVoids(fitted, fit.voidFill);
  return fitted;
}

function windowOf(whole: Level, fit: FitParameters, area: WindowArea): Float32Array {
  if (fit.how === 'warp') return warpWindow(whole, fit, area);
  const { width, height, samples } = whole;
  if (fit.how === 'resample')
    return resampleWindow(
      {
        width,
        height,
        row: (y, from, to) => toHeights(samples.subarray(y * width + from, y * width + to), fit.datum),
      },
      fit,
      area,
    );
  const { column, row, rim } = fit.how === 'place' ? fit : { column: 0, row: 0, rim: NaN };
  const out = new Float32Array(area.width * area.height).fill(rim);
  const from = Math.max(0, column + area.x);
  const to = Math.min(width, column + area.x + area.width);
  for (let r = 0; r < area.height; r++) {
    const y = row + area.y + r;
    if (y < 0 || y >= height || to <= from) continue;
    const line = toHeights(samples.subarray(y * width + from, y * width + to), fit.datum);
    out.set(line, r * area.width + from - column - area.x);
  }
  return out;
}

function warpWindow(
  whole: Level,
  fit: Extract<FitParameters, { how: 'warp' }>,
  { x, y, width, height }: WindowArea,
): Float32Array {
  const { vertices, orientation, datum } = fit;
  const before = (column: number, row: number): { x: number; y: number } =>
    placeBefore(orientation, vertices, { x: column, y: row });
  const a = before(x, y);
  const b = before(x + width - 1, y + height - 1);
  const area = {
    x: Math.min(a.x, b.x),
    y: Math.min(a.y, b.y),
    ...orientedSides(orientation, { width, height }),
  };
  const found = warpedWindow(whole, datum, vertices, fit, area);
  const out = new Float32Array(width * height);
  for (let r = 0; r < height; r++)
    for (let c = 0; c < width; c++) {
      const place = before(x + c, y + r);
      out[r * width + c] = found[(place.y - area.y) * area.width + place.x - area.x]!;
    }
  return out;
}
