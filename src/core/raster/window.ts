import { axisWeights } from './kernels';
import { columnPass, rowPass } from './passes';
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
 * A window of the resampled raster, computed alone: the same values as the whole would hold there (voids are averaged
 * over, not kept). Cost: the source samples that the window's kernels touch.
 */
export function resampleWindow(
  source: { readonly width: number; readonly height: number; readonly row: RowReader },
  options: ResampleOptions,
  area: WindowArea,
): Float32Array {
  const { width, height, filter, clamp } = options;
  const placed = axisWeights(
    { sourceSamples: source.width, resultSamples: width, from: area.x, to: area.x + area.width },
    filter,
  );
  const down = axisWeights(
    { sourceSamples: source.height, resultSamples: height, from: area.y, to: area.y + area.height },
    filter,
  );
  const left = placed.first[0] ?? 0;
  const right = (placed.first[area.width - 1] ?? 0) + placed.taps;
  const across = { ...placed, first: placed.first.map((f) => f - left) };
  const top = down.first[0] ?? 0;
  const rows = (down.first[area.height - 1] ?? 0) + down.taps - top;
  const passed = new Float32Array(rows * area.width);
  for (let r = 0; r < rows; r++)
    rowPass(
      passed.subarray(r * area.width, (r + 1) * area.width),
      source.row(top + r, left, right),
      across,
      area.width,
    );
  const first = down.first.map((f) => f - top);
  const out = new Float32Array(area.width * area.height);
  for (let r = 0; r < area.height; r++) {
    columnPass(out.subarray(r * area.width, (r + 1) * area.width), passed, { ...down, first }, r, rows, area.width);
  }
  if (clamp) for (let i = 0; i < out.length; i++) out[i] = Math.min(clamp.high, Math.max(clamp.low, out[i]!));
  return out;
}
