import { checkpoint, type JobContext } from '../base';
import {
  bandRows,
  sampleBytes,
  samplesLike,
  type OpenRaster,
  type RasterInfo,
  type StoredBand,
  type StoredSamples,
} from '../raster';

/*
 * Quarter turns, mirrors and the exchange of axes: the eight ways to lay a rectangle of samples on a grid. None changes a
 * sample, any number of them in a row is one of the eight, and what is done to each sample by itself may be done before
 * or after them.
 */

/**
 * Sample (x, y) of the result is sample (u, v) of the raster before: x and y are counted from the other end where
 * `flipX`, `flipY` say so, and change places then where `swap` does.
 */
export interface Orientation {
  readonly swap: boolean;
  readonly flipX: boolean;
  readonly flipY: boolean;
}

export const AS_IT_LIES: Orientation = { swap: false, flipX: false, flipY: false };

/** Quarters of a turn clockwise, 0 to 3. */
const TURNS: readonly Orientation[] = [
  AS_IT_LIES,
  { swap: true, flipX: true, flipY: false },
  { swap: false, flipX: true, flipY: true },
  { swap: true, flipX: false, flipY: true },
];
export const turned = (quarters: number): Orientation => TURNS[((quarters % 4) + 4) % 4] ?? AS_IT_LIES;

/** `second` done after `first`. */
export function composed(first: Orientation, second: Orientation): Orientation {
  const { swap } = second;
  return {
    swap: first.swap !== swap,
    // what is counted from the other end before an exchange of axes is the other axis after it
    flipX: second.flipX !== (swap ? first.flipY : first.flipX),
    flipY: second.flipY !== (swap ? first.flipX : first.flipY),
  };
}

export const isAsItLies = ({ swap, flipX, flipY }: Orientation): boolean => !swap && !flipX && !flipY;

/** What leads back. */
export const inverted = ({ swap, flipX, flipY }: Orientation): Orientation =>
  swap ? { swap, flipX: flipY, flipY: flipX } : { swap, flipX, flipY };

interface Sides {
  readonly width: number;
  readonly height: number;
}

/** Size of the result of a raster of this size. */
export const orientedSides = ({ swap }: Orientation, { width, height }: Sides): Sides =>
  swap ? { width: height, height: width } : { width, height };

/** Where a place of the result lies in the raster before it, `before` samples large; places may lie between samples. */
export function placeBefore(
  { swap, flipX, flipY }: Orientation,
  before: Sides,
  { x, y }: { readonly x: number; readonly y: number },
): { x: number; y: number } {
  const { width, height } = orientedSides({ swap, flipX, flipY }, before);
  const p = flipX ? width - 1 - x : x;
  const q = flipY ? height - 1 - y : y;
  return swap ? { x: q, y: p } : { x: p, y: q };
}

/** Where a place of the raster before, `before` samples large, lies in the result. */
export const placeAfter = (
  o: Orientation,
  before: Sides,
  place: { readonly x: number; readonly y: number },
): { x: number; y: number } => placeBefore(inverted(o), orientedSides(o, before), place);

/** In the words of the bench: what of the eight it is. */
export function orientationWords({ swap, flipX, flipY }: Orientation): string {
  if (!swap)
    return flipX && flipY
      ? 'turned by 180°'
      : flipX
        ? 'mirrored, east and west exchanged'
        : flipY
          ? 'mirrored, north and south exchanged'
          : 'as it lies';
  return flipX && flipY
    ? 'mirrored about the other diagonal'
    : flipX
      ? 'turned by 90° clockwise'
      : flipY
        ? 'turned by 90° counter-clockwise'
        : 'axes exchanged';
}

/** Samples of a raster that are held at once while rows come from elsewhere than they go: more are read in several passes. */
const STRIP_BYTES = 256 * 2 ** 20;

/**
 * The same samples, laid otherwise; each keeps its type. Streams where rows stay in their order; else holds strips of the
 * raster of at most `stripBytes` bytes, and reads it once for each: a raster of up to 11 585² samples of 16 bits once.
 */
