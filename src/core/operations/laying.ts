import { ORDER, type Operation, type Stage } from './operation';
import { composed, type Orientation } from './orientation';

/** An operation that lays samples otherwise and changes none: see `orientation`. */
export function laying<P>(how: (params: P) => Orientation, words: (params: P) => string): Operation<P, Orientation> {
  return {
    words,
    order: ORDER.laying,
    lossless: true,
    lays: how,
    plan: (stage: Stage, params) => {
      const { samples: _, ...rest } = stage;
      return { stage: { ...rest, orientation: composed(stage.orientation, how(params)) }, resolved: how(params) };
    },
    open: (input, orientation) => ({ ...input, orientation: composed(input.orientation, orientation) }),
  };
}
