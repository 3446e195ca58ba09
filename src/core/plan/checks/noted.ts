import { formatNumber, formatShort } from '../../base';
import { highestCode, maybeOfSamples, notedRange } from '../../notes';
import type { RasterInfo, SourceStatistics } from '../../raster';
import type { Recipe } from '../../recipe';
import type { PlanCheck } from '../document';

/**
 * What was taken from a note beside the file, with its words: they may have been meant otherwise. A range that is called
 * neither that of black and white nor that of codes may be that of the samples, where these don't reach both ends.
 */
export function notedCheck(
  { source }: Recipe,
  info: RasterInfo,
  stats: SourceStatistics | null,
): Pick<PlanCheck, 'state' | 'message' | 'repair'> | null {
  const { noted } = info;
  if (!noted) return null;
  const { heights, spacing, assumed = [] } = source;
  const { from, lines } = noted;
  const words = lines
    .slice(0, 3)
    .map((l) => `“${l.replace(/[.;,]$/, '')}”`)
    .join(' ');
  const range = notedRange(info);
  const taken = range !== null && heights.as === 'ends' && heights.low === range.low && heights.high === range.high;
  const { min, max } = stats ?? {};
  if (taken && assumed.includes('low') && maybeOfSamples(info, stats) && min != null && max != null) {
    const top = highestCode(info);
    const step = (range.high - range.low) / (max - min);
    const low = range.low - step * min;
    return {
      state: 'caution',
      message: `${from} says ${words}. The samples run from ${formatShort(min, 4)} to ${formatShort(max, 4)} and not from 0 to ${formatNumber(top, 0)}: these may be the elevations of the lowest and the highest sample. Else confirm them as they stand.`,
      repair: {
        label: 'take them for those of the samples',
        edit: 'heights',
        args: { heights: { ...heights, low: round(low), high: round(low + step * top) }, typed: ['low', 'high'] },
      },
    };
  }
  const which = [
    ...(taken ? ['heights'] : []),
    ...(noted.stretch !== undefined && heights.stretch === noted.stretch ? ['stretch'] : []),
    ...(noted.spacing !== undefined && spacing === noted.spacing ? ['spacing'] : []),
  ];
  const offered = noted.stretch !== undefined && noted.stretch !== 1 && heights.stretch === undefined;
  return {
    state: 'note',
    message:
      which.length > 0
        ? `Taken from ${from}: ${which.join(' and ')}. It says ${words}`
        : `${from} says ${words}. Nothing here was taken from it.`,
    ...(offered
      ? {
          repair: {
            label: `divide a stretch of ${formatShort(noted.stretch, 3)} out`,
            edit: 'stretch',
            args: { factor: noted.stretch },
          },
        }
      : {}),
  };
}

/** To a hundredth of a millimetre: what a note says is never finer. */
const round = (metres: number): number => Math.round(metres * 1e5) / 1e5;
