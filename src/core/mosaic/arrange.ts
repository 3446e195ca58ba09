import { checkpoint, LevelGridError, type JobContext } from '../base';
import { agreement, lineThrough, MOST_OVERLAP, readEdges, type Edges, type Line } from './edges';
import type { Georeference } from '../raster';
import { examined } from './seams';
import { numbersIn, type NumberedNames } from './names';
import type { Arrangement, Part, PlacedPart } from './types';

/** Steps that differ by less than this share are alike. */
const ALIKE = 1e-6;
/** A sample lies this near to the grid of the others, in samples. */
const ON_GRID = 0.05;
/** Lines that differ by less than this share of what neighbours differ by hold the same samples. */
const SHARED_BELOW = 0.25;

/**
 * How rasters of one terrain lie: by where they say they lie, else by the columns and rows in their names, in whichever
 * order, counted from whichever end, their edges match best. Reads each once. Throws `mosaic` where they don't belong
 * together.
 */
export async function arrange(parts: readonly Part[], job?: JobContext): Promise<Arrangement> {
  alike(parts);
  const grounded = parts.every((p) => p.raster.info.georeference);
  const placed = grounded ? placesOnGround(parts) : null;
  const numbers = placed ? null : numbersOf(parts);
  const deep = placed
    ? overlapOf(
        placed,
        parts.map((p) => p.raster.info),
      )
    : MOST_OVERLAP;
  const edges: Edges[] = [];
  for (const [i, part] of parts.entries()) {
    checkpoint(job);
    edges.push(await readEdges(part, deep));
    job?.report?.(i + 1, parts.length);
  }
  if (!placed) return byNames(parts, edges, numbers!);
  const places = placesOf(parts);
  return {
    ...examined(placed, edges, 'ground', null),
    georeference: { ...places[0]!, x: Math.min(...places.map((g) => g.x)), y: Math.max(...places.map((g) => g.y)) },
  };
}

/** A cell of a board: column from the west, row from the north. */
export interface Cell {
  readonly column: number;
  readonly row: number;
}

/** What placing by hand needs of rasters, read once: they are alike in type and size. Throws `mosaic` where they are not. */
export async function edgesOf(parts: readonly Part[], job?: JobContext): Promise<Edges[]> {
  alike(parts);
  alikeInSize(parts);
  const edges: Edges[] = [];
  for (const [i, part] of parts.entries()) {
    checkpoint(job);
    edges.push(await readEdges(part, MOST_OVERLAP));
    job?.report?.(i + 1, parts.length);
  }
  return edges;
}

/** Rasters in the cells of a board, in their order; whether edges are shared, abut or overlap is told by the samples. */
export function byHand(parts: readonly Part[], edges: readonly Edges[], cells: readonly Cell[]): Arrangement {
  const { placed } = candidateOf(parts, edges, cells, 'north');
  return examined(placed, edges, 'hand', null);
}

