import type * as z from 'zod';
import { affineThen, checkpoint, formatLength, IDENTITY, LevelGridError } from '../../base';
import { samplesLike, type OpenRaster, type RasterInfo } from '../../raster';
import { afterMove } from '../moved';
import { ORDER, type Operation, type Stage } from '../operation';
import type { cropSchema } from './schema';

/** In samples. */
interface Resolved {
  readonly column: number;
  readonly row: number;
  readonly width: number;
  readonly height: number;
}

/** A part of the ground: samples stay as they are. */
export const crop: Operation<z.infer<typeof cropSchema>, Resolved> = {
  words: ({ size: [east, south] }) => `cropped to ${formatLength(east)} × ${formatLength(south)}`,
  order: ORDER.heights,
  elsewhere: true,
  plan: (stage, { at, size }) => {
    const samples = (metres: number): number => Math.round(metres / stage.spacing);
    const [column, row] = [samples(at[0]), samples(at[1])];
    const [width, height] = [samples(size[0]) + 1, samples(size[1]) + 1];
    const { info, spacing } = stage;
    if (column + width > info.width || row + height > info.height)
      throw new LevelGridError('crop-outside', {
        found: `a crop of ${formatLength(size[0])} × ${formatLength(size[1])} from ${formatLength(at[0])} east and ${formatLength(at[1])} south on`,
        expected: `a rectangle within the ground, ${formatLength((info.width - 1) * spacing)} × ${formatLength((info.height - 1) * spacing)}`,
        remedy: 'Crop to a smaller rectangle, or begin further north and west.',
      });
    return {
      stage: afterCrop(stage, { column, row, width, height }),
      resolved: { column, row, width, height },
    };
  },
  open: ({ base, orientation, fitted }, window, stage) => ({
    base: cut(base, afterCrop(stage, window).info, window),
    orientation,
    files: null,
    ...(fitted ? { fitted } : {}),
  }),
};

/** Ground that is sampled no sooner than it is fitted begins elsewhere; nothing else is done to it. */
function afterCrop(stage: Stage, window: Resolved): Omit<Stage, 'samples'> {
  const { deferred, ...rest } = stage;
  const cropped = afterMove(rest, 'a crop', window);
  if (!deferred) return cropped;
  const begins = { ...IDENTITY, x0: window.column, y0: window.row };
  return { ...cropped, deferred: { ...deferred, affine: affineThen(begins, deferred.affine) } };
}

function cut(base: OpenRaster, { width, height, georeference }: RasterInfo, { column, row }: Resolved): OpenRaster {
  const { georeference: _, ...rest } = base.info;
  return {
    ...base,
    info: { ...rest, width, height, ...(georeference ? { georeference } : {}) },
    async *bands(job) {
      for await (const { y, rows, data } of base.bands(job)) {
        checkpoint(job);
        const from = Math.max(row, y);
        const to = Math.min(row + height, y + rows);
        if (from >= to) continue;
        const out = samplesLike(data, (to - from) * width);
        for (let r = from; r < to; r++) {
          const at = (r - y) * base.info.width + column;
          (out as Float64Array).set((data as Float64Array).subarray(at, at + width), (r - from) * width);
        }
        yield { y: from - row, rows: to - from, data: out };
        if (to === row + height) return;
      }
    },
  };
}
