import { formatLength, formatShort } from '../base';
import { inventedShare, type RectangleLayout } from '../grid';
import { highestStored, type HeightRange, type Precision } from '../height';
import type { GroundStatistics, RasterInfo, RasterWarning, SourceStatistics } from '../raster';
import type { Recipe } from '../recipe';
import type { TileGrid } from '../tiles';
import type { Target } from '../targets';
import type { ChainStep, CheckState, PlanCheck } from './document';
import type { Geometry } from './geometry';

export interface ChecksInput {
  readonly recipe: Recipe;
  readonly target: Target;
  readonly info: RasterInfo;
  readonly stats: SourceStatistics | null;
  readonly warnings: readonly RasterWarning[];
  readonly geometry: Geometry;
  readonly range: HeightRange;
  readonly precision: Precision;
  readonly ground: GroundStatistics | null;
  /** Elevation of a height sample: offset + unit · value. */
  readonly calibration: { readonly unit: number; readonly offset: number };
  readonly clipped: { readonly low: number | null; readonly high: number | null };
  readonly tiles: TileGrid | null;
  readonly layout: RectangleLayout | null;
}

type Extra = Pick<PlanCheck, 'spot' | 'repair'>;

/** Every mistake that this plan could hold, with its number and, where there is one, its repair. */
export function planChecks(input: ChecksInput): PlanCheck[] {
  const out: PlanCheck[] = [];
  const say = (step: ChainStep, id: string, state: CheckState, message: string, extra: Partial<Extra> = {}): void => {
    out.push({ id, state, message, step, ...extra });
  };
  sourceChecks(input, say);
  fitChecks(input, say);
  heightChecks(input, say);
  splitChecks(input, say);
  return out;
}

type Say = (step: ChainStep, id: string, state: CheckState, message: string, extra?: Partial<Extra>) => void;

function sourceChecks({ info, stats, warnings, recipe }: ChecksInput, say: Say): void {
  for (const warning of warnings) say('bring-in', `source-${warning.code}`, 'caution', warning.message);
  const { low, high } = recipe.source;
  if (recipe.source.assumed) {
    say(
      'bring-in',
      'source-assumed',
      'caution',
      `Nobody has said yet how high and how large this ground is: ${low === undefined ? '' : `${formatShort(low)} to ${formatShort(high ?? 0)} m and `}${formatShort(recipe.source.spacing)} m a sample are placeholders.`,
    );
  }
  if (info.sampleType === 'float') {
    const peak = stats?.max ?? null;
    if (low !== undefined && peak !== null && peak > 1.5) {
      say(
        'bring-in',
        'source-unit',
        'caution',
        `The file holds values up to ${formatShort(peak)}, which looks like metres; it is read as 0 to 1.`,
      );
    } else if (
      low === undefined &&
      stats?.min !== null &&
      peak !== null &&
      stats !== null &&
      stats.min >= 0 &&
      peak <= 1 &&
      peak > stats.min
    ) {
      say(
        'bring-in',
        'source-unit',
        'caution',
        'The file holds values from 0 to 1, which looks like a normalised picture; they are read as metres.',
      );
    }
  } else if (low !== undefined && high !== undefined) {
    const sourceStep = (high - low) / highestStored(info);
    if (info.bitDepth < 16) {
      say(
        'bring-in',
        'source-depth',
        'caution',
        `The source has ${info.bitDepth} bits: its heights lie ${formatLength(sourceStep)} apart, and gentle slopes show as stairs.`,
      );
    } else {
      const codes = stats ? `${stats.distinctCodes} different codes` : `${info.bitDepth} bits`;
      say('bring-in', 'source-depth', 'holds', `The source holds ${codes}, ${formatLength(sourceStep)} apart.`);
    }
  }
}

