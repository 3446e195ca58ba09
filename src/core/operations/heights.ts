import { checkpoint, LevelGridError, partOf, type JobContext } from '../base';
import { memoryRaster, type OpenRaster, type RasterInfo } from '../raster';
import type { ChangeTally, Stage, StageRaster } from './operation';
import { outOfPlace } from './refuse';

/*
 * What operations have in common that work with heights as they lie side by side: samples become floats, a display
 * curve can't be undone any more, and what the step needs of the ground around a sample must be there.
 */

/** Samples as floats that keep whole numbers exact: of 32 bits, or 64 where those of the raster need more. */
const wide = ({ sampleType, bitDepth }: RasterInfo): boolean =>
  sampleType === 'float' ? bitDepth > 32 : bitDepth > 24;

/** The same raster after samples were mixed or moved up and down. */
export const asFloats = (info: RasterInfo): RasterInfo => ({
  ...info,
  sampleType: 'float',
  bitDepth: wide(info) ? 64 : 32,
  byteOrder: null,
});

/** The stage after a step that works with heights; `what`: the step in a few words. Throws where none can come. */
export function afterHeights(stage: Stage, what: string): Omit<Stage, 'samples'> {
  if (stage.deferred?.squares)
    throw outOfPlace(
      `${what} after a reprojection that is sampled at the vertices of the fit`,
      'this step before the ground is made metric, or a reprojection with a spacing of its own',
      'Move it up, before the reprojection.',
    );
  if (stage.deferred)
    throw outOfPlace(
      `${what} after ground that was turned by an angle or moved onto control points`,
      'this step before: from there on the ground is sampled at the vertices of the fit',
      'Move it up, before that step.',
    );
  const { samples: _, ...rest } = stage;
  return { ...rest, asStored: false, mended: true, info: asFloats(stage.info) };
}

/** Samples of a whole raster, and of each row. */
export type Samples = Float32Array | Float64Array;

/** An array of floats for samples of this type. */
export const floatsFor = (info: RasterInfo, length: number): Samples =>
  wide(info) ? new Float64Array(length) : new Float32Array(length);

/** A raster held whole while it is worked on. */
export interface Whole {
  readonly width: number;
  readonly height: number;
  /** NaN where there is no height. */
  readonly data: Samples;
}

/** Samples that a step may hold whole. */
const MOST_WHOLE = 2 ** 27;

/** What a step holds at once for each sample of the ground: whole grids of heights, and bytes beside them. */
export interface Held {
  readonly heights: number;
  readonly bytes: number;
}

/** Refuses ground that is too large for a step that needs all of it. */
export function checkWhole(info: RasterInfo, what: string, { heights, bytes }: Held): void {
  const count = info.width * info.height;
  if (count <= MOST_WHOLE) return;
  const each = heights * (wide(info) ? 8 : 4) + bytes;
  const gigabytes = (n: number): string => `${((n * each) / 1e9).toFixed(1)} GB`;
  throw new LevelGridError('too-large', {
    found: `${what} on ${info.width} × ${info.height} samples, which need ${gigabytes(count)} at once`,
    expected: `at most ${MOST_WHOLE} samples, ${gigabytes(MOST_WHOLE)}`,
    remedy: 'Crop the ground in a step before, or switch this step off.',
  });
}

/** Doubles that differ by less of themselves are the same height: sums of equal ones end so. */
const SAME = 1e-12;

/** Tells of a sample what it has become, as it is stored. */
export function tell(tally: ChangeTally | undefined, before: number, after: number): void {
  if (tally && Math.abs(after - before) > SAME * Math.abs(before)) tally.add(after - before);
}

/** What a step does to ground that is held whole, in place; for each sample that it changes it tells by how much. */
export type WholeWork = (ground: Whole, tally: ChangeTally | undefined, job?: JobContext) => void | Promise<void>;

/**
 * A step that needs all of the ground: read and worked on once, when its first band is asked for. `info`: of the result,
 * which is as large as what comes in.
 */
export function onWhole(input: StageRaster, info: RasterInfo, work: WholeWork, tally?: ChangeTally): StageRaster {
  const { base } = input;
  let made: Promise<Samples> | null = null;
  const raster: OpenRaster = {
    ...base,
    info,
    async *bands(job) {
      made ??= workedOn(base, info, work, tally, partOf(job, 0, 0.8));
      let data;
      try {
        data = await made;
      } catch (reason) {
        // what was cancelled can be asked for again
        made = null;
        throw reason;
      }
      yield* memoryRaster(info, data).bands(partOf(job, 0.8, 1));
    },
  };
  return { base: raster, orientation: input.orientation, files: null };
}

async function workedOn(
  base: OpenRaster,
  info: RasterInfo,
  work: WholeWork,
  tally: ChangeTally | undefined,
  job: JobContext,
): Promise<Samples> {
  const { width, height } = base.info;
  const data = floatsFor(info, width * height);
  for await (const band of base.bands(partOf(job, 0, 0.3))) {
    checkpoint(job);
    data.set(band.data, band.y * width);
  }
  // infinite is no height either
  for (let i = 0; i < data.length; i++) if (data[i]! - data[i]! !== 0) data[i] = NaN;
  await work({ width, height, data }, tally, partOf(job, 0.3, 1));
  return data;
}

/** Rows of a raster around the one that is worked out: `row(dy)`, null beyond its border. */
export type RowsAround = (dy: number) => Float64Array | null;

/**
 * A step that needs `margin` rows to either side of each: `make` gives the work on one row, which fills `out`. Streams;
 * holds those rows.
 */
export function onRows(
  input: StageRaster,
  info: RasterInfo,
  margin: number,
  make: (width: number, tally: ChangeTally | undefined) => (rows: RowsAround, out: Samples) => void,
  tally?: ChangeTally,
): StageRaster {
  const { base } = input;
  let told = false;
  const raster: OpenRaster = {
    ...base,
    info,
    async *bands(job) {
      const { width, height } = base.info;
      const work = make(width, told ? undefined : tally);
      told = true;
      const size = 2 * margin + 1;
      const ring = Array.from({ length: size }, () => new Float64Array(width));
      let y = 0;
      for await (const band of base.bands(job)) {
        checkpoint(job);
        const last = band.y + band.rows;
        const begin = y;
        // the last rows of the raster need none behind them
        const ready = last === height ? height : Math.max(y, last - margin);
        const data = floatsFor(info, (ready - begin) * width);
        let filled = 0;
        for (let r = 0; r < band.rows; r++) {
          const line = ring[(band.y + r) % size]!;
          line.set(band.data.subarray(r * width, (r + 1) * width));
          for (let i = 0; i < width; i++) if (line[i]! - line[i]! !== 0) line[i] = NaN;
          const there = band.y + r;
          while (y < ready && (y + margin <= there || there === height - 1)) {
            const at = y;
            const around: RowsAround = (dy) =>
              at + dy < 0 || at + dy >= height ? null : (ring[(at + dy) % size] ?? null);
            work(around, data.subarray(filled * width, (filled + 1) * width));
            y++;
            filled++;
          }
        }
        if (filled > 0) yield { y: begin, rows: filled, data };
      }
    },
  };
  return { base: raster, orientation: input.orientation, files: null };
}
