import { formatNumber, formatShort } from '../../base';
import { scaleOfRange } from '../../height';
import type { CardRow } from '../document';
import {
  count,
  difference,
  digitsWithin,
  exaggerationText,
  factor,
  HEIGHTS,
  inMetres,
  rowOf,
  share,
  worldElevation,
  type CardInput,
} from './parts';

/* What the card says of heights: what the lowest and highest code stand for, in the words of each kind of target. */

/** Of a centred encoding: how the middle code and the codes of one unit lie. */
function centredOf({ target }: CardInput): { readonly perMetre: number; readonly half: number } {
  if (target.heights.kind !== 'centred') throw new Error(`${target.id} centres no heights`);
  const { middle, divisor } = target.heights;
  return { perMetre: divisor / target.unit.metres, half: middle / divisor };
}

export function heightScale(input: CardInput): CardRow {
  const { recipe, target, range } = input;
  const { perMetre, half } = centredOf(input);
  const total = range.high - range.low;
  const scale = scaleOfRange(total, target);
  // the scale acts on up to so many units either side of the middle code
  const digits = digitsWithin(share(range, target) / (half * target.unit.metres), 4);
  return rowOf(recipe, {
    id: 'heightScale',
    label: 'Height scale',
    exact: scale,
    digits,
    unit: '',
    formula: `${exaggerationText(recipe)}(${difference(range.high, range.low, perMetre / target.highestCode, digits)}) · ${formatShort(perMetre, 6)} / ${formatNumber(target.highestCode, 0)} = ${formatNumber(scale, digits)}`,
    metres: `spans ${formatShort(total, 6)} m`,
    note: `Grows with the height range, whatever the spacing: 100 spans ${formatShort((100 * target.highestCode) / perMetre, 2)} m.`,
    from: HEIGHTS,
  });
}

export function heightOffset(input: CardInput): CardRow {
  const { recipe, target, range, zero } = input;
  const { half } = centredOf(input);
  const unit = target.unit.metres;
  const scale = scaleOfRange(range.high - range.low, target);
  const offset = (range.low - zero) / unit + half * scale;
  const digits = digitsWithin(share(range, target) / unit, 2);
  return rowOf(recipe, {
    id: 'heightOffset',
    label: 'Height offset',
    exact: offset,
    digits,
    unit: target.unit.name,
    metres: inMetres(offset, unit),
    formula: `${formatShort(1 / unit, 6)} · (${difference(range.low, zero, 1 / unit, digits)}) + ${formatShort(half, 6)} · ${factor(scale, half, digits)} = ${formatNumber(offset, digits)}`,
    note: 'How far up the middle code lies. Changes with the height range and with the elevation at world zero: type it last.',
    from: HEIGHTS,
  });
}

/** Metres of heights, to as many digits as the typing budget asks for. */
function metresRow(
  input: CardInput,
  row: { id: string; label: string; exact: number; formula: (digits: number) => string; note: string },
): CardRow {
  const digits = digitsWithin(share(input.range, input.target), 2);
  const said = `${formatNumber(row.exact, digits)} m`;
  const formula = row.formula(digits);
  return rowOf(input.recipe, {
    ...row,
    digits,
    unit: 'm',
    formula: formula === said ? said : `${formula} = ${said}`,
    from: HEIGHTS,
  });
}

const rangeText = ({ recipe, range }: CardInput, digits: number): string =>
  `${exaggerationText(recipe)}${difference(range.high, range.low, 1, digits)}`;

export const heightRange = (input: CardInput): CardRow =>
  metresRow(input, {
    id: 'heightRange',
    label: 'Height range',
    exact: input.range.high - input.range.low,
    formula: (digits) => rangeText(input, digits),
    note: 'From the lowest to the highest code; not the highest elevation.',
  });

export const topOfRange = (input: CardInput): CardRow =>
  metresRow(input, {
    id: 'topOfRange',
    label: 'Top of range',
    exact: input.range.high - input.range.low,
    formula: (digits) => rangeText(input, digits),
    note: 'How high the highest code lies above the lowest, which lies at 0. Type it before the import.',
  });

