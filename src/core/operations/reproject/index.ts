import type * as z from 'zod';
import { checkpoint, formatShort, type JobContext } from '../../base';
import type { OpenRaster, StoredBand } from '../../raster';
import { squared, squaredInfo, squaresFor, type Squares } from '../../squares';
import { ORDER, type Operation } from '../operation';
import { isAsItLies } from '../orientation';
import { outOfPlace } from '../refuse';
import type { reprojectSchema } from './schema';

interface Resolved extends Squares {
  readonly hold: boolean;
  /** Its vertices are those of the fit. */
  readonly deferred?: true;
}

/** A metric grid made of degrees, or of a map that stretches the ground. */
export const reproject: Operation<z.infer<typeof reprojectSchema>, Resolved> = {
  words: ({ spacing, zone, south }) =>
    `square metres, ${spacing === 'rung' ? 'sampled at the vertices of the fit' : `${formatShort(spacing, 3)} m apart`}, zone ${zone} ${south ? 'south' : 'north'}`,
  order: ORDER.metric,
  once: true,
  elsewhere: true,
  plan: (stage, { op: _op, off: _off, hold = false, ...asked }) => {
    if (stage.metric)
      throw outOfPlace('a second reprojection', 'one: the ground is metric already', 'Take one of the two out.');
    if (!isAsItLies(stage.orientation))
      throw outOfPlace(
        'a reprojection after a turn or mirror',
        'this step before turns and mirrors: coordinates count from the north-west',
        'Move it up, before turns, mirrors and exchanged axes.',
      );
    const deferred = asked.spacing === 'rung';
    const squares = squaresFor(stage.info, asked);
    const { samples: _, ...rest } = stage;
    return {
      stage: {
        ...rest,
        asStored: false,
        metric: true,
        spacing: squares.spacing,
        info: squaredInfo(stage.info, squares),
        ...(deferred ? { deferred: { from: stage.info, squares, hold } } : {}),
      },
      resolved: { ...squares, hold, ...(deferred ? { deferred } : {}) },
    };
  },
  open: ({ base, orientation }, { hold, deferred, ...squares }) => {
    const made = squared(base, squares);
    const shown = { base: hold ? held(made, base) : made, orientation, files: null };
    return deferred ? { ...shown, fitted: base } : shown;
  },
};

/** Results held within the lowest and highest sample of the raster that they are made of, which is read once for them. */
function held(made: OpenRaster, from: OpenRaster): OpenRaster {
  return {
    ...made,
    async *bands(job) {
      const { low, high } = await endsOf(from, job);
      for await (const band of made.bands(job)) yield within(band, low, high);
    },
  };
}

async function endsOf(raster: OpenRaster, job?: JobContext): Promise<{ low: number; high: number }> {
  let [low, high] = [Infinity, -Infinity];
  for await (const { data } of raster.bands(job?.signal ? { signal: job.signal } : undefined)) {
    checkpoint(job);
    for (let i = 0; i < data.length; i++) {
      const value = data[i] as number;
      if (value - value !== 0) continue;
      if (value < low) low = value;
      if (value > high) high = value;
    }
  }
  return { low, high };
}

function within(band: StoredBand, low: number, high: number): StoredBand {
  const data = band.data.slice();
  for (let i = 0; i < data.length; i++) {
    const value = data[i] as number;
    if (value < low) data[i] = low;
    else if (value > high) data[i] = high;
  }
  return { y: band.y, rows: band.rows, data };
}
