import { LevelGridError } from '../base';
import type { Recipe } from '../recipe';
import { checkPattern, fileNameOf, fillPattern } from './pattern';

/** A rectangle of vertices of the whole, counted from the north-west. */
export interface Window {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export interface Tile {
  /** Numbers as they stand in the name. */
  readonly column: number;
  readonly row: number;
  /** Place counted from the west and from the north, from 0. */
  readonly fromWest: number;
  readonly fromNorth: number;
  /** File name with its ending. */
  readonly name: string;
  readonly window: Window;
}

export interface TileGrid {
  readonly across: number;
  readonly down: number;
  readonly edges: 'shared' | 'abutting';
  readonly tileWidth: number;
  readonly tileHeight: number;
  /** From the north-west, row by row. */
  readonly tiles: readonly Tile[];
}

/** Vertices of one tile along a side, or null where the whole can't be divided. */
export function tileSide(whole: number, count: number, edges: 'shared' | 'abutting'): number | null {
  const side = edges === 'shared' ? (whole - 1) / count + 1 : whole / count;
  return Number.isInteger(side) && side >= 2 ? side : null;
}

/** Vertices of the whole that `count` tiles of `side` vertices cover. */
export function wholeSide(side: number, count: number, edges: 'shared' | 'abutting'): number {
  return edges === 'shared' ? count * (side - 1) + 1 : count * side;
}

/** What `{name}` stands for: the project's name, marked where the pack is a draft. */
export function tileBaseName(recipe: Pick<Recipe, 'name' | 'draft'>, fallbackName: string): string {
  const base = fileNameOf(recipe.name ?? fallbackName);
  return recipe.draft === undefined ? base : `${base}-draft${recipe.draft}`;
}

/** Divides the whole into tiles and names them. A recipe without a split is one tile with the project's name. */
export function splitTiles(
  recipe: Recipe,
  whole: { width: number; height: number },
  options: { fallbackName: string; ending: string; refused: string; refusedBeforeNumbers: string },
): TileGrid {
  const base = tileBaseName(recipe, options.fallbackName);
  const split = recipe.split;
  const { across, down, edges, pattern, first, rows } = split ?? {
    across: 1,
    down: 1,
    edges: 'shared' as const,
    pattern: '{name}',
    first: 0,
    rows: 'north' as const,
  };
  if (split) checkPattern(pattern, options.refusedBeforeNumbers);
  const tileWidth = divide(whole.width, across, edges, 'across');
  const tileHeight = divide(whole.height, down, edges, 'down');
  const overlap = edges === 'shared' ? 1 : 0;
  const tiles: Tile[] = [];
  const names = new Set<string>();
  for (let north = 0; north < down; north++) {
    const numbered = rows === 'north' ? north : down - 1 - north;
    for (let west = 0; west < across; west++) {
      const numbers = { name: base, col: first + west, row: first + numbered, index: first + numbered * across + west };
      const name = `${fillPattern(pattern, numbers, options.refused)}.${options.ending}`;
      // some systems see no difference between upper and lower case
      if (names.has(name.toLowerCase())) {
        throw new LevelGridError('file-name', {
          found: `two tiles called "${name}"`,
          expected: 'a different name for each tile',
          remedy: 'Use {col} and {row}, or {index}, in the pattern.',
        });
      }
      names.add(name.toLowerCase());
      tiles.push({
        column: numbers.col,
        row: numbers.row,
        fromWest: west,
        fromNorth: north,
        name,
        window: {
          x: west * (tileWidth - overlap),
          y: north * (tileHeight - overlap),
          width: tileWidth,
          height: tileHeight,
        },
      });
    }
  }
  return { across, down, edges, tileWidth, tileHeight, tiles };
}

function divide(whole: number, count: number, edges: 'shared' | 'abutting', way: 'across' | 'down'): number {
  const side = tileSide(whole, count, edges);
  if (side !== null) return side;
  const rule = edges === 'shared' ? `${count} × quads + 1` : `${count} × vertices`;
  const below = edges === 'shared' ? Math.floor((whole - 1) / count) * count + 1 : Math.floor(whole / count) * count;
  throw new LevelGridError('split-indivisible', {
    found: `${whole} vertices for ${count} tiles ${way} with ${edges} edges`,
    expected: `a whole of ${rule} vertices`,
    remedy: `Choose ${Math.max(below, count + 1)} or ${below + count} vertices, or another number of tiles.`,
  });
}

/**
 * The order in which tiles are best placed: from the first tile outwards, so that each one touches one that is
 * already there and a gap is noticed at once.
 */
export function placementOrder(grid: TileGrid): number[] {
  const order: number[] = [];
  for (let north = 0; north < grid.down; north++) {
    for (let i = 0; i < grid.across; i++) order.push(north * grid.across + (north % 2 === 0 ? i : grid.across - 1 - i));
  }
  return order;
}
