import { formatLength, formatNumber, formatShort, type LevelGridError, type Repair } from '../base';
import { endsOf, planChain } from '../chain';
import { flattenedToFit, flatteningFactor, stepOf, withStepsInOrder } from '../edits';
import { fewestComponents, inventedShare, keptShare, FILLED_UP_TO, LEAST_KEPT, SQUARE_WITHIN } from '../grid';
import { holdsCodes, storedStep, trueCalibration, type HeightRange, type Precision } from '../height';
import {
  highestStored,
  lowestStored,
  type GroundStatistics,
  type RasterInfo,
  type RasterWarning,
  type SourceStatistics,
} from '../raster';
import { stepWords, type StoredType } from '../operations';
import type { Assumable, Recipe } from '../recipe';
import { mendedPattern, wholeSide, type TileGrid } from '../tiles';
import type { Target } from '../targets';
import { worldElevation } from './card';
import type { ChainStep, CheckState, PlanCheck } from './document';
import type { Geometry } from './geometry';
import { notedCheck } from './noted-check';
import type { LayoutChoice } from './grid-layout';
import type { Entering, SourceFacts } from './facts';
import {
  affordableSize,
  croppedFit,
  divisibleSize,
  fillingSize,
  keepingSize,
  sizeBelowCeiling,
  squareFit,
  tiledRepair,
} from './repairs';

export interface ChecksInput {
  readonly recipe: Recipe;
  readonly target: Target;
  /** The source as it lies, and the raster that enters the fit. */
  readonly source: Pick<SourceFacts, 'info' | 'stats' | 'warnings'>;
  readonly entering: Pick<Entering, 'stats'>;
  /** The type whose ends the heights of the recipe speak of. */
  readonly ends: StoredType;
  /** Of what enters the fit. */
  readonly info: RasterInfo;
  readonly geometry: Geometry;
  readonly range: HeightRange;
  readonly precision: Precision;
  readonly ground: GroundStatistics | null;
  /** Elevation in world metres of a stored value. */
  readonly elevationOf: (stored: number) => number;
  readonly clipped: { readonly low: number | null; readonly high: number | null };
  readonly tiles: TileGrid;
  readonly choice: LayoutChoice;
}

interface Extra {
  readonly spot?: string;
  readonly repair?: Repair | null;
}
type Say = (step: ChainStep, id: string, state: CheckState, message: string, extra?: Extra) => void;

/** Every mistake that this plan could hold, with its number and, where there is one, its repair. */
export function planChecks(input: ChecksInput): PlanCheck[] {
  const out: PlanCheck[] = [];
  const say: Say = (step, id, state, message, { spot, repair } = {}) => {
    out.push({ id, state, message, step, ...(spot ? { spot } : {}), ...(repair ? { repair } : {}) });
  };
  sourceChecks(input, say);
  fitChecks(input, say);
  budgetChecks(input, say);
  heightChecks(input, say);
  splitChecks(input, say);
  return out;
}

/** A percentage that never rounds to all or nothing where it is neither. */
export function percent(share: number, digits = 0): string {
  const least = 10 ** -digits;
  const value = 100 * share;
  if (value > 0 && value < least) return `under ${formatShort(least, digits)} %`;
  if (value < 100 && value > 100 - least) return `over ${formatShort(100 - least, digits)} %`;
  return `${formatShort(value, digits)} %`;
}

const plural = (n: number, one: string, many = `${one}s`): string => `${formatNumber(n, 0)} ${n === 1 ? one : many}`;

/** Warnings that state a fact of the file, which nothing in Level Grid can change. */
const NOTES: ReadonlySet<RasterWarning['code']> = new Set([
  'constant',
  'voids',
  'raw-guessed',
  'display-curve',
  'missing-rows',
  'mosaic-gap',
  'overhang',
  'pattern',
]);

const ASSUMED_WORDS: Record<Assumable, string> = {
  low: 'the elevation of the lowest code',
  high: 'that of the highest',
  unit: 'what its heights are measured in',
  spacing: 'the metres from sample to sample',
};

