import { LevelGridError } from '../base';
import type { Recipe } from '../recipe';
import { factsOfTarget, storedBy, type Stored, type TargetFacts } from './twin';

/** Values as typed into the target, by the id of their card row. */
export type TypedValues = ReadonlyMap<string, number | string>;

/**
 * What a target makes of a code and of the typed values, in metres. Written from the target's own decoding rule and
 * the hand-worked vectors in tests/golden; shares nothing with the code that writes files or fills the card.
 */
export interface TargetDecoder {
  /** World height of a stored code. */
  heightOf(code: number): number;
  /** Distance from the first to the last vertex of one file, east–west and north–south. */
  extentX(vertices: number): number;
  extentY(vertices: number): number;
  /** Vertices along a side that the typed layout makes; null where none is typed. */
  verticesX(): number | null;
  verticesY(): number | null;
}

/** How codes become heights, by kind: from what is typed. */
function heightsBy(facts: TargetFacts, { as, bits }: Stored, v: TypedValues): (code: number) => number {
  // metres are heights already
  if (as === 'metres') return (stored) => stored;
  const get = reader(v);
  const { heights, unit } = facts;
  const top = as === 'shares' ? 1 : Math.min(facts.top, 2 ** bits - 1);
  switch (heights.kind) {
    // so many codes are one unit at scale 1, and the middle one lies at the offset
    case 'centred': {
      const [scale, offset] = [get('heightScale'), get('heightOffset')];
      return (code) => (((code - heights.middle) / heights.perUnit) * scale + offset) * unit;
    }
    // code 0 lies at the base, the highest a range above
    case 'span': {
      if (v.has('highestElevation')) {
        const [low, high] = [get('lowestElevation'), get('highestElevation')];
        return (code) => low + (code / top) * (high - low);
      }
      const range = get(v.has('topOfRange') ? 'topOfRange' : 'heightRange');
      const base = v.has('baseElevation') ? get('baseElevation') : 0;
      return (code) => base + (code * range) / top;
    }
    case 'fixed-step':
      return (code) => code * heights.step;
    // whole blocks, each as tall as the ground that it stands for; the lowest code lies at 0
    case 'layers': {
      const [bottom, highest, metres] = [get('bottomLayer'), get('topLayer'), get('metresPerLayer')];
      return (code) => (Math.floor(bottom + (code / top) * (highest - bottom) + 0.5) - bottom) * metres;
    }
  }
}

/** How wide one file comes out, along one axis. */
function extentBy(facts: TargetFacts, v: TypedValues, axis: 'X' | 'Y'): (samples: number) => number {
  const get = reader(v);
  const across = (n: number): number => (facts.cells ? n : n - 1);
  if (facts.spacing !== null) {
    const { spacing } = facts;
    return (n) => across(n) * spacing;
  }
  if (v.has(`groundScale${axis}`)) return (n) => across(n) * get(`groundScale${axis}`) * facts.unit;
  if (v.has(`extent${axis}`)) return () => get(`extent${axis}`);
  return (n) => across(n) * get('metresPerSample');
}

/** Samples along a side that what is typed makes. */
function samplesBy(v: TypedValues, axis: 'X' | 'Y'): () => number | null {
  const number = (id: string): number | null => {
    const value = v.get(id);
    return typeof value === 'number' ? value : null;
  };
  return () => {
    const [q, p, c] = [number('quads'), number('patches'), number(`components${axis}`)];
    if (q !== null && p !== null && c !== null) return q * p * c + 1;
    return number(`samples${axis}`) ?? number('samples') ?? number('vertices');
  };
}

export function decoderFor(recipe: Pick<Recipe, 'target' | 'output'>, values: TypedValues): TargetDecoder {
  const facts = factsOfTarget(recipe.target);
  return {
    heightOf: heightsBy(facts, storedBy(recipe), values),
    extentX: extentBy(facts, values, 'X'),
    extentY: extentBy(facts, values, 'Y'),
    verticesX: samplesBy(values, 'X'),
    verticesY: samplesBy(values, 'Y'),
  };
}

function reader(values: TypedValues): (id: string) => number {
  return (id) => {
    const value = values.get(id);
    if (typeof value === 'number') return value;
    throw new LevelGridError('pack-document', {
      found: `no value for "${id}"`,
      expected: 'every value of the import card',
      remedy: 'Take import.json as it was written, or type the value.',
    });
  };
}
