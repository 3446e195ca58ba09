import { formatNumber, formatShort, roundTo } from '../base';
import type { RectangleLayout } from '../grid';
import { scaleOfRange, type HeightRange } from '../height';
import type { Recipe } from '../recipe';
import type { Target } from '../targets';
import type { CardRow } from './document';
import type { Geometry } from './geometry';

export interface CardInput {
  readonly recipe: Recipe;
  readonly target: Target;
  readonly geometry: Geometry;
  readonly range: HeightRange;
  /** Elevation in world metres at world zero. */
  readonly zero: number;
  readonly tile: { readonly width: number; readonly height: number };
  readonly layout: RectangleLayout | null;
}

/** Metres from one code to the next. */
export function stepOf(range: HeightRange, target: Target): number {
  return (range.high - range.low) / target.highestCode;
}

/** Fewest decimals, at least `least`, whose rounding stays within `budget`. */
export function digitsWithin(budget: number, least: number): number {
  let digits = least;
  while (digits < 12 && 0.5 * 10 ** -digits > budget) digits++;
  return digits;
}

type Draft = Omit<CardRow, 'value'>;
const finish = (row: Draft): CardRow => ({ ...row, value: roundTo(row.exact, row.digits) });

/** World position of the whole's north-west vertex against the chosen origin, in metres east and north. */
export function originOffset(recipe: Recipe, g: Geometry): { east: number; north: number } {
  switch (recipe.fit.origin) {
    case 'north-west':
      return { east: 0, north: 0 };
    case 'south-west':
      return { east: 0, north: g.extent.y };
    case 'centre':
      return { east: -g.extent.x / 2, north: g.extent.y / 2 };
  }
}

/** The import card: every value to type, in the order in which it is usually asked for. */
export function cardRows(input: CardInput): CardRow[] {
  switch (input.target.heights.kind) {
    case 'centred':
      return centredCard(input);
    case 'span':
      return spanCard(input);
  }
}

/** Half the typing budget (step/10) for each of the two height values. */
const share = (step: number): number => step / 20;

function centredCard({ recipe, target, geometry, range, zero, tile, layout }: CardInput): CardRow[] {
  const unit = target.unit.metres;
  const step = stepOf(range, target);
  const scale = scaleOfRange(range.high - range.low, target);
  // the height scale acts on up to 256 units (32768/128) either side of the middle code
  const scaleDigits = digitsWithin(share(step) / (256 * unit), 4);
  const offset = (range.low - zero) / unit + 256 * scale;
  const offsetDigits = digitsWithin(share(step) / unit, 2);
  const at = originOffset(recipe, geometry);
  const groundDigits = (spacing: number): number => digitsWithin(spacing / 100 / (geometry.width * unit), 4);
  const m = (value: number, digits = 6): string => formatShort(value, digits);
  const ground = (axis: 'x' | 'y', id: string, label: string): CardRow =>
    finish({
      id,
      label,
      exact: geometry.spacing[axis] / unit,
      digits: groundDigits(geometry.spacing[axis]),
      unit: target.unit.name,
      formula: groundFormula(recipe, geometry, axis, unit),
      note: `The ${axis === 'x' ? 'east–west' : 'north–south'} scale: ${target.unit.name} from one vertex to the next.`,
    });
  const rows: CardRow[] = [];
  if (layout) {
    rows.push(
      count(
        'quads',
        'Quads per patch',
        layout.quads,
        'Choose the layout before any scale: it decides how many vertices are read.',
      ),
      count(
        'patches',
        'Patches per component side',
        layout.patches,
        `Each component is ${layout.patches} × ${layout.patches} patches.`,
      ),
      count(
        'componentsX',
        'Components, east–west',
        layout.componentsX,
        `(${tile.width} − 1) / (${layout.quads} · ${layout.patches}) = ${layout.componentsX}`,
      ),
      count(
        'componentsY',
        'Components, north–south',
        layout.componentsY,
        `(${tile.height} − 1) / (${layout.quads} · ${layout.patches}) = ${layout.componentsY}`,
      ),
    );
  }
  rows.push(
    count(
      'verticesX',
      'Vertices, east–west',
      tile.width,
      'What the target reports after it has read the file; nothing to type.',
    ),
    count(
      'verticesY',
      'Vertices, north–south',
      tile.height,
      'What the target reports after it has read the file; nothing to type.',
    ),
    ground('x', 'groundScaleX', 'Ground scale X'),
    ground('y', 'groundScaleY', 'Ground scale Y'),
    finish({
      id: 'heightScale',
      label: 'Height scale Z',
      exact: scale,
      digits: scaleDigits,
      unit: '',
      formula: `(${m(range.high)} − ${m(range.low)}) · 12 800 / 65 535 = ${formatNumber(scale, scaleDigits)}`,
      note: 'The third scale. 100 is the usual default and spans 511.99 m.',
    }),
    finish({
      id: 'heightOffset',
      label: 'Height offset Z',
      exact: offset,
      digits: offsetDigits,
      unit: target.unit.name,
      formula: `100 · (${m(range.low)} − ${m(zero)}) + 256 · ${formatNumber(scale, scaleDigits)} = ${formatNumber(offset, offsetDigits)}`,
      note: 'The third coordinate of the place. Changes whenever the height scale does: type it last.',
    }),
    finish({
      id: 'eastOffset',
      label: 'East offset',
      exact: at.east / unit,
      digits: 2,
      unit: target.unit.name,
      formula: offsetFormula(recipe.fit.origin, 'east', geometry.extent.x, unit),
      note: 'Where the north-west vertex lies, east of the world’s zero.',
    }),
    finish({
      id: 'northOffset',
      label: 'North offset',
      exact: at.north / unit,
      digits: 2,
      unit: target.unit.name,
      formula: offsetFormula(recipe.fit.origin, 'north', geometry.extent.y, unit),
      note: 'Where the north-west vertex lies, north of the world’s zero.',
    }),
    count(
      'companionQuads',
      'Masks cover, in quads',
      Math.max(geometry.width, geometry.height) - 1,
      'A mask stretched edge to edge over the whole ground covers this many quads, whatever its own size in pixels.',
    ),
  );
  return rows;
}

