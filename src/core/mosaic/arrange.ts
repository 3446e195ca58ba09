import { checkpoint, LevelGridError, type JobContext } from '../base';
import { uncovered } from './cover';
import { agreement, lineThrough, readEdges, type Edges } from './edges';
import { numbersIn, type NumberedNames } from './names';
import type { Arrangement, Part, PlacedPart, SeamFigures } from './types';

/** Steps that differ by less than this share are alike. */
const ALIKE = 1e-6;
/** A sample lies this near to the grid of the others, in samples. */
const ON_GRID = 0.05;
/** Lines that differ by less than this share of what neighbours differ by hold the same samples. */
const SHARED_BELOW = 0.25;
/** Seams that differ by so many times what neighbours differ by don't match. */
const UNLIKE = 3;
/** Less than this share of the variance left: a factor and a shift explain the difference. */
const EXPLAINED = 0.01;

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
  const edges: Edges[] = [];
  for (const [i, part] of parts.entries()) {
    checkpoint(job);
    edges.push(await readEdges(part));
    job?.report?.(i + 1, parts.length);
  }
  return placed ? finished(placed, edges, 'ground', null) : byNames(parts, edges, numbers!);
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

/** By their coordinates. */
function placesOnGround(parts: readonly Part[]): PlacedPart[] {
  const places = parts.map((p) => p.raster.info.georeference!);
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
  const like = parts[0]!.raster.info;
  for (const { name, raster } of parts) {
    const { width, height } = raster.info;
    if (width === like.width && height === like.height) continue;
    throw refused(
      name,
      `${width} × ${height} samples`,
      `${like.width} × ${like.height}, as ${parts[0]!.name} has`,
      'Tiles that are placed by their names must be alike: export this one again, or leave it out.',
    );
  }
  return numbers;
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
  return finished(best.placed, edges, 'names', best.rows);
}

/**
 * How two lines match, also where one side was normalised otherwise: what a factor and a shift leave of the difference,
 * where there is one that is positive.
 */
function matchOf(a: Float64Array, b: Float64Array): { mean: number; along: number; count: number } {
  const { mean, along, count } = agreement(a, b);
  const line = lineThrough(b, a);
  return { mean: line && line.factor > 0 ? Math.min(mean, line.residual) : mean, along, count };
}

/** Places for one order of names, with shared or abutting edges, whichever matches. */
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
  const seams = cells.flatMap((a, i) =>
    cells.flatMap((b, k) => {
      if (b.row === a.row && b.column === a.column + 1) return [matchOf(edges[i]!.east, edges[k]!.west)];
      if (b.column === a.column && b.row === a.row + 1) return [matchOf(edges[i]!.south, edges[k]!.north)];
      return [];
    }),
  );
  const count = seams.reduce((n, s) => n + s.count, 0);
  const sum = seams.reduce((n, s) => n + s.mean * s.count, 0);
  const along = seams.reduce((n, s) => n + s.along * s.count, 0);
  const overlap = count > 0 && sum <= SHARED_BELOW * along ? 1 : 0;
  return {
    rows,
    mismatch: count > 0 ? sum / count : 0,
    placed: parts.map(({ name }, i) => {
      const { column, row } = cells[i]!;
      return { name, at: [column * (width - overlap), row * (height - overlap)] };
    }),
  };
}

/** A seam between two placed parts: the lines of samples on both sides, as far as they lie side by side. */
interface Seam {
  readonly a: number;
  readonly b: number;
  readonly lineA: Float64Array;
  readonly lineB: Float64Array;
  readonly shared: boolean;
}

function seamsOf(placed: readonly PlacedPart[], edges: readonly Edges[]): Seam[] {
  const out: Seam[] = [];
  placed.forEach(({ at: [ax, ay] }, a) => {
    placed.forEach(({ at: [bx, by] }, b) => {
      const [one, other] = [edges[a]!, edges[b]!];
      const eastGap = bx - (ax + one.width - 1);
      const southGap = by - (ay + one.height - 1);
      if (eastGap === 0 || eastGap === 1) {
        const from = Math.max(ay, by);
        const to = Math.min(ay + one.height, by + other.height);
        if (to - from > 1)
          out.push({
            a,
            b,
            lineA: one.east.subarray(from - ay, to - ay),
            lineB: other.west.subarray(from - by, to - by),
            shared: eastGap === 0,
          });
      }
      if (southGap === 0 || southGap === 1) {
        const from = Math.max(ax, bx);
        const to = Math.min(ax + one.width, bx + other.width);
        if (to - from > 1)
          out.push({
            a,
            b,
            lineA: one.south.subarray(from - ax, to - ax),
            lineB: other.north.subarray(from - bx, to - bx),
            shared: southGap === 0,
          });
      }
    });
  });
  return out;
}

