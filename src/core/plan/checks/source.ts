import { formatLength, formatNumber, formatShort, type Repair } from '../../base';
import { endsOf } from '../../chain';
import { stepOf } from '../../edits';
import { storedStep, trueCalibration } from '../../height';
import type { StoredType } from '../../operations';
import type { RasterWarning, SourceStatistics } from '../../raster';
import type { Assumable, Recipe } from '../../recipe';
import type { ChecksInput, Say } from './input';
import { notedCheck } from './noted';
import { scaledCheck } from './scaled';

/** Floats as they come. */
const FLOATS: StoredType = { bitDepth: 32, sampleType: 'float' };

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

export function sourceChecks({ source: { info, stats, warnings }, ends, recipe }: ChecksInput, say: Say): void {
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
  scaledCheck(recipe, info, say);
  const told = notedCheck(recipe, info, stats);
  if (told) say('bring-in', 'source-noted', told.state, told.message, { repair: told.repair ?? null });
  madeCheck(recipe, ends, say);
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