export const baseElevation = (input: CardInput): CardRow =>
  metresRow(input, {
    id: 'baseElevation',
    label: 'Base elevation',
    exact: input.range.low - input.zero,
    formula: (digits) => difference(input.range.low, input.zero, 1, digits),
    note: 'The height at which the terrain itself is placed: where code 0 lies in the world.',
  });

const isShares = ({ target }: CardInput): boolean => target.encoding.stores === 'shares';

export const lowestElevation = (input: CardInput): CardRow =>
  metresRow(input, {
    id: 'lowestElevation',
    label: 'Lowest elevation',
    exact: input.range.low,
    formula: (digits) => `${formatNumber(input.range.low, digits)} m`,
    note:
      input.target.zero === 'lowest-code'
        ? 'The elevation that code 0 stands for, which is height 0 of this map; nothing to type.'
        : `The elevation that ${isShares(input) ? '0 in the file' : 'code 0'} stands for.`,
  });

export const highestElevation = (input: CardInput): CardRow =>
  metresRow(input, {
    id: 'highestElevation',
    label: 'Highest elevation',
    exact: input.range.high,
    formula: (digits) => `${formatNumber(input.range.high, digits)} m`,
    note: `The elevation that ${isShares(input) ? '1 in the file' : 'the highest code'} stands for.`,
  });

/** How high the sea lies in the target's world, where the recipe has one. */
export function seaLevel(input: CardInput): CardRow[] {
  const { recipe, range, zero } = input;
  if (recipe.height.sea === undefined) return [];
  const level = worldElevation(recipe, range, recipe.height.sea);
  return [
    metresRow(input, {
      id: 'seaLevel',
      label: 'Sea level',
      exact: level - zero,
      formula: (digits) => difference(level, zero, 1, digits),
      note: 'Counted from height 0 of this map.',
    }),
  ];
}

/** The layers of the lowest and highest code, and the metres from one to the next. */
export function layersOf({ recipe, target, range }: Pick<CardInput, 'recipe' | 'target' | 'range'>): {
  readonly bottom: number;
  readonly top: number;
  readonly metres: number;
} | null {
  const { heights } = target;
  if (heights.kind !== 'layers') return null;
  const { bottom = heights.bottom, top = heights.top } = recipe.height;
  return { bottom, top, metres: (range.high - range.low) / (top - bottom) };
}

const layersIn = (input: CardInput): NonNullable<ReturnType<typeof layersOf>> => {
  const layers = layersOf(input);
  if (!layers) throw new Error(`${input.target.id} counts in no layers`);
  return layers;
};

export const bottomLayer = (input: CardInput): CardRow =>
  count(input.recipe, 'bottomLayer', 'Bottom layer', layersIn(input).bottom, 'The layer of the lowest code.');
export const topLayer = (input: CardInput): CardRow =>
  count(
    input.recipe,
    'topLayer',
    'Top layer',
    layersIn(input).top,
    'The layer of the highest code. Where the world ends below it, raise its limit first.',
  );

export function waterLayer(input: CardInput): CardRow[] {
  const { recipe, range } = input;
  if (recipe.height.sea === undefined) return [];
  const { bottom, metres } = layersIn(input);
  const layer = Math.floor(bottom + (worldElevation(recipe, range, recipe.height.sea) - range.low) / metres + 0.5);
  return [count(recipe, 'waterLayer', 'Water layer', layer, 'The layer that the sea level is nearest to.')];
}

export function metresPerLayer(input: CardInput): CardRow {
  const { recipe, range } = input;
  const { bottom, top, metres } = layersIn(input);
  return rowOf(recipe, {
    id: 'metresPerLayer',
    label: 'Metres per layer',
    exact: metres,
    digits: 6,
    unit: 'm',
    formula: `${exaggerationText(recipe)}${difference(range.high, range.low, 1 / (top - bottom), 6)} over ${top - bottom} = ${formatNumber(metres, 6)} m`,
    note: 'How much ground one block stands for, up and down; nothing to type.',
    from: HEIGHTS,
  });
}