function sourceChecks({ source: { info, stats, warnings }, ends, recipe }: ChecksInput, say: Say): void {
  // a guessed layout that stands in the recipe has been confirmed
  const settled = (w: RasterWarning): boolean =>
    (recipe.source.raw !== undefined && w.code.startsWith('raw-')) ||
    // what a step has put right is no doubt any more
    (w.seams !== undefined && stepOf(recipe, 'blend') !== undefined) ||
    (w.code === 'degrees' && stepOf(recipe, 'reproject') !== undefined);
  const open = warnings.filter((w) => !settled(w));
  const { heights, assumed = [] } = recipe.source;
  const codeType = endsOf(info);
  const metres = (stored: number): string => formatLength(stored * trueCalibration(heights, codeType).unit);
  for (const { code, message, seams, repair } of open) {
    const words = seams
      ? `The parts don’t match along their seams: they differ by ${metres(seams.mean)} on the average (largest ${metres(seams.largest)}), where neighbours differ by ${metres(seams.usual)}. Check that they belong together.`
      : message;
    say('bring-in', `source-${code}`, NOTES.has(code) ? 'note' : 'caution', words, {
      repair: repair ?? rawRepair(code, recipe),
    });
  }
  if (assumed.length > 0) {
    const which = assumed.map((a) => ASSUMED_WORDS[a]);
    const list = which.length > 1 ? `${which.slice(0, -1).join(', ')} and ${which.at(-1) ?? ''}` : which[0];
    say(
      'bring-in',
      'source-assumed',
      'caution',
      `The file does not say ${list ?? ''}: what stands there is a placeholder. Type or confirm each under Bring in.`,
    );
  }
  const told = notedCheck(recipe, info, stats);
  if (told) say('bring-in', 'source-noted', told.state, told.message, { repair: told.repair ?? null });
  madeCheck(recipe, ends, say);
  stepsCheck(recipe, say);
  if (codeType.sampleType === 'float') {
    unitCheck(stats, recipe, say);
    return;
  }
  // codes of several files that were fitted to each other are counted in no codes
  if (info.sampleType === 'float') return;
  const { unit } = trueCalibration(heights, codeType);
  const own = stats && storedStep(stats);
  const apart = formatLength((own ?? 1) * unit);
  if (info.bitDepth < 16)
    say(
      'bring-in',
      'source-depth',
      'caution',
      `The source has ${info.bitDepth} bits: its heights lie ${apart} apart, and gentle slopes show as stairs. Ask for 16 bits where it came from.`,
    );
  else if (!stats) say('bring-in', 'source-depth', 'not-yet', 'The codes of the source are being counted.');
  else if (stats.distinctCodes < 2)
    say('bring-in', 'source-depth', 'note', 'The source holds one value; its height step can’t be told.');
  else {
    const few = warnings.some((w) => w.code === 'eight-bit-content');
    say(
      'bring-in',
      'source-depth',
      few ? 'note' : 'holds',
      `The source holds ${formatNumber(stats.distinctCodes, 0)} different codes; its heights lie ${apart} apart.`,
    );
  }
}

/** A stated layout of a headerless file that its samples speak against: the other byte order, or guessed anew. */
function rawRepair(code: RasterWarning['code'], { source }: Recipe): Repair | null {
  const { raw } = source;
  if (!raw) return null;
  const byteOrder = raw.byteOrder === 'little' ? ('big' as const) : ('little' as const);
  if (code === 'byte-order')
    return { label: `read it as ${byteOrder}-endian`, edit: 'raw-layout', args: { raw: { ...raw, byteOrder } } };
  return code === 'row-width' ? { label: 'guess its layout', edit: 'raw-layout', args: { raw: null } } : null;
}

/** What is done to the ground before it is fitted. */
function stepsCheck({ steps }: Recipe, say: Say): void {
  const on = steps.filter((s) => !s.off);
  if (on.length === 0) return;
  say('clean', 'steps', 'note', `Done to the ground before it is fitted: ${on.map(stepWords).join('; ')}.`);
}

