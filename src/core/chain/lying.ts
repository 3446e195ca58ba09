import { orientedSides, placeAfter, placeBefore, type Stage } from '../operations';

/** A place in samples; it may lie between them. */
export interface PlaceOnGround {
  readonly x: number;
  readonly y: number;
}

/**
 * What is drawn and marked is kept in samples of the metric ground, before quarter turns and mirrors, and so stays on its
 * ground whatever is turned: where a place of it lies on a stage.
 */
export const ontoStage = ({ orientation, info }: Stage, ground: PlaceOnGround): PlaceOnGround =>
  placeAfter(orientation, info, ground);

/** Where a place of a stage lies on the metric ground. */
export const ontoGround = ({ orientation, info }: Stage, place: PlaceOnGround): PlaceOnGround =>
  placeBefore(orientation, info, place);

/** Which way north lies on a stage: one step of it, in samples; up is (0, −1). */
export function northOf(stage: Stage): PlaceOnGround {
  const a = ontoStage(stage, { x: 0, y: 0 });
  const b = ontoStage(stage, { x: 0, y: -1 });
  return { x: b.x - a.x, y: b.y - a.y };
}

/** Columns and rows of a stage as it lies. */
export const sidesOf = ({ orientation, info }: Stage): { readonly width: number; readonly height: number } =>
  orientedSides(orientation, info);
