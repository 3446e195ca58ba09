import type { GroundStatistics, RasterInfo, SourceStatistics } from '../raster';
import type { Recipe } from '../recipe';

/**
 * What an import should show, derived once more from the recipe and the source alone. The formulas of DOMAIN are
 * written out here a second time on purpose: a slip in the plan must not be able to hide in its own proof.
 */
export interface Truth {
  /** Elevation in world metres of a height sample above the datum: offset + unit · sample. */
  readonly unit: number;
  readonly offset: number;
  /** Elevation at world zero. */
  readonly zero: number;
  /** Metres from code to code. */
  readonly step: number;
  readonly low: number;
  readonly high: number;
  /** World metres from the first to the last vertex of the whole. */
  readonly extentX: number;
  readonly extentY: number;
  /** North-west vertex against the world's zero, metres. */
  readonly east: number;
  readonly north: number;
}

export function deriveTruth(
  recipe: Recipe,
  info: RasterInfo,
  stats: SourceStatistics,
  datum: number,
  /** Needed where the height range follows the fitted ground. */
  ground: GroundStatistics | null,
): Truth {
  const k = recipe.fit.worldScale;
  const { low: lowest, high: highest, spacing } = recipe.source;
  const codes =
    info.sampleType === 'float' ? 1 : info.sampleType === 'int' ? 2 ** (info.bitDepth - 1) - 1 : 2 ** info.bitDepth - 1;
  const unit = lowest === undefined || highest === undefined ? k : (k * (highest - lowest)) / codes;
  const offset = (lowest === undefined || highest === undefined ? 0 : k * lowest) + unit * datum;
  const elevation = (stored: number | null): number => offset + unit * ((stored ?? 0) - datum);

  let low = 0;
  let high = 0;
  if (recipe.height.range === 'source') {
    low = elevation(stats.min);
    high = elevation(stats.max);
  } else if (recipe.height.range === 'ground') {
    low = offset + unit * (ground?.min ?? 0);
    high = offset + unit * (ground?.max ?? 0);
  } else {
    low = k * (recipe.height.low ?? 0);
    high = k * (recipe.height.high ?? 0);
  }
  if (high <= low) high = low + 1;
  const lowestGround = low;
  if (recipe.height.strategy === 'headroom') {
    const a = (recipe.height.above ?? 0) / 100;
    const b = (recipe.height.below ?? 0) / 100;
    const whole = (high - low) / (1 - a - b);
    low -= b * whole;
    high = low + whole;
  } else if (recipe.height.strategy === 'fixed') {
    const scale = recipe.height.scale ?? 0;
    // centred: F/12800 metres a code; span: the range over all codes
    const step = recipe.target === 'component-grid' ? scale / 12800 : scale / 65535;
    const anchored = k * (recipe.height.anchor?.elevation ?? 0);
    const code = { lowest: 0, middle: 32768, highest: 65535 }[recipe.height.anchor?.at ?? 'lowest'];
    low = anchored - code * step;
    high = low + 65535 * step;
  }
  const step = (high - low) / 65535;
  const zero = {
    'lowest-code': low,
    'lowest-ground': lowestGround,
    sea: k * (recipe.height.sea ?? 0),
    survey: 0,
    'middle-code': low + 32768 * step,
  }[recipe.height.offset];

  const [width, height] = typeof recipe.fit.size === 'number' ? [recipe.fit.size, recipe.fit.size] : recipe.fit.size;
  const stretched = recipe.fit.method === 'resample';
  const extentX = k * spacing * ((stretched ? info.width : width) - 1);
  const extentY = k * spacing * ((stretched ? info.height : height) - 1);
  const centred = recipe.fit.origin === 'centre';
  return {
    unit,
    offset,
    zero,
    step,
    low,
    high,
    extentX,
    extentY,
    east: centred ? -extentX / 2 : 0,
    north: centred ? extentY / 2 : recipe.fit.origin === 'south-west' ? extentY : 0,
  };
}