/** What was done to the heights before they came here, and is undone: told, since nothing in the file shows it. */
function madeCheck(recipe: Recipe, ends: StoredType, say: Say): void {
  const { heights } = recipe.source;
  const { stretch = 1 } = heights;
  const curve = stepOf(recipe, 'linearise')?.curve;
  if (stretch !== 1)
    say(
      'bring-in',
      'source-stretch',
      'note',
      `A stretch of ${formatShort(stretch, 6)} is divided out of the heights${heights.as === 'elevations' ? '' : ', the low end stays'}.`,
    );
  if (curve !== undefined)
    say(
      'bring-in',
      'source-curve',
      'note',
      `The heights are read through ${curve === 'srgb' ? 'the display curve sRGB' : `a display curve of the power ${formatShort(curve, 4)}`}, which is undone.`,
    );
  if ('truncated' in heights && heights.truncated && ends.sampleType !== 'float')
    say(
      'bring-in',
      'source-truncated',
      'note',
      `Its codes were cut off, not rounded: each stands for half a step more, ${formatLength(trueCalibration(heights, ends).unit / 2)}.`,
    );
}

function unitCheck(stats: SourceStatistics | null, recipe: Recipe, say: Say): void {
  const { as } = recipe.source.heights;
  const { min = null, max = null } = stats ?? {};
  if (min === null || max === null) return;
  if (as === 'ends' && !stepOf(recipe, 'linearise') && max > 1.5)
    say(
      'bring-in',
      'source-unit',
      'caution',
      `The file holds values up to ${formatShort(max)}, which looks like metres; it is read as 0 to 1.`,
      { repair: { label: 'they are metres', edit: 'heights-as', args: { as: 'elevations', stored: FLOATS } } },
    );
  else if (as === 'elevations' && min >= 0 && max <= 1 && max > min)
    say(
      'bring-in',
      'source-unit',
      'caution',
      'The file holds values from 0 to 1, which looks like a normalised picture; they are read as metres.',
      { repair: { label: 'they run from 0 to 1', edit: 'heights-as', args: { as: 'ends', stored: FLOATS } } },
    );
}

function fitChecks(input: ChecksInput, say: Say): void {
  const { recipe, info, geometry: g } = input;
  if (recipe.fit.method === 'resample') fillCheck(input, say);
  else placeChecks(input, say);
  const stretch = g.spacing.x / (g.spacing.y || 1);
  if (g.spacing.x === 0 || g.spacing.y === 0) return;
  if (Math.abs(stretch - 1) > SQUARE_WITHIN)
    say(
      'fit',
      'square',
      'caution',
      `Quads are not square: east–west and north–south scale differ by ${formatShort(100 * Math.abs(stretch - 1), 2)} %, so the ground is stretched.`,
      { repair: squareFit(recipe, info) },
    );
  else say('fit', 'square', 'holds', `One spacing both ways: ${formatShort(g.spacing.x, 6)} m.`);
  const { worldScale } = recipe.fit;
  const { exaggeration } = recipe.height;
  if (worldScale !== 1)
    say(
      'fit',
      'miniature',
      'holds',
      `A miniature: ground and heights are both multiplied by ${formatShort(worldScale, 6)}${exaggeration === 1 ? ', so slopes stay true' : ''}.`,
    );
}

/** How much of the source a resampled grid keeps, and how much of the grid is invented. */
function fillCheck({ recipe, target, info, geometry: g }: ChecksInput, say: Say): void {
  if (info.width < 2 || info.height < 2) return;
  const up = { x: (g.width - 1) / (info.width - 1), y: (g.height - 1) / (info.height - 1) };
  const most = Math.max(up.x, up.y);
  const least = Math.min(up.x, up.y);
  const sizes = `${info.width} × ${info.height} samples on ${g.width} × ${g.height} vertices`;
  if (least === 1 && most === 1) say('fit', 'fill', 'holds', `Exact: ${sizes}; no sample changes.`);
  else if (most > FILLED_UP_TO)
    say(
      'fit',
      'fill',
      'caution',
      `The grid has ${formatShort(most, 2)} vertices for each interval of the source: ${percent(inventedShare(most))} of them are invented.`,
      { repair: fillingSize(recipe, target, info) },
    );
  else if (least < LEAST_KEPT) {
    const repair = recipe.draft === undefined ? keepingSize(recipe, target, info) : null;
    say(
      'fit',
      'fill',
      // a draft is meant to be coarse, and some targets take nothing larger
      repair ? 'caution' : 'note',
      `${percent(keptShare(least))} of the source’s samples a side are kept: ${sizes}. Finer detail is averaged away.`,
      { repair },
    );
  } else {
    const invented = most > 1 ? `, ${percent(inventedShare(most), 1)} of the vertices lie between samples` : '';
    say(
      'fit',
      'fill',
      'holds',
      `${percent(keptShare(least), 1)} of the source’s samples a side are kept${invented}: ${sizes}.`,
    );
  }
}

