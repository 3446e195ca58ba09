import { formatNumber, formatShort } from '../base';
import type { RasterWarning } from '../raster';
import type { Arrangement } from './types';

/** Seams that differ by more than this many times what neighbours differ by are told. */
const TOLD_ABOVE = 1.5;

/** Whether parts match along their seams as well as neighbours do. */
export const fitsAlongSeams = ({ seams }: Pick<Arrangement, 'seams'>): boolean =>
  seams.seams === 0 || seams.mean <= TOLD_ABOVE * Math.max(seams.usual, Number.MIN_VALUE);

/** Samples on either side of a seam over which a step is spread, where nobody says otherwise. */
const BLEND = 32;

/** What of the way in which files were put together should be looked at. */
export function mosaicWarnings(a: Arrangement): RasterWarning[] {
  const out: RasterWarning[] = [];
  if (a.swapped) {
    const [one, other] = a.swapped;
    const at = (name: string) => a.parts.find((p) => p.name === name)!.at;
    const exchanged = a.parts.map((p) =>
      p.name === one ? { ...p, at: at(other) } : p.name === other ? { ...p, at: at(one) } : p,
    );
    out.push({
      code: 'mosaic',
      message: `${one} and ${other} match their neighbours only when they change places: their names seem to be swapped.`,
      repair: { label: 'let them change places', edit: 'files', args: { files: asArgument(exchanged) } },
    });
  } else if (a.normalised) {
    out.push({
      code: 'mosaic',
      message:
        'The parts were normalised each by itself: along their seams the same ground has other values, which a factor and a shift put right.',
      repair: { label: 'fit them to the first', edit: 'files', args: { files: asArgument(a.normalised) } },
    });
  } else if (!fitsAlongSeams(a)) {
    out.push({
      code: 'mosaic',
      message: `The parts don’t match along their seams: they differ by ${formatShort(a.seams.mean)} on the average (largest ${formatShort(a.seams.largest)}), where neighbours differ by ${formatShort(a.seams.usual)}. Check that they belong together.`,
      seams: a.seams,
      ...(a.edges === 'overlapping'
        ? {}
        : { repair: { label: `blend them over ${BLEND} samples`, edit: 'blend', args: { reach: BLEND } } }),
    });
  }
  return [...out, ...gapWarnings(a)];
}

/** Places of the whole that no part covers. */
export const gapWarnings = (a: Arrangement): RasterWarning[] =>
  a.uncovered > 0
    ? [
        {
          code: 'mosaic-gap',
          message: `${formatNumber(a.uncovered, 0)} samples lie in no file: they are voids.`,
        },
      ]
    : [];

/** Parts as an edit takes them. */
export const asArgument = (parts: Arrangement['parts']): unknown =>
  parts.map(({ name, at, ...how }) => ({ name, at: [...at], ...how }));
