import type { HeightRule } from '../targets';

/** What a target is given for heights: a factor and an offset, or a range in metres and the base that it stands on. */
export interface Given {
  /** Height scale (100 is the target's own), or the height range in metres. */
  readonly scale: number;
  /** Height offset, or base, in the unit of the target. */
  readonly offset: number;
}

/** A place of which two heights are known, in the unit of the target: the one that is shown, and the one that it should have. */
export interface Place {
  readonly shown: number;
  readonly wanted: number;
}

export interface Corrected {
  /** Other offset, the scale kept: all ground goes up or down by the same. */
  readonly moved: Given;
  /** Other scale, the lowest code kept where it lies: ground is stretched. Null where the place lies at the lowest code. */
  readonly stretched: Given | null;
}

/**
 * What to type instead where ground that is imported already stands wrong at one place: files and codes stay as they are.
 * Centred: height = a · scale + offset, where a runs from −middle/divisor on; a span: height = share · scale + offset.
 * @param rule how the target makes heights of codes; null of a kind that is given no scale
 */
export function correctedInPlace(
  rule: HeightRule,
  { scale, offset }: Given,
  { shown, wanted }: Place,
): Corrected | null {
  if (rule.kind !== 'centred' && rule.kind !== 'span') return null;
  // scales that lie between offset and lowest code
  const below = rule.kind === 'centred' ? rule.middle / rule.divisor : 0;
  const lowest = offset - below * scale;
  const moved = { scale, offset: offset + wanted - shown };
  const rise = shown - lowest;
  const stretch = rise === 0 ? 0 : (wanted - lowest) / rise;
  if (!(stretch > 0) || !Number.isFinite(stretch)) return { moved, stretched: null };
  return { moved, stretched: { scale: scale * stretch, offset: lowest + below * scale * stretch } };
}
