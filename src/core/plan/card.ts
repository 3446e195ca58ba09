import { formatBytes, formatNumber, formatShort, roundTo } from '../base';
import type { RectangleLayout } from '../grid';
import { exaggeratedElevation, scaleOfRange, type HeightRange } from '../height';
import type { RasterInfo } from '../raster';
import type { Assumable, Recipe } from '../recipe';
import type { Target } from '../targets';
import type { CardRow } from './document';
import type { Geometry } from './geometry';

export interface CardInput {
  readonly recipe: Recipe;
  readonly target: Target;
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

/** Metres from one code to the next. */
export function stepOf(range: HeightRange, target: Target): number {
  return (range.high - range.low) / target.highestCode;
}

/** Fewest decimals, at least `least`, whose rounding stays within `budget`. */
export function digitsWithin(budget: number, least: number): number {
  let digits = least;
  while (digits < 15 && 0.5 * 10 ** -digits > budget) digits++;
  return digits;
}

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
      return [...layoutRows(input), ...centredRows(input), ...companionRows(input), ...readingRows(input)];
    case 'span':
      return [...spanRows(input), ...readingRows(input)];
  }
}

/** A difference whose numbers have as many decimals as `times` it, to `digits`, needs: 50 − (−20). */
function difference(a: number, b: number, times: number, digits: number): string {
  const second = factor(b, times, digits);
  return `${factor(a, times, digits)} − ${b < 0 ? `(${second})` : second}`;
}

/** Half the typing budget (step/10) for each of the two height values. */
const share = (step: number): number => step / 20;

