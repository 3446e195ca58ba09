import type * as z from 'zod';
import {
  affineBack,
  affinePlace,
  formatShort,
  LevelGridError,
  nearestAffine,
  type Affine,
  type Pair,
} from '../../base';
import { afterMoving, openMoved } from '../deferred';
import { ORDER, type Operation } from '../operation';
import type { warpSchema } from './schema';

type Points = z.infer<typeof warpSchema>['points'];

/** How far beside its second place each point comes to lie, in metres; null where no map can be found. */
export function residualsOf(points: Points): number[] | null {
  const map = nearestAffine(points);
  if (!map) return null;
  return points.map(([from, to]) => {
    const [x, y] = affinePlace(map, from);
    return Math.hypot(x - to[0], y - to[1]);
  });
}

/** From places of the moved ground to places before, in samples. */
function movedBack(points: Points, spacing: number): Affine {
  const samples = ([east, south]: Pair): Pair => [east / spacing, south / spacing];
  const map = nearestAffine(points.map(([from, to]) => [samples(from), samples(to)]));
  const back = map && affineBack(map);
  if (!back)
    throw new LevelGridError('recipe-value', {
      found: 'control points that lie on one line, or in one spot',
      expected: 'three or more that span an area, before and after',
      remedy: 'Move one of them away from the line through the others.',
    });
  return back;
}

/** Ground moved onto control points, sampled together with the fit. Its frame stays: what comes in from outside is void. */
export const warp: Operation<z.infer<typeof warpSchema>, { readonly back: Affine }> = {
  words: ({ points }) => {
    const beside = residualsOf(points);
    // three are met exactly
    const most = beside && points.length > 3 ? `, ${formatShort(Math.max(...beside), 2)} m beside them at most` : '';
    return `moved onto ${points.length} control points${most}`;
  },
  order: ORDER.moving,
  elsewhere: true,
  plan: (stage, { points }) => {
    const back = movedBack(points, stage.spacing);
    return { stage: afterMoving(stage, back), resolved: { back } };
  },
  open: (input, { back }, stage) => openMoved(input, afterMoving(stage, back)),
};
