import { fittedWindow } from '../chain';
import { elevationsOf, quantise, type Quantiser } from '../height';
import type { Work } from '../plan';
import { roomFor, type Level, type WindowArea } from '../raster';

/** Samples along the side of one tile of the map. */
export const MAP_TILE = 256;

/** The source as the map needs it: overviews, and what a stored sample stands for. */
export interface MapSource {
  readonly levels: readonly Level[];
  /** What the fit reads, where the ground is made metric no sooner than that. */
  readonly fitting?: Level;
  /** Rows of each level that are known so far; all of them where nothing is said. */
  readonly known?: readonly number[];
  /** Elevation in world metres = offset + unit · stored sample. */
  readonly unit: number;
  readonly offset: number;
}

/** Level `level` of a raster `size` samples long has this many samples. */
export function levelSize(size: number, level: number): number {
  return Math.ceil(size / 2 ** level);
}

/**
 * Elevations of a window of the source at an overview level, with one sample of margin on every side
 * ((width + 2) × (height + 2)); beyond the source the nearest sample repeats, rows that are not yet known are voids.
 */
export function sourceWindow(source: MapSource, level: number, area: WindowArea): Float32Array {
  const { width, height, samples } = source.levels[level]!;
  const { unit, offset } = source;
  const known = source.known?.[level] ?? height;
  const stride = area.width + 2;
  const out = new Float32Array(stride * (area.height + 2));
  for (let r = 0; r < area.height + 2; r++) {
    const y = Math.max(0, Math.min(height - 1, area.y + r - 1));
    if (y >= known) {
      out.fill(NaN, r * stride, (r + 1) * stride);
      continue;
    }
    for (let c = 0; c < stride; c++) {
      const x = Math.max(0, Math.min(width - 1, area.x + c - 1));
      out[r * stride + c] = offset + unit * samples[y * width + x]!;
    }
  }
  return out;
}

/**
 * Elevations of a window of the result with the same margin. At level 0 they are the exact fitted vertices, rounded to
 * codes and read back, so that stairs show; at coarser levels they come from the source's overviews, with voids left out
 * or filled as the fit does it.
 */
export function resultWindow(source: MapSource, work: Work, level: number, area: WindowArea): Float32Array {
  const { geometry } = work;
  const stride = area.width + 2;
  const rows = area.height + 2;
  if (level === 0) {
    const x0 = Math.max(0, area.x - 1);
    const y0 = Math.max(0, area.y - 1);
    const w = Math.min(geometry.width, area.x + area.width + 1) - x0;
    const h = Math.min(geometry.height, area.y + area.height + 1) - y0;
    const exact = writtenHeights(
      fittedWindow(source.fitting ?? source.levels[0]!, work.fit, { x: x0, y: y0, width: w, height: h }),
      work,
    );
    const out = new Float32Array(stride * rows);
    for (let r = 0; r < rows; r++) {
      const y = Math.max(0, Math.min(h - 1, area.y + r - 1 - y0));
      for (let c = 0; c < stride; c++)
        out[r * stride + c] = exact[y * w + Math.max(0, Math.min(w - 1, area.x + c - 1 - x0))]!;
    }
    return out;
  }
  const scale = 2 ** level;
  const out = new Float32Array(stride * rows);
  const last = { x: geometry.width - 1, y: geometry.height - 1 };
  const perPixel = scale * Math.max(geometry.sourcePerVertex.x, geometry.sourcePerVertex.y);
  const sourceLevel = Math.max(0, Math.min(source.levels.length - 1, Math.round(Math.log2(perPixel))));
  const { rim } = work;
  const fill = work.fit.voidFill === null ? NaN : work.calibration.offset + work.calibration.unit * work.fit.voidFill;
  const base = source.levels[0]!;
  const { width, height, samples } = source.levels[sourceLevel]!;
  const { sourceStart: start, sourcePerVertex: per } = geometry;
  const vertex = (pixel: number, end: number): number => Math.max(0, Math.min(end, (pixel + 0.5) * scale - 0.5));
  const columns = Array.from({ length: stride }, (_, c) =>
    between(start.x + vertex(area.x + c - 1, last.x) * per.x, base.width, width, sourceLevel),
  );
  // looked up for every sample: plain numbers, −1 beyond the source
  const left = Int32Array.from(columns, (b) => b?.first ?? -1);
  const right = Int32Array.from(columns, (b) => b?.second ?? -1);
  const share = Float64Array.from(columns, (b) => b?.share ?? 0);
  const { unit, offset } = source;
  for (let r = 0; r < rows; r++) {
    const y = between(start.y + vertex(area.y + r - 1, last.y) * per.y, base.height, height, sourceLevel);
    const at = r * stride;
    if (!y) {
      out.fill(rim, at, at + stride);
      continue;
    }
    const top = y.first * width;
    const bottom = y.second * width;
    for (let c = 0; c < stride; c++) {
      const l = left[c]!;
      if (l < 0) {
        out[at + c] = rim;
        continue;
      }
      const k = right[c]!;
      const s = share[c]!;
      const a = samples[top + l]! * (1 - s) + samples[top + k]! * s;
      const b = samples[bottom + l]! * (1 - s) + samples[bottom + k]! * s;
      let value = a * (1 - y.share) + b * y.share;
      if (value !== value) value = aroundVoids(samples, top + l, top + k, bottom + l, bottom + k, s, y.share);
      out[at + c] = value === value ? offset + unit * value : fill;
    }
  }
  return out;
}