function fitChecks({ recipe, target, info, geometry: g, layout, tiles }: ChecksInput, say: Say): void {
  const { method } = recipe.fit;
  if (method === 'resample') {
    const finest = Math.min(g.sourcePerVertex.x, g.sourcePerVertex.y);
    const invented = 100 * inventedShare(1 / finest);
    if (finest < 0.98) {
      say(
        'fit',
        'fill',
        'caution',
        `The grid has ${formatShort(1 / finest, 2)} vertices for each sample of the source: ${formatShort(invented, 0)} % of them are invented.`,
      );
    } else {
      say(
        'fit',
        'fill',
        'holds',
        `The source fills every vertex: ${info.width} × ${info.height} samples on ${g.width} × ${g.height} vertices.`,
      );
    }
  } else {
    const rim = Math.max(g.rim.west + g.rim.east, g.rim.north + g.rim.south);
    const cut = Math.max(g.cut.west + g.cut.east, g.cut.north + g.cut.south);
    if (rim > 0)
      say(
        'fit',
        'rim',
        'caution',
        `The grid is larger than the source: a rim of ${rim} vertices has no ground of its own.`,
      );
    else say('fit', 'rim', 'holds', 'The source covers every vertex: no rim.');
    if (cut > 0)
      say('fit', 'cut', method === 'crop' ? 'holds' : 'caution', `${cut} samples of the source are cut off.`);
  }
  const stretch = g.spacing.x / g.spacing.y;
  if (Math.abs(stretch - 1) > 1e-4) {
    say(
      'fit',
      'square',
      'caution',
      `East–west and north–south scale differ by ${formatShort(100 * Math.abs(stretch - 1), 2)} %: the ground is stretched.`,
    );
  } else say('fit', 'square', 'holds', `One spacing both ways: ${formatShort(g.spacing.x, 6)} m.`);
  if (recipe.fit.worldScale !== 1) {
    say(
      'fit',
      'miniature',
      'holds',
      `A miniature: ground and heights are both multiplied by ${formatShort(recipe.fit.worldScale, 6)}, so slopes stay true.`,
    );
  }
  const side = tiles ? Math.max(tiles.tileWidth, tiles.tileHeight) : Math.max(g.width, g.height);
  const { verticesAdvised, verticesHard, components } = target.budgets;
  if (side > verticesHard)
    say(
      'fit',
      'vertices-budget',
      'fault',
      `${side} vertices per side in one import; the target takes at most ${verticesHard}.`,
    );
  else if (side > verticesAdvised)
    say(
      'fit',
      'vertices-budget',
      'caution',
      `${side} vertices per side in one import; up to ${verticesAdvised} is advised.`,
    );
  else
    say(
      'fit',
      'vertices-budget',
      'holds',
      `${side} vertices per side, within the ${verticesAdvised} advised for one import.`,
    );
  if (layout && components !== null) {
    const count = layout.componentsX * layout.componentsY;
    const all = count * (tiles?.tiles.length ?? 1);
    if (count > components)
      say(
        'fit',
        'components-budget',
        'caution',
        `${count} components, ${count - components} above the budget of ${components}.`,
      );
    else
      say(
        'fit',
        'components-budget',
        'holds',
        `${count} components${all > count ? ` a tile, ${all} in all` : ''}, within the budget of ${components}.`,
      );
  }
}

function heightChecks(input: ChecksInput, say: Say): void {
  const { recipe, range, precision, ground, calibration, clipped } = input;
  if (range.flat)
    say(
      'height',
      'flat',
      'caution',
      'The ground has no height range; a range of 1 m is written, and every sample holds code 0.',
    );
  const jitter = Math.round(precision.jitterPercent * 10) / 10;
  const terrace = precision.terraceAt2Percent;
  if (jitter > 0.5 || terrace > 1) {
    say(
      'height',
      'precision',
      'caution',
      `One height step is ${formatLength(precision.step)}: on a slope of 2 % a terrace is ${formatShort(terrace, 2)} samples wide, and even ground jitters by ${formatShort(jitter, 1)} %.`,
    );
  } else {
    say(
      'height',
      'precision',
      'holds',
      `One height step is ${formatLength(precision.step)}; on a slope of 2 % a terrace is ${formatShort(terrace, 2)} samples wide.`,
    );
  }
  clippedCheck(input, say);
  if (ground && ground.voids > 0) {
    say(
      'height',
      'voids',
      'fault',
      `${ground.voids} vertices have no height; they would be written as the lowest code.`,
    );
  }
  const { sea } = recipe.height;
  if (sea !== undefined && ground) {
    const level = sea * recipe.fit.worldScale;
    const low = calibration.offset + calibration.unit * ground.min;
    const high = calibration.offset + calibration.unit * ground.max;
    const under = shareBelow(ground, (level - low) / (high - low || 1));
    if (level < low)
      say('height', 'sea', 'caution', `Sea level lies ${formatLength(low - level)} under the lowest ground.`);
    else if (under > 0.5)
      say('height', 'sea', 'caution', `Sea level lies over ${Math.round(under * 100)} % of the ground.`);
    else say('height', 'sea', 'holds', `Sea level covers ${Math.round(under * 100)} % of the ground.`);
  }
  if (ground === null) return;
  if (clipped.low === null && clipped.high === null)
    say('height', 'clipped', 'not-yet', 'Clipped samples are being counted.');
}

