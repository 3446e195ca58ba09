import { onGround, type DeferredPlaces, type TwinStage } from './operation';

/** Ground that comes to lie elsewhere while it is fitted: where a place of it lay before. */
export const lookedUp = (before: TwinStage, find: DeferredPlaces['find']): TwinStage =>
  onGround(before, (ground) => {
    const { width, height } = ground;
    const { deferred } = ground;
    return {
      ...ground,
      georeference: null,
      pieces: null,
      deferred: deferred
        ? { ...deferred, find: (x, y) => deferred.find(...find(x, y)) }
        : { width, height, find, hold: false },
    };
  });