function placeChecks({ recipe, target, info, geometry: g }: ChecksInput, say: Say): void {
  const { method } = recipe.fit;
  const rim = Math.max(g.rim.west + g.rim.east, g.rim.north + g.rim.south);
  const cut = Math.max(g.cut.west + g.cut.east, g.cut.north + g.cut.south);
  if (rim > 0) {
    const repair = croppedFit(recipe, target, info);
    say(
      'fit',
      'rim',
      repair ? 'caution' : 'note',
      `The grid is larger than the source: a rim of ${rim} ${rim === 1 ? 'vertex' : 'vertices'} has no ground of its own.`,
      { repair },
    );
  } else say('fit', 'rim', 'holds', 'The source covers every vertex: no rim.');
  if (cut === 0) return;
  const [width, height] = [Math.min(g.width, info.width), Math.min(g.height, info.height)];
  if (method === 'pad') {
    const at = [Math.floor((g.width - info.width) / 2), Math.floor((g.height - info.height) / 2)];
    say(
      'fit',
      'cut',
      'caution',
      `${plural(cut, 'sample')} of the source ${cut === 1 ? 'is' : 'are'} cut off along a side although the grid is padded.`,
      { repair: { label: 'lay it in the middle', edit: 'place', args: { column: at[0], row: at[1] } } },
    );
  } else
    say(
      'fit',
      'cut',
      Math.min(width / info.width, height / info.height) < LEAST_KEPT ? 'note' : 'holds',
      `${width} × ${height} of the source’s ${info.width} × ${info.height} samples are kept, ${percent((width * height) / (info.width * info.height))}; the rest is cut off.`,
    );
}

function budgetChecks({ recipe, target, info, geometry: g, tiles, choice }: ChecksInput, say: Say): void {
  const side = Math.max(tiles.tileWidth, tiles.tileHeight);
  const { verticesAdvised, verticesHard, components } = target.budgets;
  const tooMany = side > verticesHard;
  const own = recipe.fit.atMost;
  if (own !== undefined && side > own && !tooMany)
    say(
      'fit',
      'vertices-budget',
      'caution',
      `${side} vertices per side in one import, above your own ceiling of ${own}.`,
      { repair: sizeBelowCeiling(recipe, target, info) ?? tiledRepair(recipe, target, info) },
    );
  else if (tooMany || side > verticesAdvised)
    say(
      'fit',
      'vertices-budget',
      tooMany ? 'fault' : 'caution',
      tooMany
        ? `${side} vertices per side in one import; the target takes at most ${verticesHard}.`
        : `${side} vertices per side in one import; up to ${verticesAdvised} is advised.`,
      {
        repair: tiledRepair(recipe, target, {
          width: Math.min(info.width, g.width),
          height: Math.min(info.height, g.height),
        }),
      },
    );
  else
    say(
      'fit',
      'vertices-budget',
      'holds',
      own !== undefined && own <= verticesAdvised
        ? `${side} vertices per side, within your own ceiling of ${own}.`
        : `${side} vertices per side, within the ${verticesAdvised} advised for one import.`,
    );
  const { layout, options, reason } = choice;
  if (!layout || components === null) return;
  const each = layout.componentsX * layout.componentsY;
  const count = tiles.tiles.length;
  const all = each * count;
  const words =
    count > 1 ? `${formatNumber(each, 0)} a tile, ${plural(all, 'component')} in all` : plural(all, 'component');
  if (all > components) {
    const best = fewestComponents(options);
    const fewer =
      best && best.componentsX * best.componentsY * count <= components
        ? {
            label: `take ${best.componentsX} × ${best.componentsY} of ${best.patches} × ${best.patches} × ${best.quads}`,
            edit: 'layout',
            args: { quads: best.quads, patches: best.patches },
          }
        : affordableSize(recipe, target, info);
    say(
      'fit',
      'components-budget',
      fewer ? 'caution' : 'note',
      `${words}: ${formatNumber(all - components, 0)} above the budget of ${formatNumber(components, 0)}.`,
      { repair: fewer },
    );
  } else
    say(
      'fit',
      'components-budget',
      'holds',
      `${words}, within the budget of ${formatNumber(components, 0)}: ${reason ?? ''}.`,
    );
}

