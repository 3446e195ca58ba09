import type * as z from 'zod';
import { formatShort, type Affine } from '../../base';
import { afterMoving, openMoved } from '../deferred';
import { ORDER, type Operation } from '../operation';
import type { rotateSchema } from './schema';

/** From places of the turned ground to places before, in samples: rows run south, so that clockwise goes from x to y. */
function turnedBack(degrees: number, [x, y]: readonly [number, number]): Affine {
  const angle = (degrees * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return { xx: cos, xy: sin, x0: x - cos * x - sin * y, yx: -sin, yy: cos, y0: y + sin * x - cos * y };
}

/** Ground turned by any angle, sampled together with the fit. Its frame stays: what comes in from outside is void. */
export const rotate: Operation<z.infer<typeof rotateSchema>, { readonly back: Affine }> = {
  words: ({ degrees }) =>
    `turned by ${formatShort(Math.abs(degrees), 3)}° ${degrees < 0 ? 'counter-clockwise' : 'clockwise'}`,
  order: ORDER.moving,
  elsewhere: true,
  plan: (stage, { degrees, about: [east, south] }) => {
    const back = turnedBack(degrees, [east / stage.spacing, south / stage.spacing]);
    return { stage: afterMoving(stage, back), resolved: { back } };
  },
  open: (input, { back }, stage) => openMoved(input, afterMoving(stage, back)),
};
