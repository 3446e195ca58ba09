import type * as z from 'zod';
import { formatShort, IDENTITY } from '../../base';
import { squared, squaredInfo, squaresFor, type Squares } from '../../squares';
import { held } from '../held';
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
    if (stage.deferred)
      throw outOfPlace(
        'a reprojection after ground that was turned by an angle or moved',
        'this step before: coordinates count from the north-west',
        'Move it up, before that step.',
      );
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
        ...(deferred
          ? {
              deferred: {
                from: stage.info,
                squares,
                affine: IDENTITY,
                gaps: squares.whole === true,
                hold,
              },
            }
          : {}),
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