function heightChecks(input: ChecksInput, say: Say): void {
  const { recipe, range, ground, elevationOf, clipped, ends } = input;
  const { exaggeration, sea } = recipe.height;
  if (range.flat) {
    const codes = holdsCodes(recipe.source.heights, ends);
    say(
      'height',
      'flat',
      codes ? 'caution' : 'note',
      'The ground has no height range; a range of 1 m is written, and every sample holds code 0.',
      codes ? { repair: { label: 'keep the codes of the source', edit: 'range', args: { range: 'codes' } } } : {},
    );
  }
  if (exaggeration !== 1)
    say(
      'height',
      'exaggeration',
      'note',
      `Heights are multiplied by ${formatShort(exaggeration, 6)} about ${formatNumber(range.pivot, 2)} m: slopes are ${exaggeration > 1 ? 'steeper' : 'gentler'} than on the true ground.`,
    );
  precisionCheck(input, say);
  clippedCheck(input, say);
  if (sea !== undefined && ground) {
    const level = worldElevation(recipe, range, sea);
    const low = elevationOf(ground.datum + ground.min);
    const high = elevationOf(ground.datum + ground.max);
    const under = high > low ? shareBelow(ground, (level - low) / (high - low)) : level > low ? 1 : 0;
    if (level < low)
      say(
        'height',
        'sea',
        'caution',
        `Sea level lies ${formatLength(low - level)} under the lowest ground: no ground is under water.`,
        { repair: { label: 'leave the sea out', edit: 'sea', args: { elevation: null } } },
      );
    else if (under > 0.5)
      say(
        'height',
        'sea',
        'caution',
        `Sea level covers ${percent(under)} of the ground. Type another level under Height.`,
      );
    else say('height', 'sea', 'holds', `Sea level covers ${percent(under)} of the ground.`);
  }
  if (ground !== null && clipped.low === null && clipped.high === null)
    say('height', 'clipped', 'not-yet', 'Clipped samples are being counted.');
}

/** The step that counts is the larger of the source's own and the written one. */
function precisionCheck({ recipe, range, precision, target }: ChecksInput, say: Say): void {
  const { step, sourceStep, effectiveStep, terraceAt2Percent: terrace } = precision;
  const jitter = Math.round(precision.jitterPercent * 10) / 10;
  const fromSource = sourceStep !== null && sourceStep > step * 1.001;
  const where = fromSource ? ', the source’s own' : '';
  const words = `One height step is ${formatLength(effectiveStep)}${where}: on a slope of 2 % a terrace is ${formatShort(terrace, 2)} ${terrace === 1 ? 'sample' : 'samples'} wide, and even ground jitters by ${formatShort(jitter, 1)} %`;
  if (jitter <= 0.5 && terrace <= 1) {
    say('height', 'precision', 'holds', `${words}.`);
    return;
  }
  if (fromSource) {
    say(
      'height',
      'precision',
      'note',
      `${words}. Only a finer source would help; the file itself could hold ${formatLength(step)}.`,
    );
    return;
  }
  const used = range.groundHigh - range.groundLow;
  const finer = used > 0 ? (range.high - range.low) / used : 1;
  if (finer > 1.1 || recipe.height.range === 'pinned' || recipe.height.range === 'codes')
    say('height', 'precision', 'caution', `${words}.`, {
      repair: {
        label: 'spend all codes on the ground',
        edit: 'spend-on-ground',
        args: {},
      },
    });
  else
    say(
      'height',
      'precision',
      'note',
      `${words}. ${formatNumber(target.highestCode + 1, 0)} codes over this range can’t be finer.`,
    );
}