/** Fitted samples as the elevations that their codes stand for. */
export function writtenHeights(
  fitted: Float32Array,
  work: { quantiser: Quantiser; range: { low: number; high: number } },
): Float32Array {
  const codes = roomFor(work.quantiser, fitted.length);
  quantise(codes, fitted, work.quantiser, { below: 0, above: 0, voids: 0 });
  const { base, each } = elevationsOf(work.quantiser, work.range);
  return Float32Array.from(fitted, (_, i) => (fitted[i] === fitted[i] ? base + codes[i]! * each : NaN));
}

/** Elevation between the samples of an overview level (bilinear); null beyond the source. Positions in source samples. */
export function elevationAt(source: MapSource, level: number, x: number, y: number): number | null {
  const base = source.levels[0]!;
  const { width, height, samples } = source.levels[level]!;
  const across = between(x, base.width, width, level);
  const down = between(y, base.height, height, level);
  return across && down ? source.offset + source.unit * bilinear(samples, width, across, down) : null;
}

/** Two neighbours along one axis of an overview level, and the share of the second. */
interface Between {
  readonly first: number;
  readonly second: number;
  readonly share: number;
}

/** Where a position in source samples lies along one axis of an overview level; null beyond the source. */
function between(at: number, sourceSamples: number, levelSamples: number, level: number): Between | null {
  if (at < -0.5 || at > sourceSamples - 0.5) return null;
  const place = Math.max(0, Math.min(levelSamples - 1, (at + 0.5) / 2 ** level - 0.5));
  const first = Math.min(Math.max(0, levelSamples - 2), Math.floor(place));
  return { first, second: Math.min(levelSamples - 1, first + 1), share: place - first };
}

function bilinear(samples: Level['samples'], width: number, x: Between, y: Between): number {
  const top = y.first * width;
  const bottom = y.second * width;
  const a = samples[top + x.first]! * (1 - x.share) + samples[top + x.second]! * x.share;
  const b = samples[bottom + x.first]! * (1 - x.share) + samples[bottom + x.second]! * x.share;
  const value = a * (1 - y.share) + b * y.share;
  return value === value
    ? value
    : aroundVoids(samples, top + x.first, top + x.second, bottom + x.first, bottom + x.second, x.share, y.share);
}

/** Between four samples of which some are voids: weights are renormalised, as the fit does; a void where under half of the weight met ground. */
function aroundVoids(
  samples: Level['samples'],
  a: number,
  b: number,
  c: number,
  d: number,
  across: number,
  down: number,
): number {
  let sum = 0;
  let present = 0;
  const add = (at: number, weight: number): void => {
    const value = samples[at]!;
    if (value - value !== 0) return;
    sum += weight * value;
    present += weight;
  };
  add(a, (1 - across) * (1 - down));
  add(b, across * (1 - down));
  add(c, (1 - across) * down);
  add(d, across * down);
  return present >= 0.5 ? sum / present : NaN;
}