const refused = (file: string | null, found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('mosaic', { file, found, expected, remedy });

/** All are of one type. */
function alike(parts: readonly Part[]): void {
  const [first] = parts;
  if (!first || parts.length < 2)
    throw refused(null, `${parts.length} rasters`, 'two at least', 'Choose all the files that make one terrain.');
  const { info } = first.raster;
  for (const { name, raster } of parts) {
    const { bitDepth, sampleType } = raster.info;
    if (bitDepth === info.bitDepth && sampleType === info.sampleType) continue;
    throw refused(
      name,
      `samples of ${bitDepth} bits (${sampleType})`,
      `${info.bitDepth} bits (${info.sampleType}), as ${first.name} has`,
      'Export all parts alike, or leave this one out.',
    );
  }
}

/** Coordinates of rasters that all have them; longitudes go on across 180°, whichever side of it the first lies on. */
function placesOf(parts: readonly Part[]): Georeference[] {
  const places = parts.map((p) => p.raster.info.georeference!);
  const { x } = places[0]!;
  return places.map((g) => (g.degrees ? { ...g, x: g.x - 360 * Math.round((g.x - x) / 360) } : g));
}

/** By their coordinates. */
function placesOnGround(parts: readonly Part[]): PlacedPart[] {
  const places = placesOf(parts);
  const [first] = places;
  for (const [i, g] of places.entries()) {
    const near = (a: number, b: number): boolean => Math.abs(a - b) <= ALIKE * Math.abs(b);
    const { name } = parts[i]!;
    if (!near(g.dx, first!.dx) || !near(g.dy, first!.dy))
      throw refused(
        name,
        `samples ${g.dx} × ${g.dy} apart`,
        `${first!.dx} × ${first!.dy}, as ${parts[0]!.name} has`,
        'Resample the parts to one spacing before, or leave this one out.',
      );
    if (g.degrees !== first!.degrees || g.crs !== first!.crs)
      throw refused(
        name,
        `coordinates in ${g.crs ?? (g.degrees ? 'degrees' : 'an unnamed system')}`,
        `${first!.crs ?? (first!.degrees ? 'degrees' : 'an unnamed system')}, as ${parts[0]!.name} has`,
        'Reproject the parts to one system before, or leave this one out.',
      );
  }
  const west = Math.min(...places.map((g) => g.x));
  const north = Math.max(...places.map((g) => g.y));
  return places.map((g, i): PlacedPart => {
    const x = (g.x - west) / first!.dx;
    const y = (north - g.y) / first!.dy;
    const { name } = parts[i]!;
    if (Math.abs(x - Math.round(x)) > ON_GRID || Math.abs(y - Math.round(y)) > ON_GRID)
      throw refused(
        name,
        `samples that lie ${(x - Math.floor(x)).toFixed(2)} and ${(y - Math.floor(y)).toFixed(2)} of a sample off those of the others`,
        'samples on one grid',
        'Resample this part onto the grid of the others, or leave it out.',
      );
    return { name, at: [Math.round(x), Math.round(y)] };
  });
}

interface Candidate {
  readonly placed: readonly PlacedPart[];
  readonly rows: 'north' | 'south';
  readonly mismatch: number;
}

/** The numbers in the names of tiles that are all of one size. */
function numbersOf(parts: readonly Part[]): NumberedNames {
  const numbers = numbersIn(parts.map((p) => p.name));
  if (!numbers)
    throw refused(
      null,
      `${parts.length} files that neither say where they lie nor are told apart by a column and a row in their names`,
      'coordinates in all of them, or names such as fells-r02c03',
      'Rename them by column and row.',
    );
  alikeInSize(parts);
  return numbers;
}

function alikeInSize(parts: readonly Part[]): void {
  const like = parts[0]!.raster.info;
  for (const { name, raster } of parts) {
    const { width, height } = raster.info;
    if (width === like.width && height === like.height) continue;
    throw refused(
      name,
      `${width} × ${height} samples`,
      `${like.width} × ${like.height}, as ${parts[0]!.name} has`,
      'Tiles that are placed by names or by hand must be alike: export this one again, or leave it out.',
    );
  }
}

/** By the numbers in their names. */
function byNames(parts: readonly Part[], edges: readonly Edges[], numbers: NumberedNames): Arrangement {
  const orders = numbers.columnFirst === null ? [true, false] : [numbers.columnFirst];
  const candidates = orders.flatMap((columnFirst) =>
    (['north', 'south'] as const).map((rows): Candidate => {
      const grid = numbers.pairs.map(([a, b]) => (columnFirst ? { column: a, row: b } : { column: b, row: a }));
      return candidateOf(parts, edges, grid, rows);
    }),
  );
  // of several that match alike (flat ground, a single row) the first: column first, rows from the north
  const best = candidates.reduce((a, b) => (b.mismatch < a.mismatch * (1 - 1e-9) ? b : a));
  return examined(best.placed, edges, 'names', best.rows);
}

/** Lines at the east and the south that other parts cover as well, and the outermost. */
export function overlapOf(
  placed: readonly PlacedPart[],
  sizes: readonly { readonly width: number; readonly height: number }[],
): number {
  let most = 1;
  placed.forEach(({ at: [x, y] }, i) => {
    const { width, height } = sizes[i]!;
    for (const { at } of placed)
      for (const over of [at[0] > x ? x + width - at[0] : 0, at[1] > y ? y + height - at[1] : 0])
        if (over <= DEEPEST) most = Math.max(most, over);
  });
  return most;
}

/** Deeper overlaps are not compared along their outer line. */
const DEEPEST = 512;

/**
 * How two lines match, also where one side was normalised otherwise: what a factor and a shift leave of the difference,
 * where there is one that is positive.
 */
function matchOf(a: Line, b: Line): { mean: number; along: number; count: number } {
  const { mean, along, count } = agreement(a, b);
  const line = lineThrough(b, a);
  return { mean: line && line.factor > 0 ? Math.min(mean, line.residual) : mean, along, count };
}

/** Mean difference along all seams if neighbours share `overlap` lines, and whether these hold the same samples. */
function matchAt(
  pairs: readonly { readonly lines: readonly Line[]; readonly first: Line }[],
  overlap: number,
): { mismatch: number; same: boolean } {
  const seams = pairs.map(({ lines, first }) => matchOf(lines[overlap - 1]!, first));
  const count = seams.reduce((n, s) => n + s.count, 0);
  const sum = seams.reduce((n, s) => n + s.mean * s.count, 0);
  const along = seams.reduce((n, s) => n + s.along * s.count, 0);
  return { mismatch: count > 0 ? sum / count : 0, same: count > 0 && sum <= SHARED_BELOW * along };
}

/** Places for one order of names, with edges that are shared, abut or overlap, whichever matches. */
function candidateOf(
  parts: readonly Part[],
  edges: readonly Edges[],
  grid: readonly { readonly column: number; readonly row: number }[],
  rows: 'north' | 'south',
): Candidate {
  const { width, height } = edges[0]!;
  const firstColumn = Math.min(...grid.map((g) => g.column));
  const lowest = Math.min(...grid.map((g) => g.row));
  const highest = Math.max(...grid.map((g) => g.row));
  const cells = grid.map(({ column, row }) => ({
    column: column - firstColumn,
    row: rows === 'north' ? row - lowest : highest - row,
  }));
  const pairs = cells.flatMap((a, i) =>
    cells.flatMap((b, k) => {
      if (b.row === a.row && b.column === a.column + 1) return [{ lines: edges[i]!.east, first: edges[k]!.west }];
      if (b.column === a.column && b.row === a.row + 1) return [{ lines: edges[i]!.south, first: edges[k]!.north }];
      return [];
    }),
  );
  const edge = matchAt(pairs, 1);
  let { mismatch } = edge;
  let overlap = edge.same ? 1 : 0;
  // deeper only where the outermost lines are not the same
  const deepest = overlap > 0 ? 0 : Math.min(MOST_OVERLAP, width - 1, height - 1);
  for (let k = 2; k <= deepest; k++) {
    const deep = matchAt(pairs, k);
    if (!deep.same || deep.mismatch >= mismatch) continue;
    ({ mismatch } = deep);
    overlap = k;
  }
  return {
    rows,
    mismatch,
    placed: parts.map(({ name }, i) => {
      const { column, row } = cells[i]!;
      return { name, at: [column * (width - overlap), row * (height - overlap)] };
    }),
  };
}
