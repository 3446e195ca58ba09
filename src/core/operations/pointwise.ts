import { mosaic } from '../mosaic';
import type { OpenRaster, RasterInfo, StoredSamples } from '../raster';
import type { ChangeTally, StageRaster } from './operation';

/** Samples of a band, each changed by itself. */
export type PointWork = (data: StoredSamples) => StoredSamples;

/**
 * A raster of which each sample is changed by itself, in the course of its bands. `telling` is the same work, which tells
 * what it changes: it is done in the first reading, since every further one would tell it again.
 */
export function pointwise<T extends OpenRaster>(raster: T, info: RasterInfo, quiet: PointWork, telling = quiet): T {
  let told = false;
  return {
    ...raster,
    info,
    async *bands(job) {
      const work = told ? quiet : telling;
      told = true;
      for await (const { y, rows, data } of raster.bands(job)) yield { y, rows, data: work(data) };
    },
  };
}

/** How a file is laid on the others: a sample of the whole is `factor` times its own plus `shift`. */
export interface Laid {
  readonly factor: number;
  readonly shift: number;
}
const ALONE: Laid = { factor: 1, shift: 0 };

/**
 * The same where each sample must be changed as its own file holds it: of several files each by itself, before they are
 * put together.
 */
export function pointwiseAsStored(
  input: StageRaster,
  infoOf: (before: RasterInfo, laid: Laid) => RasterInfo,
  workOf: (before: RasterInfo, laid: Laid, tally?: ChangeTally) => PointWork,
  tally?: ChangeTally,
): StageRaster {
  const of = ({ info, ...rest }: OpenRaster, laid: Laid): OpenRaster =>
    pointwise({ info, ...rest }, infoOf(info, laid), workOf(info, laid), workOf(info, laid, tally));
  const { base, files } = input;
  if (!files) return { ...input, base: of(base, ALONE) };
  const byName = new Map(files.placed.map((p) => [p.name, p]));
  const parts = files.parts.map(({ name, raster }) => {
    const { factor = 1, shift = 0 } = byName.get(name) ?? {};
    return { name, raster: of(raster, { factor, shift }) };
  });
  return { ...input, base: laidLike(base, mosaic(parts, files.placed)), files: { ...files, parts } };
}

/** A raster put together anew, which lies where the one before it lay. */
export function laidLike(before: OpenRaster, raster: OpenRaster): OpenRaster {
  const { georeference } = before.info;
  return { ...raster, info: { ...raster.info, ...(georeference ? { georeference } : {}) } };
}
