import type { ExpectedGrid } from './layout';

/** A vertex of the whole, counted from the north-west. */
export interface Place {
  readonly x: number;
  readonly y: number;
}

/** A rectangle of samples: column and row of its north-western one. */
export interface Outline {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Vertices that are worked out at the least, where the grid has so many. */
export const LEAST_PLACES = 1200;
const ALONG_BORDERS = 24;
const ALONG_SEAMS = 6;
/** Places of a proof in all; of very long sides not every row can hold one then, which is said. */
export const MOST_PLACES = 20_000;

const MOST_ACROSS = 17_000;
/** Of a grid of so few vertices all are worked out. */
const ALL_PLACES = 16_384;

/** A sequence of numbers in 0..1 that is the same every time (mulberry32, public domain). */
export function sequence(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A number that the content of a pack decides, so that no two packs are looked at in the same places. */
export function seedOf(texts: readonly string[]): number {
  // FNV-1a
  let hash = 0x811c9dc5;
  for (const text of texts)
    for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return hash >>> 0;
}

/** The numbers below `n` in an order of their own (R. Durstenfeld, 1964). */
export function shuffled(n: number, random: () => number): Int32Array {
  const out = Int32Array.from({ length: n }, (_, i) => i);
  for (let i = n - 1; i > 0; i--) {
    const k = Math.floor(random() * (i + 1));
    [out[i], out[k]] = [out[k]!, out[i]!];
  }
  return out;
}

/**
 * Places of which each row and each column holds one at least: as many as the longer side has, or `most` of them evenly
 * along it.
 */
export function acrossAll(width: number, height: number, seed: number, most = MOST_PLACES): Place[] {
  const random = sequence(seed);
  const long = Math.max(width, height);
  const count = Math.min(long, most);
  const columns = shuffled(width, random);
  const rows = shuffled(height, random);
  const at = (order: Int32Array, i: number): number => {
    const n = order.length;
    // the longer side once, the shorter one round and round; of a side that is too long its even parts
    return count < n ? Math.floor((i * n) / count) : order[i % n]!;
  };
  const evenly = shuffled(count, random);
  return Array.from({ length: count }, (_, i) =>
    width >= height
      ? { x: at(columns, i), y: count < height ? at(rows, evenly[i]!) : at(rows, i) }
      : { x: count < width ? at(columns, evenly[i]!) : at(columns, i), y: at(rows, i) },
  );
}

/**
 * Where the ground is worked out a second time: given spots, the corners of the whole and of each tile, both sides of
 * every seam, the borders and what lies beside them, both sides of the source's own edge where there is a rim, and of the `outlines` of the files that it consists of; one place
 * at least in each row and each column of the whole, and of the source's part of it; the rest anywhere. Of a small grid
 * all vertices. What comes first counts most, where not all can be worked out.
 */
export function placesOf(
  grid: ExpectedGrid,
  source: { readonly width: number; readonly height: number },
  spots: readonly Place[],
  seed = 0x5eed,
  outlines: readonly Outline[] = [],
): Place[] {
  const { width, height } = grid;
  const found = new Map<number, Place>();
  const take = (x: number, y: number): void => {
    if (x >= 0 && y >= 0 && x < width && y < height && Number.isInteger(x) && Number.isInteger(y))
      found.set(y * width + x, { x, y });
  };
  for (const { x, y } of spots) take(x, y);
  for (const { x, y } of acrossAll(width, height, seed, MOST_ACROSS)) take(x, y);
  if (width * height <= ALL_PLACES) {
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) take(x, y);
    return [...found.values()];
  }
  const random = sequence(seed);
  const anywhere = (n: number): number => Math.floor(random() * n);
  for (const t of grid.tiles)
    for (const x of [t.x, t.x + t.width - 1]) for (const y of [t.y, t.y + t.height - 1]) take(x, y);
  const [west, north] = [Math.max(0, -grid.startX), Math.max(0, -grid.startY)];
  const [east, south] = [Math.min(width, source.width - grid.startX), Math.min(height, source.height - grid.startY)];
  if (!grid.stretched && east > west && south > north)
    for (const { x, y } of acrossAll(east - west, south - north, seed + 1, MOST_PLACES / 4)) take(west + x, north + y);
  const along = found.size > MOST_PLACES / 2 ? 1 : ALONG_SEAMS;
  for (const t of grid.tiles) {
    for (let i = 0; i < along; i++) {
      for (const x of [t.x - 1, t.x, t.x + 1, t.x + t.width - 2, t.x + t.width - 1, t.x + t.width])
        take(x, t.y + anywhere(t.height));
      for (const y of [t.y - 1, t.y, t.y + 1, t.y + t.height - 2, t.y + t.height - 1, t.y + t.height])
        take(t.x + anywhere(t.width), y);
    }
    if (found.size > MOST_PLACES) break;
  }
  for (let i = 0; i < ALONG_BORDERS; i++) {
    for (const x of [0, 1, 2, width - 3, width - 2, width - 1]) take(x, anywhere(height));
    for (const y of [0, 1, 2, height - 3, height - 2, height - 1]) take(anywhere(width), y);
    // where the source ends within the grid
    for (const edge of [-grid.startX, source.width - grid.startX]) {
      take(edge - 1, anywhere(height));
      take(edge, anywhere(height));
    }
    for (const edge of [-grid.startY, source.height - grid.startY]) {
      take(anywhere(width), edge - 1);
      take(anywhere(width), edge);
    }
  }
  for (const { x, y } of alongOutlines(outlines, grid, source, anywhere)) take(x, y);
  const least = found.size + LEAST_PLACES / 2;
  for (let i = 0; i < 20 * LEAST_PLACES && (found.size < LEAST_PLACES || found.size < least); i++)
    take(anywhere(width), anywhere(height));
  return [...found.values()];
}

/** Places on both sides of each line where one file of the source ends, that many in all at most. */
const MOST_AT_FILES = 3000;

/** The vertices next to the borders of files: before, on and behind each. */
function* alongOutlines(
  outlines: readonly Outline[],
  grid: ExpectedGrid,
  source: { readonly width: number; readonly height: number },
  anywhere: (n: number) => number,
): Generator<Place> {
  if (outlines.length < 2) return;
  const { width, height, startX, startY, stretched } = grid;
  const across = (x: number): number => (stretched ? (x * (width - 1)) / (source.width - 1) : x - startX);
  const down = (y: number): number => (stretched ? (y * (height - 1)) / (source.height - 1) : y - startY);
  const each = Math.max(1, Math.min(ALONG_BORDERS, Math.floor(MOST_AT_FILES / (outlines.length * 12))));
  const between = (from: number, to: number): number => Math.floor(from) + anywhere(Math.max(1, Math.ceil(to - from)));
  for (const o of outlines)
    for (let i = 0; i < each; i++) {
      for (const x of [o.x - 0.5, o.x + o.width - 0.5])
        for (const beside of [-1, 0, 1])
          yield { x: Math.round(across(x)) + beside, y: between(down(o.y), down(o.y + o.height)) };
      for (const y of [o.y - 0.5, o.y + o.height - 0.5])
        for (const beside of [-1, 0, 1])
          yield { x: between(across(o.x), across(o.x + o.width)), y: Math.round(down(y)) + beside };
    }
}