function spanCard({ recipe, target, geometry, range, zero, tile }: CardInput): CardRow[] {
  const step = stepOf(range, target);
  const heights = digitsWithin(share(step), 2);
  const total = range.high - range.low;
  const m = (value: number): string => formatShort(value, 6);
  const extent = (axis: 'x' | 'y', id: string, label: string, n: number): CardRow => {
    const exact = (n - 1) * geometry.spacing[axis];
    const digits = digitsWithin(geometry.spacing[axis] / 100, 2);
    return finish({
      id,
      label,
      exact,
      digits,
      unit: 'm',
      formula: `(${n} − 1) · ${m(geometry.spacing[axis])} m = ${formatNumber(exact, digits)} m${recipe.split ? ' for one tile' : ''}`,
      note: `From the first vertex to the last, ${axis === 'x' ? 'east–west' : 'north–south'}.`,
    });
  };
  return [
    count(
      'vertices',
      'Vertices per side',
      tile.width,
      'A power of two plus one. Set it first: a later change resets the heights.',
    ),
    extent('x', 'extentX', 'East–west extent', tile.width),
    extent('y', 'extentY', 'North–south extent', tile.height),
    finish({
      id: 'heightRange',
      label: 'Height range',
      exact: total,
      digits: heights,
      unit: 'm',
      formula: `${m(range.high)} − ${m(range.low)} = ${formatNumber(total, heights)} m`,
      note: 'From the lowest to the highest code; not the highest elevation.',
    }),
    finish({
      id: 'baseElevation',
      label: 'Base elevation',
      exact: range.low - zero,
      digits: heights,
      unit: 'm',
      formula: `${m(range.low)} − ${m(zero)} = ${formatNumber(range.low - zero, heights)} m`,
      note: 'The height at which the terrain itself is placed: where code 0 lies in the world.',
    }),
  ];
}

function count(id: string, label: string, value: number, note: string): CardRow {
  return finish({ id, label, exact: value, digits: 0, unit: '', formula: note, note });
}

function groundFormula(recipe: Recipe, g: Geometry, axis: 'x' | 'y', unit: number): string {
  const s = formatShort(recipe.source.spacing, 6);
  const shrunk = recipe.fit.worldScale === 1 ? '' : ` · ${formatShort(recipe.fit.worldScale, 6)}`;
  const spacing = formatShort(g.spacing[axis], 9);
  const n = axis === 'x' ? g.width : g.height;
  if (recipe.fit.method !== 'resample')
    return `${s} m${shrunk} / ${unit} m = ${formatNumber(g.spacing[axis] / unit, 4)}`;
  const sourceQuads = Math.round(g.sourcePerVertex[axis] * (n - 1));
  return `${s} m${shrunk} · ${sourceQuads} / ${n - 1} = ${spacing} m; / ${unit} m = ${formatNumber(g.spacing[axis] / unit, 4)}`;
}

function offsetFormula(origin: Recipe['fit']['origin'], way: 'east' | 'north', extent: number, unit: number): string {
  const e = formatShort(extent, 6);
  if (origin === 'north-west') return 'The world’s zero lies at the north-west vertex: 0';
  if (origin === 'centre')
    return `The world’s zero lies at the centre: ${way === 'east' ? '−' : ''}${e} m / 2 / ${unit} m`;
  return way === 'east'
    ? 'The world’s zero lies at the south-west vertex: 0'
    : `The world’s zero lies at the south-west vertex: ${e} m / ${unit} m`;
}

/** Most that rounding the card's values can move a height, in metres. */
export function typingBudget(card: readonly CardRow[], target: Target): number {
  const rounding = (id: string): number => {
    const row = card.find((r) => r.id === id);
    return row ? 0.5 * 10 ** -row.digits : 0;
  };
  switch (target.heights.kind) {
    case 'centred':
      return (256 * rounding('heightScale') + rounding('heightOffset')) * target.unit.metres;
    case 'span':
      return rounding('heightRange') + rounding('baseElevation');
  }
}
