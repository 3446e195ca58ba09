import { formatNumber, formatShort } from '../../base';
import { storedTileOf } from '../../grid';
import { spansOf } from '../../raster';
import type { Recipe } from '../../recipe';
import type { CardRow } from '../document';
import type { Geometry } from '../geometry';
import { count, digitsWithin, factor, GROUND, inMetres, rowOf, type CardInput } from './parts';

/* What the card says of the ground across: how many samples, how far apart, where they lie. */

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

const REPORTED = 'What the target reports after it has read the file; nothing to type.';

function verticesRow({ recipe, tile, layout, target }: CardInput, axis: 'X' | 'Y'): CardRow {
  const [n, components, way] =
    axis === 'X' ? [tile.width, layout?.componentsX, 'east–west'] : [tile.height, layout?.componentsY, 'north–south'];
  const formula =
    layout && components !== undefined
      ? `${components} · ${layout.patches} · ${layout.quads} + 1 = ${n}`
      : 'As many as the file holds';
  const what = target.registration === 'cell' ? 'Samples' : 'Vertices';
  return count(recipe, `vertices${axis}`, `${what}, ${way}`, n, REPORTED, formula);
}
export const verticesX = (input: CardInput): CardRow => verticesRow(input, 'X');
export const verticesY = (input: CardInput): CardRow => verticesRow(input, 'Y');

export const vertices = ({ recipe, tile, target: { grid } }: CardInput): CardRow =>
  count(
    recipe,
    'vertices',
    'Vertices per side',
    tile.width,
    grid.kind === 'one'
      ? 'This map has as many, whatever is imported; nothing to type.'
      : `${grid.kind === 'power-of-two-plus-one' ? 'A power of two plus one. ' : ''}Set it first: a later change resets the heights.`,
  );

export const samples = ({ recipe, tile, target: { grid } }: CardInput): CardRow =>
  count(
    recipe,
    'samples',
    'Cells per side',
    tile.width,
    grid.kind === 'one'
      ? 'This map has as many, whatever is imported; nothing to type.'
      : 'One cell for each sample of the file.',
  );
export const samplesX = ({ recipe, tile }: CardInput): CardRow =>
  count(recipe, 'samplesX', 'Samples, east–west', tile.width, 'One block for each sample of the file.');
export const samplesY = ({ recipe, tile }: CardInput): CardRow =>
  count(recipe, 'samplesY', 'Samples, north–south', tile.height, 'One block for each sample of the file.');

/** How components make the size. */
export function layoutRows({ recipe, tile, layout }: CardInput): CardRow[] {
  if (!layout) return [];
  const { quads, patches, componentsX, componentsY } = layout;
  return [
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
  ];
}

function groundScale(input: CardInput, axis: 'x' | 'y', id: string, label: string): CardRow {
  const { recipe, target, geometry } = input;
  const unit = target.unit.metres;
  // the far edge stays within a hundredth of a quad
  const digits = digitsWithin(geometry.spacing[axis] / 100 / (Math.max(geometry.width, geometry.height) * unit), 4);
  return rowOf(recipe, {
    id,
    label,
    exact: geometry.spacing[axis] / unit,
    digits,
    unit: target.unit.name,
    metres: inMetres(geometry.spacing[axis] / unit, unit),
    formula: groundFormula(input, axis, unit, digits),
    note: `From one vertex to the next, ${axis === 'x' ? 'east–west' : 'north–south'}. Grows with the spacing, whatever the heights.`,
    from: GROUND,
  });
}
export const groundScaleX = (input: CardInput): CardRow => groundScale(input, 'x', 'groundScaleX', 'Ground scale east');
export const groundScaleY = (input: CardInput): CardRow =>
  groundScale(input, 'y', 'groundScaleY', 'Ground scale north');

function extentRow({ recipe, geometry, tile, target }: CardInput, axis: 'x' | 'y', id: string, label: string): CardRow {
  const n = axis === 'x' ? tile.width : tile.height;
  const across = spansOf(target.registration, n);
  const exact = across * geometry.spacing[axis];
  const places = digitsWithin(geometry.spacing[axis] / 100, 2);
  const cells = target.registration === 'cell';
  return rowOf(recipe, {
    id,
    label,
    exact,
    digits: places,
    unit: 'm',
    formula: `${cells ? n : `(${n} − 1)`} · ${factor(geometry.spacing[axis], n, places)} m = ${formatNumber(exact, places)} m${recipe.split ? ' for one tile' : ''}`,
    note: `From the first ${cells ? 'edge' : 'vertex'} to the last, ${axis === 'x' ? 'east–west' : 'north–south'}.`,
    from: GROUND,
  });
}
export const extentX = (input: CardInput): CardRow => extentRow(input, 'x', 'extentX', 'East–west extent');
export const extentY = (input: CardInput): CardRow => extentRow(input, 'y', 'extentY', 'North–south extent');

