import type { Recipe } from '../../recipe';
import type { Page } from './page';

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
  const extentX = metres * ((stretched ? source.width : width) - 1);
  const extentY = metres * ((stretched ? source.height : height) - 1);
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
    spacingX: extentX / (width - 1),
    spacingY: extentY / (height - 1),
    extentX,
    extentY,
    east,
    north,
    stretched,
    startX: stretched ? 0 : sign * fit.at[0],
    startY: stretched ? 0 : sign * fit.at[1],
  };
}

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
  if (recipe.target !== 'component-grid') return null;
  let best: NonNullable<Page['layout']> | null = null;
  for (const quads of [255, 127, 63, 31, 15, 7])
    for (const patches of [1, 2]) {
      const wanted = recipe.fit.layout;
      if (wanted && (wanted.quads !== quads || wanted.patches !== patches)) continue;
      const componentsX = (grid.tileWidth - 1) / (quads * patches);
      const componentsY = (grid.tileHeight - 1) / (quads * patches);
      const whole = (n: number): boolean => Number.isInteger(n) && n >= 1 && n <= 32;
      if (!whole(componentsX) || !whole(componentsY)) continue;
      if (!best || componentsX * componentsY < best.componentsX * best.componentsY)
        best = { quads, patches, componentsX, componentsY };
    }
  return best;
}
