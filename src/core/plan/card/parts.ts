import { formatShort, roundTo } from '../../base';
import type { RectangleLayout } from '../../grid';
import { exaggeratedElevation, type HeightRange, type Span } from '../../height';
import type { RasterInfo } from '../../raster';
import type { Assumable, Recipe } from '../../recipe';
import type { WrittenTarget } from '../../targets';
import type { CardRow } from '../document';
import type { Geometry } from '../geometry';

export interface CardInput {
  readonly recipe: Recipe;
  readonly target: WrittenTarget;
  /** Of the raster that enters the fit. */
  readonly info: Pick<RasterInfo, 'width' | 'height'>;
  /** Metres from one of its samples to the next. */
  readonly spacing: number;
  readonly geometry: Geometry;
  readonly range: HeightRange;
  /** Elevation in world metres at world zero. */
  readonly zero: number;
  readonly tile: { readonly width: number; readonly height: number };
  readonly layout: RectangleLayout | null;
}

/** Bits of a float of 32 bits that tell heights apart. */
const FLOAT_BITS = 24;

/** Metres from one code to the next; of metres what floats tell apart at the end of the ground that is farthest from 0. */
export function stepOf(range: Span, target: WrittenTarget, ground: Span = range): number {
  if (target.encoding.stores !== 'metres') return (range.high - range.low) / target.highestCode;
  const farthest = Math.max(Math.abs(ground.low), Math.abs(ground.high));
  return 2 ** (Math.floor(Math.log2(farthest || 1)) + 1 - FLOAT_BITS);
}

/** Fewest decimals, at least `least`, whose rounding stays within `budget`. */
export function digitsWithin(budget: number, least: number): number {
  let digits = least;
  while (digits < 15 && 0.5 * 10 ** -digits > budget) digits++;
  return digits;
}

/** A difference whose numbers have as many decimals as `times` it, to `digits`, needs: 50 − (−20). */
export function difference(a: number, b: number, times: number, digits: number): string {
  const second = factor(b, times, digits);
  return `${factor(a, times, digits)} − ${b < 0 ? `(${second})` : second}`;
}

/** Half the typing budget (step/10) for each of the two height values; nobody types as many digits as floats have. */
export const share = (range: HeightRange, target: WrittenTarget): number =>
  (target.encoding.stores === 'codes' ? stepOf(range, target) : (range.high - range.low) / 65535) / 20;

export interface Draft {
  readonly id: string;
  readonly label: string;
  readonly exact: number;
  readonly digits: number;
  readonly unit: string;
  readonly metres?: string;
  readonly formula: string;
  readonly note: string;
  /** Values of the source that it depends on. */
  readonly from?: readonly Assumable[];
}

/** A row with its value rounded, marked with the placeholders it rests on. */
export function rowOf(recipe: Recipe, { from = [], metres = '', ...row }: Draft): CardRow {
  const assumed = recipe.source.assumed ?? [];
  return { ...row, metres, value: roundTo(row.exact, row.digits), assumed: from.filter((f) => assumed.includes(f)) };
}

export function count(recipe: Recipe, id: string, label: string, value: number, note: string, formula = note): CardRow {
  return rowOf(recipe, { id, label, exact: value, digits: 0, unit: '', formula, note });
}

/** A value that is typed in a unit of the target's own, in metres. */
export const inMetres = (exact: number, unit: number): string =>
  unit === 1 ? '' : `${formatShort(exact * unit, 6)} m`;

/** A factor of a formula with so many decimals that what is shown gives what is shown: `times` it, to `digits`. */
export const factor = (value: number, times: number, digits: number): string =>
  formatShort(value, digitsWithin(10 ** -digits / times / 100, digits));

export const HEIGHTS: readonly Assumable[] = ['low', 'high'];
export const GROUND: readonly Assumable[] = ['spacing'];

export function exaggerationText(recipe: Recipe): string {
  const { exaggeration } = recipe.height;
  return exaggeration === 1 ? '' : `heights × ${formatShort(exaggeration, 6)}: `;
}

/** Elevation of the recipe (true metres) in the world that is written. */
export function worldElevation(recipe: Recipe, range: HeightRange, elevation: number): number {
  return exaggeratedElevation(elevation * recipe.fit.worldScale, range.pivot, recipe.height.exaggeration);
}