function figuresOf(seams: readonly Seam[]): SeamFigures {
  const all = seams.map((s) => agreement(s.lineA, s.lineB));
  const count = all.reduce((n, s) => n + s.count, 0);
  return {
    seams: all.filter((s) => s.count > 0).length,
    largest: Math.max(0, ...all.map((s) => s.largest)),
    mean: count > 0 ? all.reduce((n, s) => n + s.mean * s.count, 0) / count : 0,
    usual: count > 0 ? all.reduce((n, s) => n + s.along * s.count, 0) / count : 0,
  };
}

function finished(
  placed: readonly PlacedPart[],
  edges: readonly Edges[],
  by: Arrangement['by'],
  rows: Arrangement['rows'],
): Arrangement {
  const width = Math.max(...placed.map((p, i) => p.at[0] + edges[i]!.width));
  const height = Math.max(...placed.map((p, i) => p.at[1] + edges[i]!.height));
  const places = new Map<string, string>();
  for (const { name, at } of placed) {
    const taken = places.get(at.join());
    if (taken !== undefined)
      throw refused(name, `the place of ${taken}`, 'a place of its own', 'Leave one of the two out.');
    places.set(at.join(), name);
  }
  const seams = seamsOf(placed, edges);
  return {
    width,
    height,
    parts: placed,
    by,
    edges: seams.length === 0 || seams.some((s) => s.shared) ? 'shared' : 'abutting',
    rows,
    seams: figuresOf(seams),
    uncovered: uncovered(
      placed.map(({ at: [x, y] }, i) => ({ x, y, width: edges[i]!.width, height: edges[i]!.height })),
      width,
      height,
    ),
    swapped: swappedIn(placed, edges),
    normalised: normalisedIn(placed, seams),
  };
}

/** Two parts that match their neighbours only when they change places. */
function swappedIn(placed: readonly PlacedPart[], edges: readonly Edges[]): readonly [string, string] | null {
  const seams = seamsOf(placed, edges);
  const of = (part: number, all: readonly Seam[]): { mean: number; usual: number } => {
    const own = all.filter((s) => s.a === part || s.b === part);
    const { mean, usual } = figuresOf(own);
    return { mean, usual };
  };
  const bad = placed
    .map((_, i) => i)
    .filter((i) => {
      const { mean, usual } = of(i, seams);
      return mean > UNLIKE * usual;
    });
  for (const [n, i] of bad.entries())
    for (const k of bad.slice(n + 1)) {
      const changed = [...placed];
      changed[i] = { ...placed[i]!, at: placed[k]!.at };
      changed[k] = { ...placed[k]!, at: placed[i]!.at };
      const after = seamsOf(changed, edges);
      if ([i, k].every((p) => of(p, after).mean <= UNLIKE * of(p, after).usual))
        return [placed[i]!.name, placed[k]!.name];
    }
  return null;
}

/**
 * Factors and shifts that make all parts fit the first one, where each was normalised by itself: their seams are the
 * same lines but for that. Null where they fit as they are, or no factor helps.
 */
function normalisedIn(placed: readonly PlacedPart[], seams: readonly Seam[]): readonly PlacedPart[] | null {
  const { mean, usual } = figuresOf(seams);
  if (mean <= usual || seams.length === 0) return null;
  const lines = seams.map((s) => ({ ...s, line: lineThrough(s.lineB, s.lineA) }));
  // a seam over flat ground says nothing of a factor
  const clear = lines.filter((s) => s.line !== null);
  if (clear.length === 0 || clear.some((s) => s.line!.left > EXPLAINED || !(s.line!.factor > 0))) return null;
  const found = new Map<number, { factor: number; shift: number }>([[0, { factor: 1, shift: 0 }]]);
  // from part to part, the clearest seams first
  const open = [...clear].sort((a, b) => a.line!.left - b.line!.left);
  for (let more = true; more;) {
    more = false;
    for (const { a, b, line } of open) {
      const { factor: f, shift: s } = line!;
      const [from, to] = [found.get(a), found.get(b)];
      // a = f · b + s in the units of a
      if (from && !to) found.set(b, { factor: from.factor * f, shift: from.factor * s + from.shift });
      else if (to && !from) found.set(a, { factor: to.factor / f, shift: to.shift - (to.factor * s) / f });
      else continue;
      more = true;
    }
  }
  if (found.size < placed.length) return null;
  return placed.map((p, i) => ({ ...p, ...found.get(i)! }));
}