/** True elevations, in metres, of the lowest and highest ground. */
function trueGround({ recipe, ground, range, elevationOf, entering: { stats } }: ChecksInput): {
  low: number;
  high: number;
} {
  const back = (elevation: number): number =>
    (range.pivot + (elevation - range.pivot) / recipe.height.exaggeration) / recipe.fit.worldScale;
  const low = ground ? ground.datum + ground.min : (stats?.min ?? 0);
  const high = ground ? ground.datum + ground.max : (stats?.max ?? 0);
  return { low: back(elevationOf(low)), high: back(elevationOf(high)) };
}

/** Of so many samples the ground is not what was asked for. */
const stateOf = (clipped: number): 'fault' | 'caution' => (clipped > 0.01 ? 'fault' : 'caution');

function clippedCheck(input: ChecksInput, say: Say): void {
  const { recipe, clipped, geometry, ends } = input;
  if (clipped.low === null || clipped.high === null) return;
  const count = clipped.low + clipped.high;
  if (count === 0) {
    say('height', 'clipped', 'holds', 'Every sample lies inside the height range: none is clipped.');
    return;
  }
  const share = count / (geometry.width * geometry.height);
  const sharp =
    recipe.fit.method === 'resample' && (recipe.fit.filter === 'lanczos3' || recipe.fit.filter === 'catmull-rom');
  const numbers = `${plural(clipped.low, 'sample')} below and ${formatNumber(clipped.high, 0)} above the height range (${percent(share, 2)} of all)`;
  const spot = clipped.low > clipped.high ? 'lowest' : 'highest';
  if (recipe.height.range === 'source' && recipe.height.strategy === 'full' && sharp && !recipe.fit.clamp) {
    say('height', 'clipped', stateOf(share), `The sharp filter overshoots at edges: ${numbers} would be clipped.`, {
      spot: clipped.low > 0 ? 'lowest' : 'highest',
      repair: { label: 'hold overshoot within the source', edit: 'clamp', args: { clamp: true } },
    });
    return;
  }
  const state = stateOf(share);
  if (recipe.height.strategy === 'fixed') {
    const ground = trueGround(input);
    const factor = flatteningFactor(recipe, ground);
    say('height', 'clipped', state, `The ground does not fit the fixed scale: ${numbers} will be clipped.`, {
      spot,
      repair:
        factor === null
          ? { label: 'use the full range', edit: 'strategy', args: { strategy: 'full' } }
          : {
              label: `flatten to fit: heights × ${formatShort(factor, 6)}`,
              edit: 'flatten-to-fit',
              args: flatteningOf(flattenedToFit(recipe, ground)),
            },
    });
    return;
  }
  const wide = elevationsOfCodes(ends, recipe);
  say('height', 'clipped', state, `${numbers} will be clipped.`, {
    spot,
    repair:
      recipe.height.range === 'pinned' && wide
        ? { label: 'take the codes of the source', edit: 'range', args: { range: 'pinned', ...wide } }
        : { label: 'take the range of the ground', edit: 'range', args: { range: 'ground' } },
  });
}

/** True elevations of the lowest and highest code that the source can hold, where it holds codes. */
export function elevationsOfCodes(ends: StoredType, recipe: Recipe): { low: number; high: number } | null {
  const { heights } = recipe.source;
  if (!holdsCodes(heights, ends)) return null;
  const { unit, offset } = trueCalibration(heights, ends);
  return { low: offset + unit * lowestStored(ends), high: offset + unit * highestStored(ends) };
}

/** Floats as they come. */
const FLOATS: StoredType = { bitDepth: 32, sampleType: 'float' };

