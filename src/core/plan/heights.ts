import {
  aboveDatum,
  calibrate,
  exaggerated,
  heightRange,
  holdsCodes,
  metresOf,
  quantiserFor,
  worldZero,
  type Calibration,
  type HeightRange,
  type Quantiser,
} from '../height';
import type { Chain } from '../chain';
import {
  datumAbout,
  highestStored,
  lowestStored,
  type GroundStatistics,
  type RasterInfo,
  type SourceStatistics,
} from '../raster';
import type { Recipe } from '../recipe';
import type { WrittenTarget } from '../targets';
import type { Entering, SourceFacts } from './facts';

/** From stored samples to codes: which elevation each has, and over which range. */
export interface Heights {
  /** Of what enters the fit; an estimate while it is being counted. */
  readonly stats: SourceStatistics;
  /** Lowest and highest stored value that enters. */
  readonly lowest: number;
  readonly highest: number;
  /** The same as true elevations, in metres. */
  readonly sourceRange: { readonly low: number; readonly high: number };
  /** The source holds codes, the ends of which have elevations. */
  readonly codes: boolean;
  readonly range: HeightRange;
  /** Stored value → elevation in world metres, exaggerated. */
  readonly shown: Calibration;
  /** The stored value that heights are counted from. */
  readonly datum: number;
  /** Height above the datum → true elevation, and → world metres. */
  readonly plain: Calibration;
  readonly calibration: Calibration;
  readonly quantiser: Quantiser;
  /** Elevation that is height 0 in the world, in world metres. */
  readonly zero: number;
}

const ESTIMATE: Pick<SourceStatistics, 'voids' | 'distinctCodes' | 'codeStep' | 'mean' | 'samples'> = {
  samples: 0,
  voids: 0,
  mean: null,
  distinctCodes: 0,
  codeStep: null,
};

/** A stored value as a datum for heights that run from `low` to `high` (stored values). */
function datumOf(info: RasterInfo, unchanged: boolean, low: number, high: number): number {
  const whole = info.sampleType !== 'float';
  // whole numbers of up to 16 bits are exact in Float32 as they are
  return whole && unchanged && info.bitDepth <= 16 ? 0 : datumAbout(low, high, whole);
}

/** Of this share of the range a datum may lie elsewhere without being another. */
const SAME_DATUM = 1e-6;

/**
 * The datum that ground was measured about, where it is as good as the one that is wanted: a range that begins at the
 * lowest ground is told by floats above a datum, and would move with each measurement by their last bits.
 */
function measuredAbout(ground: GroundStatistics | null, wanted: number, span: number): number {
  const near = ground !== null && Math.abs(ground.datum - wanted) <= SAME_DATUM * Math.abs(span);
  return near ? ground.datum : wanted;
}

interface HeightsInput {
  readonly recipe: Recipe;
  readonly target: WrittenTarget;
  readonly chain: Chain;
  readonly entering: Entering;
  readonly source: SourceFacts;
  readonly ground: GroundStatistics | null;
  /** No sample changes in the fit. */
  readonly unchanged: boolean;
  /** Overrules the stored value that heights are counted from. */
  readonly datum: number | undefined;
}

/** Range, calibration and codes of the heights. */
export function planHeights(input: HeightsInput): Heights {
  const { recipe, target, chain, entering, source, ground } = input;
  const { ends } = chain.entering;
  const stats: SourceStatistics = entering.stats ??
    source.stats ?? { ...ESTIMATE, min: 0, max: highestStored(source.info) };
  const lowest = stats.min ?? 0;
  const highest = stats.max ?? 0;
  const stored = calibrate(recipe, ends);
  const metres = (value: number): number => stored.offset + stored.unit * value;
  const sourceRange = { low: metres(lowest), high: metres(highest) };
  const codes = holdsCodes(recipe.source.heights, ends);
  const range = heightRange(recipe, target, {
    source: sourceRange,
    ground: ground ? { low: metres(ground.datum + ground.min), high: metres(ground.datum + ground.max) } : sourceRange,
    codes: !codes ? null : { low: metres(lowestStored(ends)), high: metres(highestStored(ends)) },
  });
  const shown = exaggerated(stored, range.pivot, recipe.height.exaggeration);
  const datum = input.datum ?? wantedDatum(input, { stored, range, lowest, highest });
  const plain = aboveDatum(stored, datum);
  const calibration = aboveDatum(shown, datum);
  return {
    stats,
    lowest,
    highest,
    sourceRange,
    codes,
    range,
    shown,
    datum,
    plain,
    calibration,
    quantiser: quantiserOf(target, plain, range, calibration),
    zero: worldZero(recipe, target, range),
  };
}

/** Codes and shares come from heights before exaggeration, which changes only what they stand for; metres are what is shown. */
function quantiserOf(
  { encoding: { stores }, highestCode }: WrittenTarget,
  plain: Calibration,
  range: HeightRange,
  shown: Calibration,
): Quantiser {
  if (stores === 'metres') return metresOf(shown);
  return quantiserFor(plain, range.plain, stores === 'shares' ? 1 : highestCode, stores);
}

/** In the middle of what matters: the ground where the range follows it, else the range. */
function wantedDatum(
  { recipe, entering: { info }, ground, unchanged }: HeightsInput,
  {
    stored,
    range,
    lowest,
    highest,
  }: { readonly stored: Calibration; readonly range: HeightRange; readonly lowest: number; readonly highest: number },
): number {
  if (recipe.height.range === 'ground' && recipe.height.strategy !== 'fixed')
    return ground ? ground.datum : datumOf(info, unchanged, lowest, highest);
  const storedAt = (elevation: number): number => (elevation - stored.offset) / stored.unit;
  const { low, high } = range.plain;
  return measuredAbout(ground, datumOf(info, unchanged, storedAt(low), storedAt(high)), (high - low) / stored.unit);
}
