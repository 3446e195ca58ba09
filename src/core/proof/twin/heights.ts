import type { Recipe } from '../../recipe';
import { storedBy, type Stored } from './stored';
import { factsOfTarget, type TargetFacts } from './targets';
import type { GroundValue } from './ground';

/*
 * What heights an import should show, derived from the recipe and a few facts of the source. The formulas of the job
 * are written out here a second time on purpose: a slip in the plan must not be able to hide in its own proof.
 */

/** What the heights rest on: found in the source, or claimed by the page where there is none. */
export interface HeightFacts {
  readonly bitDepth: number;
  readonly sampleType: 'uint' | 'int' | 'float';
  /** Lowest and highest stored value that occur. */
  readonly min: number;
  readonly max: number;
  /** Lowest and highest of the fitted ground, in world metres as written; needed where the range follows the ground, and for metres. */
  readonly groundLow: number;
  readonly groundHigh: number;
}

export interface ExpectedHeights {
  /** What the files hold. */
  readonly as: Stored['as'];
  /** The highest code; of shares what is told apart of the range. */
  readonly top: number;
  /** The elevation about which heights grow. */
  readonly pivot: number;
  /** Elevation in world metres of a stored value: offset + unit · value. */
  readonly unit: number;
  readonly offset: number;
  /** Elevations that code 0 and the highest code stand for, and from code to code. */
  readonly low: number;
  readonly high: number;
  readonly step: number;
  /** What two ways of working out may differ by is counted in this: a code, of floats a step of 16 bits over the range. */
  readonly fine: number;
  /** Elevation at world zero. */
  readonly zero: number;
  /** Elevations of ground beyond the source and, where the recipe gives one, of voids. */
  readonly rim: number;
  readonly voids: number | null;
  /** What heights may be off by since places were projected in two ways, in metres. */
  readonly loose: number;
}

/** Metres of the units that heights come in. */
export const UNITS = { metre: 1, decimetre: 0.1, centimetre: 0.01, foot: 0.3048, 'us-survey-foot': 1200 / 3937 };

/** What a stored value stands for in true metres, offset + unit · value, and whether stored values are codes. */
function sourceHeights(
  given: Recipe['source']['heights'],
  whole: boolean,
  top: number,
): { unit: number; offset: number; codes: boolean } {
  // a stretch s lays an elevation e at low + s · (e − low)
  const s = given.stretch ?? 1;
  const half = whole && 'truncated' in given && given.truncated === true ? 0.5 : 0;
  switch (given.as) {
    case 'elevations':
      return { unit: UNITS[given.unit ?? 'metre'] / s, offset: 0, codes: whole };
    case 'step':
      return { unit: given.step / s, offset: given.base + (half * given.step) / s, codes: whole };
    case 'ends': {
      const rise = (given.high - given.low) / s;
      return { unit: rise / top, offset: given.low + (half * rise) / top, codes: true };
    }
  }
}

type FileType = Pick<HeightFacts, 'bitDepth' | 'sampleType'>;

/** The highest value that samples of a type can hold. */
const topOf = ({ bitDepth, sampleType }: FileType): number =>
  sampleType === 'float' ? 1 : sampleType === 'int' ? 2 ** (bitDepth - 1) - 1 : 2 ** bitDepth - 1;

/** A display curve that the recipe undoes. */
const curveOf = ({ steps }: Recipe): 'srgb' | number | null => {
  for (const step of steps) if (step.op === 'linearise' && !step.off) return step.curve;
  return null;
};

/** What the ends of heights are measured by: codes of the file, or shares from 0 to 1 where a curve is undone. */
export const endsOf = (recipe: Recipe, file: FileType): FileType =>
  curveOf(recipe) === null ? file : { bitDepth: 32, sampleType: 'float' };

/** True metres of one code of the file, as heights that are linear stand for it. */
export const unitOfStored = ({ source }: Recipe, file: FileType): number =>
  sourceHeights(source.heights, file.sampleType !== 'float', topOf(file)).unit;

/** What a sample stands for after a display curve was undone, where one was: true metres = offset + unit · sample. */
export function calibrationOf(recipe: Recipe, file: FileType): { readonly unit: number; readonly offset: number } {
  const ends = endsOf(recipe, file);
  return sourceHeights(recipe.source.heights, ends.sampleType !== 'float', topOf(ends));
}

