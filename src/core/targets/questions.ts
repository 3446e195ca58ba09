import type { Target } from './schema';

/*
 * What an artist can see of an engine's import, as questions with a few answers: which of the targets may be theirs
 * follows from what targets say of themselves.
 */

/** What it asks of heights: a factor, elevations or a range of them, layers, or nothing. */
export type HeightsAsked = 'scale' | 'elevations' | 'layers' | 'nothing';
/** Which sizes it takes. */
export type SizesTaken = 'components' | 'odd' | 'even' | 'one' | 'tiles' | 'multiples' | 'any';
/** What it asks of the ground across: a factor, how wide it is, from one sample to the next, or nothing. */
export type WidthAsked = 'scale' | 'extent' | 'spacing' | 'nothing';

export interface Traits {
  readonly heights: HeightsAsked;
  readonly sizes: SizesTaken;
  readonly width: WidthAsked;
}

function heightsAsked({ heights }: Target): HeightsAsked {
  switch (heights.kind) {
    case 'centred':
      return 'scale';
    case 'layers':
      return 'layers';
    case 'fixed-step':
      return 'nothing';
    case 'span':
      return 'elevations';
  }
}

const SIZES: { readonly [K in Target['grid']['kind']]: SizesTaken } = {
  components: 'components',
  'power-of-two-plus-one': 'odd',
  'power-of-two': 'even',
  one: 'one',
  'stored-tiles': 'tiles',
  multiples: 'multiples',
  any: 'any',
};

function widthAsked({ asks, spacing }: Target): WidthAsked {
  if (spacing !== undefined) return 'nothing';
  if (asks.includes('groundScaleX')) return 'scale';
  return asks.includes('extentX') ? 'extent' : 'spacing';
}

/** What can be seen of a target without knowing its name. */
export const traitsOf = (target: Target): Traits => ({
  heights: heightsAsked(target),
  sizes: SIZES[target.grid.kind],
  width: widthAsked(target),
});

/** Whether a target may be the one of which this is known; what is not known is left out. */
export function maybe(target: Target, known: Partial<Traits>): boolean {
  const traits = traitsOf(target);
  return (Object.keys(known) as (keyof Traits)[]).every((k) => known[k] === undefined || known[k] === traits[k]);
}