interface Draft {
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
function rowOf(recipe: Recipe, { from = [], metres = '', ...row }: Draft): CardRow {
  const assumed = recipe.source.assumed ?? [];
  return { ...row, metres, value: roundTo(row.exact, row.digits), assumed: from.filter((f) => assumed.includes(f)) };
}

function count(recipe: Recipe, id: string, label: string, value: number, note: string, formula = note): CardRow {
  return rowOf(recipe, { id, label, exact: value, digits: 0, unit: '', formula, note });
}

/** A value that is typed in a unit of the target's own, in metres. */
const inMetres = (exact: number, unit: number): string => (unit === 1 ? '' : `${formatShort(exact * unit, 6)} m`);

/** A factor of a formula with so many decimals that what is shown gives what is shown: `times` it, to `digits`. */
const factor = (value: number, times: number, digits: number): string =>
  formatShort(value, digitsWithin(10 ** -digits / times / 100, digits));

const HEIGHTS: readonly Assumable[] = ['low', 'high'];
const GROUND: readonly Assumable[] = ['spacing'];

function layoutRows({ recipe, tile, layout }: CardInput): CardRow[] {
  const note = 'What the target reports after it has read the file; nothing to type.';
  const formula = (components: number | undefined, vertices: number): string =>
    layout && components !== undefined
      ? `${components} · ${layout.patches} · ${layout.quads} + 1 = ${vertices}`
      : 'As many as the file holds';
  const rows = [
    count(recipe, 'verticesX', 'Vertices, east–west', tile.width, note, formula(layout?.componentsX, tile.width)),
    count(recipe, 'verticesY', 'Vertices, north–south', tile.height, note, formula(layout?.componentsY, tile.height)),
  ];
  if (layout) {
    const { quads, patches, componentsX, componentsY } = layout;
    rows.push(
      count(
        recipe,
        'quads',
        'Quads per patch',
        quads,
        'Quads along one side of a patch. Set the layout before any scale: it decides how many vertices are read.',
        recipe.fit.layout ? 'As chosen' : 'The fewest components of all layouts of this size',
      ),
      count(
        recipe,
        'patches',
        'Patches per component side',
        patches,
        'Patches along one side of a component: one or two.',
        `Each component is ${patches} × ${patches} patches of ${quads} × ${quads} quads`,
      ),
      count(
        recipe,
        'componentsX',
        'Components, east–west',
        componentsX,
        'Components from west to east.',
        `(${tile.width} − 1) / (${quads} · ${patches}) = ${componentsX}`,
      ),
      count(
        recipe,
        'componentsY',
        'Components, north–south',
        componentsY,
        'Components from north to south.',
        `(${tile.height} − 1) / (${quads} · ${patches}) = ${componentsY}`,
      ),
    );
  }
  return rows;
}

function centredRows({ recipe, target, spacing, geometry, range, zero }: CardInput): CardRow[] {
  const unit = target.unit.metres;
  const step = stepOf(range, target);
  const scale = scaleOfRange(range.high - range.low, target);
  // the height scale acts on up to 256 units (32768/128) either side of the middle code
  const scaleDigits = digitsWithin(share(step) / (256 * unit), 4);
  const offset = (range.low - zero) / unit + 256 * scale;
  const offsetDigits = digitsWithin(share(step) / unit, 2);
  const m = (value: number): string => formatShort(value, 6);
  const row = (draft: Draft): CardRow => rowOf(recipe, draft);
  const ground = (axis: 'x' | 'y', id: string, label: string): CardRow => {
    // the far edge stays within a hundredth of a quad
    const digits = digitsWithin(geometry.spacing[axis] / 100 / (Math.max(geometry.width, geometry.height) * unit), 4);
    return row({
      id,
      label,
      exact: geometry.spacing[axis] / unit,
      digits,
      unit: target.unit.name,
      metres: inMetres(geometry.spacing[axis] / unit, unit),
      formula: groundFormula(recipe, spacing, geometry, axis, unit, digits),
      note: `From one vertex to the next, ${axis === 'x' ? 'east–west' : 'north–south'}. Grows with the spacing, whatever the heights.`,
      from: GROUND,
    });
  };
  const position = (way: 'east' | 'north', metres: number): CardRow =>
    positionRow(recipe, way, metres / unit, target.unit.name, unit, geometry);
  const at = originOffset(recipe, geometry);
  return [
    ground('x', 'groundScaleX', 'Ground scale east'),
    ground('y', 'groundScaleY', 'Ground scale north'),
    row({
      id: 'heightScale',
      label: 'Height scale',
      exact: scale,
      digits: scaleDigits,
      unit: '',
      formula: `${exaggerationText(recipe)}(${difference(range.high, range.low, 12800 / 65535, scaleDigits)}) · 12 800 / 65 535 = ${formatNumber(scale, scaleDigits)}`,
      metres: `spans ${m(range.high - range.low)} m`,
      note: `Grows with the height range, whatever the spacing: 100 spans ${formatShort((100 * target.highestCode) / 12800, 2)} m.`,
      from: HEIGHTS,
    }),
    row({
      id: 'heightOffset',
      label: 'Height offset',
      exact: offset,
      digits: offsetDigits,
      unit: target.unit.name,
      metres: inMetres(offset, unit),
      formula: `100 · (${difference(range.low, zero, 1 / unit, offsetDigits)}) + 256 · ${factor(scale, 256, offsetDigits)} = ${formatNumber(offset, offsetDigits)}`,
      note: 'How far up the middle code lies. Changes with the height range and with the elevation at world zero: type it last.',
      from: HEIGHTS,
    }),
    position('east', at.east),
    position('north', at.north),
  ];
}

function spanRows({ recipe, target, geometry, range, zero, tile }: CardInput): CardRow[] {
  const digits = digitsWithin(share(stepOf(range, target)), 2);
  const total = range.high - range.low;
  const row = (draft: Draft): CardRow => rowOf(recipe, draft);
  const extent = (axis: 'x' | 'y', id: string, label: string, n: number): CardRow => {
    const exact = (n - 1) * geometry.spacing[axis];
    const places = digitsWithin(geometry.spacing[axis] / 100, 2);
    return row({
      id,
      label,
      exact,
      digits: places,
      unit: 'm',
      formula: `(${n} − 1) · ${factor(geometry.spacing[axis], n, places)} m = ${formatNumber(exact, places)} m${recipe.split ? ' for one tile' : ''}`,
      note: `From the first vertex to the last, ${axis === 'x' ? 'east–west' : 'north–south'}.`,
      from: GROUND,
    });
  };
  const at = originOffset(recipe, geometry);
  return [
    count(
      recipe,
      'vertices',
      'Vertices per side',
      tile.width,
      'A power of two plus one. Set it first: a later change resets the heights.',
    ),
    extent('x', 'extentX', 'East–west extent', tile.width),
    extent('y', 'extentY', 'North–south extent', tile.height),
    row({
      id: 'heightRange',
      label: 'Height range',
      exact: total,
      digits,
      unit: 'm',
      formula: `${exaggerationText(recipe)}${difference(range.high, range.low, 1, digits)} = ${formatNumber(total, digits)} m`,
      note: 'From the lowest to the highest code; not the highest elevation.',
      from: HEIGHTS,
    }),
    row({
      id: 'baseElevation',
      label: 'Base elevation',
      exact: range.low - zero,
      digits,
      unit: 'm',
      formula: `${difference(range.low, zero, 1, digits)} = ${formatNumber(range.low - zero, digits)} m`,
      note: 'The height at which the terrain itself is placed: where code 0 lies in the world.',
      from: HEIGHTS,
    }),
    positionRow(recipe, 'east', at.east, 'm', 1, geometry),
    positionRow(recipe, 'north', at.north, 'm', 1, geometry),
  ];
}

/** Where the north-west vertex of the whole lies. */
function positionRow(
  recipe: Recipe,
  way: 'east' | 'north',
  exact: number,
  unit: string,
  metres: number,
  geometry: Geometry,
): CardRow {
  const extent = way === 'east' ? geometry.extent.x : geometry.extent.y;
  return rowOf(recipe, {
    id: way === 'east' ? 'eastOffset' : 'northOffset',
    label: way === 'east' ? 'East offset' : 'North offset',
    exact,
    digits: 2,
    unit,
    metres: inMetres(exact, metres),
    formula: offsetFormula(recipe.fit.origin, way, extent, metres),
    note: `How far ${way} of the world’s zero the north-west vertex of the whole ground lies.`,
    from: recipe.fit.origin === 'north-west' ? [] : GROUND,
  });
}

/** What a mask is divided by, which depends on how it was made. */
function companionRows({ recipe, info, geometry: g }: CardInput): CardRow[] {
  const side = Math.max(g.width, g.height);
  const rows = [
    count(
      recipe,
      'companionQuads',
      'Mask edge to edge, quads',
      side - 1,
      'For a mask that was stretched over the whole ground, whatever its own size in pixels: it covers this many quads.',
      `${side} vertices − 1`,
    ),
    count(
      recipe,
      'companionVertices',
      'Mask texel per vertex',
      side,
      'For a mask with one texel for each vertex: it covers this many, and begins half a texel before the first vertex.',
      `${side} vertices, offset 0.5 texel`,
    ),
  ];
  if (recipe.fit.method === 'resample') return rows;
  const off = Math.max(
    Math.abs(g.sourceStart.x),
    Math.abs(g.sourceStart.y),
    Math.abs(info.width - g.width - g.sourceStart.x),
    Math.abs(info.height - g.height - g.sourceStart.y),
  );
  if (off === 0) return rows;
  const done = recipe.fit.method === 'crop' ? 'cropped' : 'padded';
  const wrong = formatShort(off * g.spacing.x, 2);
  return [
    ...rows,
    count(
      recipe,
      'companionSource',
      'Mask of the source, quads',
      Math.max(info.width, info.height) - 1,
      `For a mask made for the source before it was ${done}. Stretched over the ${done} ground it would lie up to ${wrong} m off.`,
      `${Math.max(info.width, info.height)} samples − 1`,
    ),
    count(
      recipe,
      'companionSourceEast',
      'It begins, quads east',
      0 - g.sourceStart.x,
      'Where the west edge of that mask lies, counted eastwards from the ground’s west edge.',
    ),
    count(
      recipe,
      'companionSourceSouth',
      'It begins, quads south',
      0 - g.sourceStart.y,
      'Where the north edge of that mask lies, counted southwards from the ground’s north edge.',
    ),
  ];
}

const ORDER_NOTES = {
  little:
    'Which half of each 16-bit number comes first: the low one. Importers that name it after platforms call it that of Windows.',
  big: 'Which half of each 16-bit number comes first: the high one. Importers that name it after platforms call it that of (older) Macs.',
} as const;

/** How the file is to be read. */
function readingRows({ recipe, tile }: CardInput): CardRow[] {
  const { format, byteOrder, rows } = recipe.output;
  const text = (id: string, label: string, value: string, note: string): CardRow => ({
    metres: '',
    id,
    label,
    value,
    exact: null,
    digits: 0,
    unit: '',
    formula: note,
    note,
    assumed: [],
  });
  const depth = count(
    recipe,
    'bitDepth',
    'Bit depth',
    16,
    'Bits of each height in the file, without a sign.',
    '65 536 heights',
  );
  if (format === 'png') return [depth];
  const bytes = tile.width * tile.height * 2;
  return [
    depth,
    text('byteOrder', 'Byte order', byteOrder, ORDER_NOTES[byteOrder]),
    text(
      'rowOrder',
      'First row',
      rows,
      rows === 'north'
        ? 'The northernmost row comes first in the file.'
        : 'The southernmost row comes first in the file.',
    ),
    count(
      recipe,
      'fileSize',
      'Bytes in a file',
      bytes,
      `${formatBytes(bytes)}: the importer must find just as many.`,
      `${tile.width} · ${tile.height} · 2`,
    ),
  ];
}

function exaggerationText(recipe: Recipe): string {
  const { exaggeration } = recipe.height;
  return exaggeration === 1 ? '' : `heights × ${formatShort(exaggeration, 6)}: `;
}

/** Elevation of the recipe (true metres) in the world that is written. */
export function worldElevation(recipe: Recipe, range: HeightRange, elevation: number): number {
  return exaggeratedElevation(elevation * recipe.fit.worldScale, range.pivot, recipe.height.exaggeration);
}

function groundFormula(
  recipe: Recipe,
  spacing: number,
  g: Geometry,
  axis: 'x' | 'y',
  unit: number,
  digits: number,
): string {
  const { worldScale } = recipe.fit;
  const n = axis === 'x' ? g.width : g.height;
  const sourceQuads = Math.round(g.sourcePerVertex[axis] * (n - 1));
  const stretched = recipe.fit.method === 'resample';
  const times = stretched ? sourceQuads / (n - 1) : 1;
  const s = factor(spacing, (worldScale * times) / unit, digits);
  const shrunk = worldScale === 1 ? '' : ` · ${factor(worldScale, (spacing * times) / unit, digits)}`;
  const stretch = stretched ? ` · ${sourceQuads} / ${n - 1}` : '';
  return `${s} m${shrunk}${stretch} / ${unit} m = ${formatNumber(g.spacing[axis] / unit, digits)}`;
}

function offsetFormula(origin: Recipe['fit']['origin'], way: 'east' | 'north', extent: number, unit: number): string {
  const e = `${formatShort(extent, 6)} m`;
  const inUnit = unit === 1 ? '' : ` / ${unit} m`;
  if (origin === 'north-west') return 'The world’s zero lies at the north-west vertex: 0';
  if (origin === 'centre') return `The world’s zero lies at the centre: ${way === 'east' ? '−' : ''}${e} / 2${inUnit}`;
  return way === 'east'
    ? 'The world’s zero lies at the south-west vertex: 0'
    : `The world’s zero lies at the south-west vertex: ${e}${inUnit}`;
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