/** What a file stores for a true elevation: through its heights, and with its display curve put on again. */
export function storedOf(recipe: Recipe, file: FileType, elevation: number): number {
  const top = topOf(file);
  const curve = curveOf(recipe);
  const { unit, offset } = sourceHeights(recipe.source.heights, curve === null && file.sampleType !== 'float', top);
  const linear = (elevation - offset) / unit;
  if (curve === null) return linear;
  const share = Math.abs(linear / top);
  const shown =
    curve !== 'srgb'
      ? Math.exp(Math.log(share) / curve)
      : share > 0.0031308
        ? 1.055 * Math.exp(Math.log(share) / 2.4) - 0.055
        : 12.92 * share;
  return Math.sign(linear) * shown * top;
}

/** Metres from code to code at a scale that is kept: centred, so many units a hundredth of a scale; else the range over all codes. */
const stepFixed = ({ heights, unit, top }: TargetFacts, scale: number): number => {
  if (heights.kind === 'fixed-step') return heights.step;
  return heights.kind === 'centred' ? (scale * unit) / heights.perUnit : scale / top;
};

/** What a float of 32 bits tells apart at this value: its last of 24 bits. */
function lastBit(value: number): number {
  let bit = 2 ** -23;
  for (let v = value || 1; v >= 2; v /= 2) bit *= 2;
  for (let v = value || 1; v < 1; v *= 2) bit /= 2;
  return bit;
}

export function expectedHeights(recipe: Recipe, facts: HeightFacts): ExpectedHeights {
  const { source, fit, height } = recipe;
  const facts16 = factsOfTarget(recipe.target);
  const stored = storedBy(recipe);
  // floats between 0 and 1 have 24 bits, of which the first is always set
  const target = { ...facts16, top: stored.as === 'codes' ? Math.min(facts16.top, 2 ** stored.bits - 1) : 2 ** 24 };
  // as many codes below it as from it on
  const middle = (target.top + 1) / 2;
  const k = fit.worldScale;
  const e = height.exaggeration;
  const bits = facts.bitDepth;
  const top = facts.sampleType === 'float' ? 1 : facts.sampleType === 'int' ? 2 ** (bits - 1) - 1 : 2 ** bits - 1;
  const bottom = facts.sampleType === 'int' ? -(2 ** (bits - 1)) : 0;
  const given = sourceHeights(source.heights, facts.sampleType !== 'float', top);
  const calibrated = given.codes;
  // true elevations, shrunk with the world
  const trueUnit = k * given.unit;
  const trueOffset = k * given.offset;
  const ofStored = (value: number): number => trueOffset + trueUnit * value;

  let from = 0;
  let to = 0;
  if (height.range === 'source' || (height.range === 'codes' && !calibrated)) {
    from = ofStored(facts.min);
    to = ofStored(facts.max);
  } else if (height.range === 'codes') {
    from = ofStored(bottom);
    to = ofStored(top);
  } else if (height.range === 'pinned') {
    from = k * (height.low ?? 0);
    to = k * (height.high ?? 0);
  } else {
    // the ground's own, exaggerated about its lowest already
    from = facts.groundLow;
    to = facts.groundLow + (facts.groundHigh - facts.groundLow) / e;
  }
  // heights grow about the low end; everything that the recipe names grows with them
  const lifted = (elevation: number): number => from + e * (elevation - from);
  let low = from;
  let high = lifted(to);
  // what floats of 32 bits can't tell apart is level
  if (!(to - from > 2 ** -24 * Math.max(Math.abs(from), Math.abs(to)))) high = low + 1;
  const lowestGround = low;
  if (height.strategy === 'headroom') {
    const above = (height.above ?? 0) / 100;
    const below = (height.below ?? 0) / 100;
    const whole = (high - low) / (1 - above - below);
    low -= below * whole;
    high = low + whole;
  } else if (height.strategy === 'fixed') {
    const step = stepFixed(target, height.scale ?? 0);
    const code = { lowest: 0, middle, highest: target.top }[height.anchor?.at ?? 'lowest'];
    low = lifted(k * (height.anchor?.elevation ?? 0)) - code * step;
    high = low + target.top * step;
  }
  if (target.heights.kind === 'fixed-step' && height.strategy !== 'fixed') {
    low = lowestGround;
    high = low + target.top * target.heights.step;
  }
  const step =
    stored.as === 'metres'
      ? lastBit(Math.max(Math.abs(facts.groundLow), Math.abs(facts.groundHigh)))
      : (high - low) / target.top;
  const chosen = {
    'lowest-code': low,
    'lowest-ground': lowestGround,
    sea: lifted(k * (height.sea ?? 0)),
    survey: 0,
    'middle-code': low + (middle * (high - low)) / target.top,
  }[height.offset];
  const zero = { chosen, 'lowest-code': low, elevation: 0 }[target.zero];
  // the source's lowest, unless the recipe says otherwise
  const rim = fit.rim === undefined ? ofStored(facts.min) : k * fit.rim;
  return {
    as: stored.as,
    fine: stored.as === 'codes' ? step : (high - low) / 65535,
    top: target.top,
    pivot: from,
    unit: e * trueUnit,
    offset: lifted(trueOffset),
    low,
    high,
    step,
    zero,
    rim: lifted(rim),
    voids: fit.voids === undefined ? null : lifted(k * fit.voids),
    loose: 0,
  };
}