function clippedCheck({ recipe, clipped, geometry }: ChecksInput, say: Say): void {
  if (clipped.low === null || clipped.high === null) return;
  const count = clipped.low + clipped.high;
  if (count === 0) {
    say('height', 'clipped', 'holds', 'Every sample lies inside the height range: none is clipped.');
    return;
  }
  const share = (100 * count) / (geometry.width * geometry.height);
  const sharp =
    recipe.fit.method === 'resample' && (recipe.fit.filter === 'lanczos3' || recipe.fit.filter === 'catmull-rom');
  const numbers = `${clipped.low} below and ${clipped.high} above the height range (${share < 0.01 ? 'under 0.01' : formatShort(share, 2)} % of all)`;
  if (recipe.height.range === 'source' && recipe.height.strategy === 'full' && sharp && !recipe.fit.clamp) {
    say('height', 'clipped', 'caution', `The sharp filter overshoots at edges: ${numbers} would be clipped.`, {
      spot: clipped.low > 0 ? 'lowest' : 'highest',
      repair: { label: 'hold overshoot within the source', path: ['fit', 'clamp'], value: true },
    });
    return;
  }
  say('height', 'clipped', share > 1 ? 'fault' : 'caution', `${numbers} will be clipped.`, {
    spot: clipped.low > clipped.high ? 'lowest' : 'highest',
    ...(recipe.height.strategy === 'fixed'
      ? { repair: { label: 'use the full range', path: ['height', 'strategy'], value: 'full' } }
      : { repair: { label: 'take the range of the ground', path: ['height', 'range'], value: 'ground' } }),
  });
}

/** Share of the ground under a level, given as a place between lowest (0) and highest (1). */
function shareBelow(ground: GroundStatistics, level: number): number {
  const all = ground.histogram.reduce((a, b) => a + b, 0);
  if (all === 0) return 0;
  const classes = level * ground.histogram.length;
  let count = 0;
  ground.histogram.forEach((n, i) => {
    count += n * Math.max(0, Math.min(1, classes - i));
  });
  return count / all;
}

function splitChecks({ recipe, target, tiles }: ChecksInput, say: Say): void {
  if (!target.formats.includes(recipe.output.format)) {
    say('split', 'format', 'fault', `The target reads ${target.formats.join(' or ')}, not ${recipe.output.format}.`, {
      repair: { label: `write ${target.formats[0] ?? ''}`, path: ['output', 'format'], value: target.formats[0] },
    });
  }
  if (!tiles || tiles.tiles.length === 1) return;
  if (tiles.edges === 'abutting') {
    say('split', 'edges', 'caution', 'Tiles do not share their edges: one quad is missing between neighbours.', {
      repair: { label: 'share the edges', path: ['split', 'edges'], value: 'shared' },
    });
  } else
    say(
      'split',
      'edges',
      'holds',
      `${tiles.tiles.length} tiles share their edges: ${tiles.across} × ${tiles.down} of ${tiles.tileWidth} vertices.`,
    );
  say(
    'split',
    'row-order',
    'holds',
    `Rows are numbered from the ${recipe.split?.rows ?? 'north'}; the map shows each name in its place.`,
  );
}
