import { LevelGridError } from '../base';
import { uncovered } from './cover';
import { agreement, lineThrough, scaledEdges, type Edges, type Line } from './edges';
import type { Arrangement, PlacedPart, SeamFigures } from './types';

/** Seams that differ by so many times what neighbours differ by don't match. */
const UNLIKE = 3;
/** Less than this share of the variance left: a factor and a shift explain the difference. */
const EXPLAINED = 0.01;

/** A seam between two placed parts: the lines of samples on both sides, as far as they lie side by side. */
interface Seam {
  readonly a: number;
  readonly b: number;
  readonly lineA: Line;
  readonly lineB: Line;
  /** Lines that both parts hold. */
  readonly overlap: number;
}

/** Of parts that lie so: their seams, what no part covers, and what should be doubted. Throws `mosaic` for two in one place. */
export function examined(
  placed: readonly PlacedPart[],
  stored: readonly Edges[],
  by: Arrangement['by'],
  rows: Arrangement['rows'],
): Arrangement {
  const edges = stored.map((e, i) => scaledEdges(e, placed[i]!.factor ?? 1, placed[i]!.shift ?? 0));
  const width = Math.max(...placed.map((p, i) => p.at[0] + edges[i]!.width));
  const height = Math.max(...placed.map((p, i) => p.at[1] + edges[i]!.height));
  onePlaceEach(placed);
  const seams = seamsOf(placed, edges);
  const overlap = Math.max(0, ...seams.map((s) => s.overlap));
  const fitted = placed.some((p) => p.factor !== undefined || p.shift !== undefined);
  return {
    width,
    height,
    parts: placed,
    by,
    edges: overlap > 1 ? 'overlapping' : seams.length > 0 && overlap === 0 ? 'abutting' : 'shared',
    rows,
    seams: figuresOf(seams),
    between: seams.map(({ a, b, lineA, lineB }) => ({
      parts: [placed[a]!.name, placed[b]!.name],
      largest: agreement(lineA, lineB).largest,
    })),
    uncovered: uncovered(
      placed.map(({ at: [x, y] }, i) => ({ x, y, width: edges[i]!.width, height: edges[i]!.height })),
      width,
      height,
    ),
    missing: missingCells(placed),
    swapped: swappedIn(placed, edges),
    normalised: fitted ? null : normalisedIn(placed, seams),
  };
}

function onePlaceEach(placed: readonly PlacedPart[]): void {
  const places = new Map<string, string>();
  for (const { name, at } of placed) {
    const taken = places.get(at.join());
    if (taken !== undefined)
      throw new LevelGridError('mosaic', {
        file: name,
        found: `the place of ${taken}`,
        expected: 'a place of its own',
        remedy: 'Leave one of the two out.',
      });
    places.set(at.join(), name);
  }
}

/** Columns from the west and rows from the north, from 0, where the grid of the parts has none. */
function missingCells(placed: readonly PlacedPart[]): { column: number; row: number }[] {
  const cells = ([0, 1] as const).map((axis) => {
    const places = [...new Set(placed.map((p) => p.at[axis]))].sort((a, b) => a - b);
    const step = Math.min(...places.slice(1).map((p, i) => p - places[i]!));
    // a column that is missing as a whole leaves a gap of so many steps
    const regular = places.every((p) => (p - places[0]!) % step === 0);
    return (at: number): number => (places.length < 2 ? 0 : regular ? (at - places[0]!) / step : places.indexOf(at));
  });
  const at = placed.map((p) => ({ column: cells[0]!(p.at[0]), row: cells[1]!(p.at[1]) }));
  const taken = new Set(at.map(({ column, row }) => `${column} ${row}`));
  const [across, down] = [1 + Math.max(...at.map((c) => c.column)), 1 + Math.max(...at.map((c) => c.row))];
  if (across * down > MOST_CELLS) return [];
  return Array.from({ length: across * down }, (_, i) => ({ column: i % across, row: Math.floor(i / across) })).filter(
    ({ column, row }) => !taken.has(`${column} ${row}`),
  );
}

/** A grid of more cells than this was misunderstood: parts that lie anyhow make none. */
const MOST_CELLS = 65536;

/** Part of a line. */
/** A part of a line; of long ones it is no copy. */
const cut = (line: Line, from: number, to: number): Line =>
  line instanceof Float64Array ? line.subarray(from, to) : Array.prototype.slice.call(line, from, to);

function seamsOf(placed: readonly PlacedPart[], edges: readonly Edges[]): Seam[] {
  const out: Seam[] = [];
  /** A seam along one axis: `start` and `reach` of both along the seam, `overlap` across it. */
  const add = (
    a: number,
    b: number,
    overlap: number,
    lines: readonly Line[],
    first: Line,
    starts: readonly [number, number],
    reaches: readonly [number, number],
  ): void => {
    const lineA = lines[Math.max(0, overlap - 1)];
    const from = Math.max(...starts);
    const to = Math.min(starts[0] + reaches[0], starts[1] + reaches[1]);
    // corners that touch are no seam, nor are those that overlap
    if (overlap < 0 || !lineA || to - from <= Math.max(1, overlap)) return;
    const [s, t] = starts;
    out.push({ a, b, lineA: cut(lineA, from - s, to - s), lineB: cut(first, from - t, to - t), overlap });
  };
  placed.forEach(({ at: [ax, ay] }, a) => {
    placed.forEach(({ at: [bx, by] }, b) => {
      const [one, other] = [edges[a]!, edges[b]!];
      if (bx > ax) add(a, b, ax + one.width - bx, one.east, other.west, [ay, by], [one.height, other.height]);
      if (by > ay) add(a, b, ay + one.height - by, one.south, other.north, [ax, bx], [one.width, other.width]);
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
