import type { StepOf } from '../../../recipe';
import { lookedUp } from './looked-up';
import type { TwinOperation } from './operation';

/** Ground turned a second time: each place of it is the place that lies as far from the middle, so many degrees back. */
export const rotate: TwinOperation<StepOf<'rotate'>> = (before, { degrees, about }, { spacing }) => {
  const [east, south] = [about[0] / spacing, about[1] / spacing];
  return {
    stage: lookedUp(before, (x, y) => {
      const away = Math.hypot(x - east, y - south);
      const angle = Math.atan2(y - south, x - east) - (degrees / 180) * Math.PI;
      return [east + away * Math.cos(angle), south + away * Math.sin(angle)];
    }),
    judged: MOVED,
  };
};

/** Said of what can be seen in the vertices alone. */
export const MOVED = {
  holds: true,
  message: 'It is sampled at the vertices of the fit, which are compared one by one.',
};
