import type { Recipe } from '../../recipe';
import type { Page } from './page';
import { factsOfTarget } from './targets';

/*
 * The grid, worked out from the recipe and the size of the source alone: where vertices lie, which tile holds them,
 * what the tiles are called. Slow and plain; shares nothing with the code that plans and writes.
 */

/** What must be known of a source before its samples are read. */
export interface SourceFacts {
  readonly file: string;
  readonly width: number;
  readonly height: number;
  readonly bitDepth: number;
  readonly sampleType: 'uint' | 'int' | 'float';
  /** Metres from sample to sample, where only the source says so. */
  readonly spacing: number;
}

/** One tile: its numbers, its name, its place, and the tiles on its four sides. */
export interface ExpectedTile {
  readonly name: string;
  readonly column: number;
  readonly row: number;
  readonly west: number;
  readonly north: number;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export interface ExpectedGrid {
  readonly width: number;
  readonly height: number;
  readonly across: number;
  readonly down: number;
  readonly edges: 'shared' | 'abutting';
  /** Vertices of one tile; a part of a vertex where the whole can't be divided. */
  readonly tileWidth: number;
  readonly tileHeight: number;
  readonly tiles: readonly ExpectedTile[];
  /** World metres from vertex to vertex and from the first to the last. */
  readonly spacingX: number;
  readonly spacingY: number;
  readonly extentX: number;
  readonly extentY: number;
  /** North-west vertex against the world's zero, metres. */
  readonly east: number;
  readonly north: number;
  /** Column and row of the source, in samples, that lie at vertex 0. */
  readonly startX: number;
  readonly startY: number;
  /** The source is laid over all of it, and not sample by sample. */
  readonly stretched: boolean;
  /** The unit of the target, in metres. */
  readonly unit: number;
  /** Samples of the files are cells; the target turns them by half a turn. */
  readonly cells: boolean;
  readonly halfTurn: boolean;
  /** How samples of the source and of the result lie against each other. */
  readonly lies: Lies;
}

/** Samples are cells here and there, and where only one of both is: outermost samples meet, or the ends do. */
export interface Lies {
  readonly source: boolean;
  readonly result: boolean;
  readonly centres: boolean;
}

/** Where a sample of the whole stands in the world, in spacings east and south of the corner of the ground. */
export const standsAt = (
  { width, height, cells, halfTurn }: ExpectedGrid,
  x: number,
  y: number,
): readonly [across: number, below: number] => {
  const half = cells ? 0.5 : 0;
  return halfTurn ? [width - 1 - x + half, height - 1 - y + half] : [x + half, y + half];
};

/** Spacings between the ends of so many samples. */
const between = (n: number, cells: boolean): number => (cells ? n : n - 1);

/** Where a sample of the result lies among `n` of the source, through lengths: the source is 1 from sample to sample. */
export function placeAmong(i: number, n: number, m: number, { source, result, centres }: Lies): number {
  if (source !== result && centres) return (i * (n - 1)) / (m - 1);
  const wide = between(n, source) / between(m, result);
  return wide * (i + (result ? 0.5 : 0)) - (source ? 0.5 : 0);
}

/** Metres from sample to sample of what is fitted: those of the metric grid, where one is made. */
export function spacingOf({ steps, source }: Recipe, facts: Pick<SourceFacts, 'spacing'>): number {
  let metres = source.spacing;
  for (const step of steps)
    if (step.op === 'reproject' && !step.off) metres = step.spacing === 'rung' ? facts.spacing : step.spacing;
  return metres;
}

export function expectedGrid(recipe: Recipe, source: SourceFacts): ExpectedGrid {
  const { fit } = recipe;
  const [width, height] = typeof fit.size === 'number' ? [fit.size, fit.size] : fit.size;
  // resampled ground keeps its extent, cropped and padded ground its spacing
  const metres = spacingOf(recipe, source) * fit.worldScale;
  const stretched = fit.method === 'resample';
  const { cells, halfTurn, unit } = factsOfTarget(recipe.target);
  const lies: Lies = {
    source: recipe.source.registration === 'cell',
    result: cells,
    centres: fit.mixed === 'centre-to-centre',
  };
  const apart = lies.source !== lies.result && lies.centres;
  // what the ground is long that is laid over the grid: that of the source, or from outermost sample to outermost sample
  const long = (n: number, m: number): number => {
    if (!stretched) return metres * between(m, cells);
    return apart ? ((metres * (n - 1)) / (m - 1)) * between(m, cells) : metres * between(n, lies.source);
  };
  const extentX = long(source.width, width);
  const extentY = long(source.height, height);
  const across = recipe.split?.across ?? 1;
  const down = recipe.split?.down ?? 1;
  const edges = recipe.split?.edges ?? 'shared';
  // k tiles of n vertices cover k(n − 1) + 1 with shared edges, k·n without
  const tileWidth = edges === 'shared' ? (width - 1) / across + 1 : width / across;
  const tileHeight = edges === 'shared' ? (height - 1) / down + 1 : height / down;
  const stepX = edges === 'shared' ? tileWidth - 1 : tileWidth;
  const stepY = edges === 'shared' ? tileHeight - 1 : tileHeight;
  const tiles: ExpectedTile[] = [];
  for (let north = 0; north < down; north++)
    for (let west = 0; west < across; west++) {
      const counted = recipe.split?.rows === 'south' ? down - 1 - north : north;
      const first = recipe.split?.first ?? 0;
      const numbers = { column: west + first, row: counted + first, index: counted * across + west + first };
      tiles.push({
        name: tileName(recipe, source.file, numbers),
        column: numbers.column,
        row: numbers.row,
        west,
        north,
        x: west * stepX,
        y: north * stepY,
        width: tileWidth,
        height: tileHeight,
      });
    }
  let east = 0;
  let north = 0;
  if (fit.origin === 'centre') {
    east = -extentX / 2;
    north = extentY / 2;
  } else if (fit.origin === 'south-west') north = extentY;
  const sign = fit.method === 'crop' ? 1 : -1;
  return {
    width,
    height,
    across,
    down,
    edges,
    tileWidth,
    tileHeight,
    tiles,
    unit,
    cells,
    halfTurn,
    lies,
    spacingX: extentX / between(width, cells),
    spacingY: extentY / between(height, cells),
    extentX,
    extentY,
    east,
    north,
    stretched,
    startX: stretched ? 0 : sign * fit.at[0],
    startY: stretched ? 0 : sign * fit.at[1],
  };
}

/** Samples are taken over one by one: nothing is resampled. */
export const isExact = (
  { fit }: Recipe,
  { width, height, lies }: ExpectedGrid,
  source: Pick<SourceFacts, 'width' | 'height'>,
): boolean =>
  fit.method !== 'resample' ||
  (width === source.width && height === source.height && (lies.source === lies.result || lies.centres));

/** `{name}`, `{col}`, `{row}` and `{index}` filled in, with the ending of the format. */
function tileName(recipe: Recipe, file: string, n: { column: number; row: number; index: number }): string {
  const dot = file.lastIndexOf('.');
  const given = recipe.name ?? (dot > 0 ? file.slice(0, dot) : file);
  let base = '';
  for (const sign of given.normalize('NFKD')) {
    if (/[\u0300-\u036f]/.test(sign)) continue;
    if (/[A-Za-z0-9._-]/.test(sign)) base += sign;
    // any run of other signs is one dash
    else if (!base.endsWith('\0')) base += '\0';
  }
  base = base.replaceAll('\0', '-').replace(/^[-.]+/, '');
  base = base.slice(0, 80).replace(/[-.]+$/, '');
  if (base === '') base = 'terrain';
  // a device on some systems, with any ending
  base = base.replace(/^(con|prn|aux|nul|com\d|lpt\d)(?=\.|$)/i, '$1-terrain');
  if (recipe.draft !== undefined) base += `-draft${recipe.draft}`;
  const values: Record<string, string> = {
    name: base,
    col: String(n.column),
    row: String(n.row),
    index: String(n.index),
  };
  const pattern = recipe.split ? recipe.split.pattern : '{name}';
  const filled = pattern.replace(/\{(name|col|row|index)(?::(\d))?\}/g, (_, key: string, digits?: string) =>
    key === 'name' ? base : (values[key] ?? '').padStart(Number(digits ?? 0), '0'),
  );
  return `${filled}.${recipe.output.format}`;
}

/** Tile to the west, east, north and south, by name. */
export function neighboursOf(grid: ExpectedGrid, tile: ExpectedTile): string[] {
  const at = (west: number, north: number): string[] => {
    const inside = west >= 0 && north >= 0 && west < grid.across && north < grid.down;
    const there = inside ? grid.tiles[north * grid.across + west] : undefined;
    return there ? [there.name] : [];
  };
  return [
    ...at(tile.west, tile.north - 1),
    ...at(tile.west + 1, tile.north),
    ...at(tile.west, tile.north + 1),
    ...at(tile.west - 1, tile.north),
  ];
}

/** Components of a tile: what the recipe asks for, or the fewest that make its vertices (C·P·Q + 1). */
export function expectedLayout(recipe: Recipe, grid: ExpectedGrid): Page['layout'] {
  const { components } = factsOfTarget(recipe.target);
  if (!components) return null;
  let best: NonNullable<Page['layout']> | null = null;
  for (const quads of [...components.quads].sort((a, b) => b - a))
    for (const patches of components.patches) {
      const wanted = recipe.fit.layout;
      if (wanted && (wanted.quads !== quads || wanted.patches !== patches)) continue;
      const componentsX = (grid.tileWidth - 1) / (quads * patches);
      const componentsY = (grid.tileHeight - 1) / (quads * patches);
      const whole = (n: number): boolean => Number.isInteger(n) && n >= 1 && n <= components.most;
      if (!whole(componentsX) || !whole(componentsY)) continue;
      if (!best || componentsX * componentsY < best.componentsX * best.componentsY)
        best = { quads, patches, componentsX, componentsY };
    }
  return best;
}