export function oriented<T extends OpenRaster>(raster: T, o: Orientation, stripBytes = STRIP_BYTES): T {
  if (isAsItLies(o)) return raster;
  const { georeference: _, ...info } = raster.info;
  return {
    ...raster,
    info: { ...info, ...orientedSides(o, raster.info) },
    bands: (job) => (o.swap || o.flipY ? stripsOf(raster, o, stripBytes, job) : mirroredRows(raster, job)),
  };
}

async function* mirroredRows(raster: OpenRaster, job?: JobContext): AsyncGenerator<StoredBand> {
  const { width } = raster.info;
  for await (const { y, rows, data } of raster.bands(job)) {
    const out = data.slice();
    for (let r = 0; r < rows; r++) out.subarray(r * width, (r + 1) * width).reverse();
    yield { y, rows, data: out };
  }
}

/** A part of a raster in memory. */
interface Strip {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly data: StoredSamples;
}

async function* stripsOf(
  raster: OpenRaster,
  o: Orientation,
  stripBytes: number,
  job?: JobContext,
): AsyncGenerator<StoredBand> {
  const { info } = raster;
  const { width, height } = orientedSides(o, info);
  const perBand = bandRows(width);
  const rowBytes = width * sampleBytes(info);
  const perStrip = Math.max(perBand, Math.floor(stripBytes / rowBytes / perBand) * perBand);
  for (let top = 0; top < height; top += perStrip) {
    const end = Math.min(height, top + perStrip);
    const strip = await readStrip(raster, o, top, end, job);
    for (let y = top; y < end; y += perBand) {
      checkpoint(job);
      const rows = Math.min(perBand, end - y);
      const data = samplesLike(strip.data, rows * width);
      fillRows(data, strip, o, info, y, rows);
      yield { y, rows, data };
    }
  }
}

/** What rows `top` to `end − 1` of the result are made of. */
async function readStrip(
  raster: OpenRaster,
  o: Orientation,
  top: number,
  end: number,
  job?: JobContext,
): Promise<Strip> {
  const { info } = raster;
  const sides = orientedSides(o, info);
  const a = placeBefore(o, info, { x: 0, y: top });
  const b = placeBefore(o, info, { x: sides.width - 1, y: end - 1 });
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  const width = Math.abs(a.x - b.x) + 1;
  const height = Math.abs(a.y - b.y) + 1;
  let data: StoredSamples | null = null;
  // progress is that of the rows that go on
  for await (const band of raster.bands(job?.signal ? { signal: job.signal } : undefined)) {
    checkpoint(job);
    data ??= samplesLike(band.data, width * height);
    const from = Math.max(y, band.y);
    const to = Math.min(y + height, band.y + band.rows);
    for (let row = from; row < to; row++) {
      const at = (row - band.y) * info.width + x;
      (data as Float64Array).set(band.data.subarray(at, at + width), (row - y) * width);
    }
    if (to === y + height) break;
  }
  return { x, y, width, height, data: data ?? new Uint8Array(0) };
}

/** Columns and rows that are turned together: both sides of a square of samples stay near. */
const BLOCK = 32;

/** Rows `y` and following of the result, from the strip that holds them. */
function fillRows(
  out: StoredSamples,
  strip: Strip,
  o: Orientation,
  before: Pick<RasterInfo, 'width' | 'height'>,
  y: number,
  rows: number,
): void {
  const { width } = orientedSides(o, before);
  const first = placeBefore(o, before, { x: 0, y });
  const start = (first.y - strip.y) * strip.width + first.x - strip.x;
  // one step east and one step south in the result, in the strip
  const east = (o.flipX ? -1 : 1) * (o.swap ? strip.width : 1);
  const south = (o.flipY ? -1 : 1) * (o.swap ? 1 : strip.width);
  const { data } = strip;
  for (let r0 = 0; r0 < rows; r0 += BLOCK)
    for (let c0 = 0; c0 < width; c0 += BLOCK) {
      const r1 = Math.min(rows, r0 + BLOCK);
      const c1 = Math.min(width, c0 + BLOCK);
      for (let r = r0; r < r1; r++) {
        let from = start + r * south + c0 * east;
        for (let to = r * width + c0, last = r * width + c1; to < last; to++, from += east)
          out[to] = data[from] as number;
      }
    }
}