/** The factor and the anchor by which ground fits a fixed scale. */
const flatteningOf = ({ height: { exaggeration, anchor } }: Recipe): Repair['args'] => ({ exaggeration, ...anchor });

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
      repair: { label: `write ${target.formats[0] ?? ''}`, edit: 'output', args: { format: target.formats[0] } },
    });
  }
  if (tiles.tiles.length === 1) return;
  const { across, down, tileWidth, tileHeight } = tiles;
  if (tiles.edges === 'abutting') {
    const w = wholeSide(tileWidth, across, 'shared');
    const h = wholeSide(tileHeight, down, 'shared');
    say('split', 'edges', 'caution', 'Tiles do not share their edges: one quad is missing between neighbours.', {
      repair: {
        label: `share the edges: ${w === h ? w : `${w} × ${h}`} in all`,
        edit: 'tiles',
        args: { edges: 'shared', size: w === h ? w : [w, h] },
      },
    });
  } else
    say(
      'split',
      'edges',
      'holds',
      `${tiles.tiles.length} tiles share their edges: ${across} × ${down} of ${tileWidth === tileHeight ? tileWidth : `${tileWidth} × ${tileHeight}`} vertices.`,
    );
  say(
    'split',
    'row-order',
    'holds',
    `Rows are numbered from the ${recipe.split?.rows ?? 'north'}; the map shows each name in its place.`,
  );
}

/** Why nothing can be written, as a check with the repair that there is. */
export function refusalCheck(
  refusal: LevelGridError,
  recipe: Recipe,
  target: Target,
  source: RasterInfo,
  info: RasterInfo,
  geometry: Geometry,
  range: HeightRange,
): PlanCheck {
  const { code, found, expected, remedy } = refusal;
  const step: ChainStep =
    code.startsWith('split') || code === 'file-name'
      ? 'split'
      : code === 'voids'
        ? 'clean'
        : code === 'calibration'
          ? 'height'
          : code === 'step-order' || code === 'mosaic'
            ? 'clean'
            : 'fit';
  const repair = refusalRepair(refusal, recipe, target, source, info, geometry, range);
  return {
    id: code,
    state: 'fault',
    message: `Found ${found}; expected ${expected}. ${remedy}`,
    step,
    ...(repair ? { repair } : {}),
  };
}

/** Steps put in an order in which each can stand; the first that can't is switched off where there is none. */
function stepRepair(recipe: Recipe, source: RasterInfo): Repair | null {
  const { refusal } = planChain(recipe, source);
  if (!refusal) return null;
  const ordered = withStepsInOrder(recipe, source);
  return planChain(ordered, source).refusal === null
    ? { label: 'put the steps in order', edit: 'order-steps', args: { source: sidesOf(source) } }
    : { label: 'switch this step off', edit: 'switch-step', args: { index: refusal.index, on: false } };
}

const sidesOf = ({ width, height }: RasterInfo): { width: number; height: number } => ({ width, height });

function refusalRepair(
  { code }: LevelGridError,
  recipe: Recipe,
  target: Target,
  source: RasterInfo,
  info: RasterInfo,
  geometry: Geometry,
  range: HeightRange,
): Repair | null {
  // eslint-disable-next-line @typescript-eslint/switch-exhaustiveness-check -- other refusals have no repair by a click
  switch (code) {
    case 'voids': {
      const lowest = Math.round((range.pivot / recipe.fit.worldScale) * 1000) / 1000;
      return { label: `give voids ${formatShort(lowest)} m`, edit: 'voids', args: { elevation: lowest } };
    }
    case 'calibration':
      return { label: 'take the range of the source', edit: 'range', args: { range: 'source' } };
    case 'file-name': {
      if (!recipe.split) return null;
      const mended = mendedPattern(recipe.split.pattern, target.names.refusedBeforeNumbers);
      return mended === recipe.split.pattern
        ? null
        : { label: `write ${mended}`, edit: 'split', args: { pattern: mended } };
    }
    case 'split-indivisible':
    case 'size-not-on-ladder':
      return divisibleSize(recipe, target, info, geometry.width);
    case 'split-unequal':
    case 'no-extent':
      return squareFit(recipe, info);
    case 'crop-outside':
      return croppedFit(recipe, target, info);
    case 'step-order':
    case 'mosaic':
      return stepRepair(recipe, source);
    default:
      return null;
  }
}