/** One distance for both ways. */
export function metresPerSample(input: CardInput): CardRow {
  const { recipe, geometry, target } = input;
  const digits = digitsWithin(geometry.spacing.x / 100 / Math.max(geometry.width, geometry.height), 4);
  const cells = target.registration === 'cell';
  return rowOf(recipe, {
    id: 'metresPerSample',
    label: cells ? 'Metres per sample' : 'Spacing',
    exact: geometry.spacing.x,
    digits,
    unit: 'm',
    formula: groundFormula(input, 'x', 1, digits),
    note: cells ? 'How wide one cell is, both ways.' : 'From one vertex to the next, both ways.',
    from: GROUND,
  });
}

/** Where the north-west vertex of the whole lies. */
function positionRow(
  recipe: Recipe,
  way: 'east' | 'north',
  exact: number,
  { name, metres }: CardInput['target']['unit'],
  geometry: Geometry,
): CardRow {
  const extent = way === 'east' ? geometry.extent.x : geometry.extent.y;
  const corner = geometry.inset === 0 ? 'vertex' : 'corner';
  return rowOf(recipe, {
    id: way === 'east' ? 'eastOffset' : 'northOffset',
    label: way === 'east' ? 'East offset' : 'North offset',
    exact,
    digits: 2,
    unit: name,
    metres: inMetres(exact, metres),
    formula: offsetFormula(recipe.fit.origin, way, extent, metres, corner),
    note: `How far ${way} of the world’s zero the north-west ${corner} of the whole ground lies.`,
    from: recipe.fit.origin === 'north-west' ? [] : GROUND,
  });
}

export const eastOffset = ({ recipe, target, geometry }: CardInput): CardRow =>
  positionRow(recipe, 'east', originOffset(recipe, geometry).east / target.unit.metres, target.unit, geometry);
export const northOffset = ({ recipe, target, geometry }: CardInput): CardRow =>
  positionRow(recipe, 'north', originOffset(recipe, geometry).north / target.unit.metres, target.unit, geometry);

/** What a mask is divided by, which depends on how it was made. */
export function companionRows({ recipe, info, geometry: g }: CardInput): CardRow[] {
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

function groundFormula(
  { recipe, spacing, info, geometry: g }: CardInput,
  axis: 'x' | 'y',
  unit: number,
  digits: number,
): string {
  const { worldScale } = recipe.fit;
  const { source, result, hold } = g.registrations;
  const [from, to] = axis === 'x' ? [info.width, g.width] : [info.height, g.height];
  // outermost samples meet where both are vertices, or are made to
  const meet = hold === 'centres' && source !== result;
  const [long, parts] = meet ? [from - 1, to - 1] : [spansOf(source, from), spansOf(result, to)];
  const stretched = recipe.fit.method === 'resample';
  const times = stretched ? long / parts : 1;
  const s = factor(spacing, (worldScale * times) / unit, digits);
  const shrunk = worldScale === 1 ? '' : ` · ${factor(worldScale, (spacing * times) / unit, digits)}`;
  const stretch = stretched ? ` · ${long} / ${parts}` : '';
  return `${s} m${shrunk}${stretch}${unit === 1 ? '' : ` / ${unit} m`} = ${formatNumber(g.spacing[axis] / unit, digits)}`;
}

function offsetFormula(
  origin: Recipe['fit']['origin'],
  way: 'east' | 'north',
  extent: number,
  unit: number,
  corner: string,
): string {
  const e = `${formatShort(extent, 6)} m`;
  const inUnit = unit === 1 ? '' : ` / ${unit} m`;
  if (origin === 'north-west') return `The world’s zero lies at the north-west ${corner}: 0`;
  if (origin === 'centre') return `The world’s zero lies at the centre: ${way === 'east' ? '−' : ''}${e} / 2${inUnit}`;
  return way === 'east'
    ? `The world’s zero lies at the south-west ${corner}: 0`
    : `The world’s zero lies at the south-west ${corner}: ${e}${inUnit}`;
}

/** The side of the tiles that the target keeps the ground in. */
export function storedTileSide({ recipe, target: { grid }, tile }: CardInput): CardRow[] {
  if (grid.kind !== 'stored-tiles') return [];
  const sides = [tile.width, tile.height].map((n) => storedTileOf(n, grid) ?? grid.least);
  const side = recipe.fit.tileSide ?? Math.min(...sides);
  const shared = (tile.width - 1) % side === 0;
  return [
    count(
      recipe,
      'storedTileSide',
      'Stored tile side',
      side,
      shared
        ? 'Quads of one tile; the last row and column are stored with it.'
        : 'Samples of one tile. The last row and column are not stored: behind the last tile stands what the target puts there.',
      shared
        ? `(${tile.width} − 1) / ${side} = ${(tile.width - 1) / side} tiles`
        : `${tile.width} / ${side} = ${tile.width / side} tiles`,
    ),
  ];
}
