import { axisWeights } from './kernels';
import { clampInPlace, columnPass, columnPassAround, rowPass, rowPassAround } from './passes';
import type { ResampleOptions } from './resample';

/** Reads height samples `from` to `to − 1` of row `y`; the array may be reused by the next call. */
export type RowReader = (y: number, from: number, to: number) => Float32Array;

export interface WindowArea {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/**
 * A window of the resampled raster, computed alone: bit for bit the values that the whole holds there, voids and sums in
 * double precision included. Cost: the source samples that the window's kernels touch.
 */
export function resampleWindow(
  source: { readonly width: number; readonly height: number; readonly row: RowReader },
  options: ResampleOptions,
  area: WindowArea,
): Float32Array {
  const { width, height, filter, clamp, voids, precise = false, registrations } = options;
  const placed = axisWeights(
    { sourceSamples: source.width, resultSamples: width, from: area.x, to: area.x + area.width, registrations },
    filter,
  );
  const lines = axisWeights(
    { sourceSamples: source.height, resultSamples: height, from: area.y, to: area.y + area.height, registrations },
    filter,
  );
  const left = placed.first[0] ?? 0;
  const right = (placed.first[area.width - 1] ?? 0) + placed.taps;
  const across = { ...placed, first: placed.first.map((f) => f - left) };
  const top = lines.first[0] ?? 0;
  const rows = (lines.first[area.height - 1] ?? 0) + lines.taps - top;
  const down = { ...lines, first: lines.first.map((f) => f - top) };
  const out = new Float32Array(area.width * area.height);
  const line = (r: number): Float32Array => out.subarray(r * area.width, (r + 1) * area.width);
  if (voids || precise) {
    const stride = 2 * area.width;
    const passed = new Float64Array(rows * stride);
    for (let r = 0; r < rows; r++)
      rowPassAround(
        passed.subarray(r * stride, (r + 1) * stride),
        source.row(top + r, left, right),
        across,
        area.width,
      );
    for (let r = 0; r < area.height; r++) columnPassAround(line(r), passed, down, r, rows, area.width);
  } else {
    const passed = new Float32Array(rows * area.width);
    for (let r = 0; r < rows; r++)
      rowPass(
        passed.subarray(r * area.width, (r + 1) * area.width),
        source.row(top + r, left, right),
        across,
        area.width,
      );
    for (let r = 0; r < area.height; r++) columnPass(line(r), passed, down, r, rows, area.width);
  }
  if (clamp) clampInPlace(out, clamp.low, clamp.high);
  return out;
}