/** A true elevation of the recipe as it stands in the world that is written. */
export const inWorld = ({ fit, height }: Recipe, { pivot }: ExpectedHeights, elevation: number): number =>
  pivot + height.exaggeration * (elevation * fit.worldScale - pivot);

/** Samples that lie far from what is made of them were floats of 32 bits before they were weighed. */
const OF_SAMPLES = 2 ** -24;

/** The same, for a vertex whose samples lie apart. */
export const looseFor = (value: GroundValue, heights: ExpectedHeights): ExpectedHeights =>
  'spread' in value
    ? { ...heights, loose: heights.loose + OF_SAMPLES * Math.abs(heights.unit) * value.spread }
    : heights;

/** Elevation in world metres of a vertex; null where it has none. */
export function elevationOf(value: GroundValue, heights: ExpectedHeights): number | null {
  switch (value.kind) {
    case 'ground':
    case 'either':
      return heights.offset + heights.unit * value.stored;
    case 'rim':
      return heights.rim;
    case 'void':
      return heights.voids;
  }
}

/** What a file can show of an elevation: what is clipped shows the end of the range, and metres have no ends. */
export const heldWithin = ({ as, low, high }: ExpectedHeights, elevation: number): number =>
  as === 'metres' ? elevation : Math.min(high, Math.max(low, elevation));

/** This near to the middle of two codes, in codes, either is right. */
export const TIE = 0.01;

export interface ExpectedCode {
  readonly code: number;
  /** The other code that is as right; the same one where there is none. */
  readonly other: number;
  /** Beyond the codes by half a step or more. */
  readonly clipped: 'low' | 'high' | null;
  /** As far as `loose` may move it. */
  readonly least: number;
  readonly most: number;
}

/** Whether a code is one of those. */
export const isCode = (code: number | null, e: ExpectedCode): boolean =>
  code === e.code || code === e.other || (code !== null && code >= e.least && code <= e.most);

/** What fitted ground may be off by as floats of 32 bits, in heights beyond those that codes stand for. */
const OF_FLOATS = 2 ** -20;

/** Ground that is level throughout is written over one metre, which is so fine that what a float of 32 bits loses is seen. */
const OF_LEVEL = 2 ** -24;

/** What an elevation may differ by that was summed up in another order and precision: a twentieth of a step, and what floats lose beyond the range. */
export const slackAt = (elevation: number, { low, high, fine, loose }: ExpectedHeights): number =>
  loose +
  fine / 20 +
  OF_FLOATS * Math.max(0, low - elevation, elevation - high) +
  (Math.abs(high - low - 1) > 1e-9 ? 0 : OF_LEVEL * Math.abs(elevation));

/** The float that an elevation is written as: within half of its last bit, and what another way of working it out may differ by. */
function floatOf(elevation: number, heights: ExpectedHeights): ExpectedCode {
  const { as, low, high, step } = heights;
  const apart = step / 2 + slackAt(elevation, heights);
  const [base, each] = as === 'metres' ? [0, 1] : [low, high - low];
  const exact = (elevation - base) / each;
  const within = (v: number): number => (as === 'metres' ? v : Math.min(1, Math.max(0, v)));
  const beyond = exact < -(2 ** -25) ? 'low' : exact > 1 + 2 ** -25 ? 'high' : null;
  const code = Math.fround(within(exact));
  return {
    code,
    other: code,
    clipped: as === 'metres' ? null : beyond,
    least: within(exact - apart / each),
    most: within(exact + apart / each),
  };
}

/** The code that an elevation is written as. */
export function codeOf(elevation: number, heights: ExpectedHeights): ExpectedCode {
  if (heights.as !== 'codes') return floatOf(elevation, heights);
  const { low, high, loose, step, top } = heights;
  const exact = ((elevation - low) / (high - low)) * top;
  const within = (code: number): number => Math.min(top, Math.max(0, code));
  const code = Math.floor(exact + 0.5);
  // exact + 0.5 is whole on a tie: the code below is as near
  const past = exact + 0.5 - code;
  const other = past < TIE ? code - 1 : past > 1 - TIE ? code + 1 : code;
  return {
    code: within(code),
    other: within(other),
    clipped: code < 0 ? 'low' : code > top ? 'high' : null,
    least: within(Math.floor(exact + 0.5 - loose / step)),
    most: within(Math.floor(exact + 0.5 + loose / step)),
  };
}
