import { LevelGridError } from '../base';
import { BLOCK, BLOCKS, DATA_SETS, quadsOf, WORLD, type DataSet } from './world';

/** Degrees. */
export interface Extent {
  readonly west: number;
  readonly south: number;
  readonly east: number;
  readonly north: number;
}

/** A block: column from the west, row from the north. */
export interface Block {
  readonly column: number;
  readonly row: number;
}

/** Ground of a data set, on its samples. */
export interface Ground {
  readonly set: DataSet;
  readonly extent: Extent;
  /** First sample in the world, east and south of its north-western corner. */
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** The blocks that it needs. */
  readonly blocks: readonly Block[];
}

/** As near to a sample, in samples, as a border may lie and be taken for it. */
const ON_SAMPLE = 1e-6;

/** The ground between borders, out to the next samples; what lies beyond the world is left out. Throws `usage`. */
export function groundOf(set: DataSet, { west, south, east, north }: Extent): Ground {
  const step = DATA_SETS[set].seconds / 3600;
  const quads = quadsOf(set);
  const [across, down] = [BLOCKS.across * quads, BLOCKS.down * quads];
  const x0 = Math.max(0, Math.floor((west - WORLD.west) / step + ON_SAMPLE));
  const x1 = Math.min(across, Math.ceil((east - WORLD.west) / step - ON_SAMPLE));
  const y0 = Math.max(0, Math.floor((WORLD.north - north) / step + ON_SAMPLE));
  const y1 = Math.min(down, Math.ceil((WORLD.north - south) / step - ON_SAMPLE));
  if (!(x1 > x0) || !(y1 > y0))
    throw new LevelGridError('usage', {
      found: `ground from ${west} to ${east}° east and ${south} to ${north}° north`,
      expected: `ground within ${WORLD.west} to ${WORLD.east}° east and ${WORLD.south} to ${WORLD.north}° north, two samples wide at least`,
      remedy: 'Choose blocks on the sheet, or type borders within it.',
    });
  const blocks: Block[] = [];
  for (let row = Math.floor(y0 / quads); row <= Math.floor((y1 - 1) / quads); row++)
    for (let column = Math.floor(x0 / quads); column <= Math.floor((x1 - 1) / quads); column++)
      blocks.push({ column, row });
  return {
    set,
    x: x0,
    y: y0,
    width: x1 - x0 + 1,
    height: y1 - y0 + 1,
    blocks,
    extent: {
      west: WORLD.west + x0 * step,
      east: WORLD.west + x1 * step,
      north: WORLD.north - y0 * step,
      south: WORLD.north - y1 * step,
    },
  };
}

/** The borders around some blocks. */
export function extentOf(blocks: readonly Block[]): Extent {
  const columns = blocks.map((b) => b.column);
  const rows = blocks.map((b) => b.row);
  return {
    west: WORLD.west + Math.min(...columns) * BLOCK,
    east: WORLD.west + (Math.max(...columns) + 1) * BLOCK,
    north: WORLD.north - Math.min(...rows) * BLOCK,
    south: WORLD.north - (Math.max(...rows) + 1) * BLOCK,
  };
}

/** The block that holds a place; null beyond the world. */
export function blockAt(east: number, north: number): Block | null {
  const column = Math.min(BLOCKS.across - 1, Math.floor((east - WORLD.west) / BLOCK + ON_SAMPLE));
  const row = Math.min(BLOCKS.down - 1, Math.floor((WORLD.north - north) / BLOCK + ON_SAMPLE));
  const inside = east >= WORLD.west && east <= WORLD.east && north >= WORLD.south && north <= WORLD.north;
  return inside ? { column: Math.max(0, column), row: Math.max(0, row) } : null;
}

/** One raster of what blocks hold; what none holds is void. `heightsOf`: null where a block did not come. */
export function assemble(ground: Ground, heightsOf: (block: Block) => Float32Array | null): Float32Array {
  const { x, y, width, height, set, blocks } = ground;
  const quads = quadsOf(set);
  const side = quads + 1;
  const out = new Float32Array(width * height).fill(NaN);
  for (const block of blocks) {
    const heights = heightsOf(block);
    if (!heights) continue;
    const [bx, by] = [block.column * quads, block.row * quads];
    for (let j = Math.max(y, by); j <= Math.min(y + height - 1, by + quads); j++)
      for (let i = Math.max(x, bx); i <= Math.min(x + width - 1, bx + quads); i++) {
        const value = heights[(j - by) * side + (i - bx)]!;
        // an edge that one block holds no height at, its neighbour may
        if (value === value) out[(j - y) * width + (i - x)] = value;
      }
  }
  return out;
}

/** To whole millimetres: what single precision adds behind them is nothing of the survey. */
const tidy = (metres: number): number => Math.round(metres * 1000) / 1000;

/** Lowest and highest, and samples without a height. */
export function rangeOf(heights: Float32Array): { low: number; high: number; voids: number } {
  let [low, high, voids] = [Infinity, -Infinity, 0];
  for (const v of heights) {
    if (v !== v) voids++;
    else {
      if (v < low) low = v;
      if (v > high) high = v;
    }
  }
  return { low: tidy(low), high: tidy(high), voids };
}
