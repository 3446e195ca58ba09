import type { ExpectedGrid } from './layout';

/** A vertex of the whole, counted from the north-west. */
export interface Place {
  readonly x: number;
  readonly y: number;
}

/** Vertices that are worked out at the least, where the grid has so many. */
export const LEAST_PLACES = 1200;
const ALONG_BORDERS = 24;
const ALONG_SEAMS = 6;
/** With thousands of tiles the corners of every one are still taken, but fewer places along their seams. */
const MOST_PLACES = 60_000;

/** A sequence of numbers in 0..1 that is the same every time (mulberry32, public domain). */
function sequence(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/**
 * Where the ground is worked out a second time: given spots, the corners of the whole and of each tile, both sides of
 * every seam, the borders and what lies beside them, both sides of the source's own edge where there is a rim; the rest
 * by a fixed seed. Of a small grid all vertices.
 */
export function placesOf(
  grid: ExpectedGrid,
  source: { readonly width: number; readonly height: number },
  spots: readonly Place[],
): Place[] {
  const { width, height } = grid;
  const found = new Map<number, Place>();
  const take = (x: number, y: number): void => {
    if (x >= 0 && y >= 0 && x < width && y < height && Number.isInteger(x) && Number.isInteger(y))
      found.set(y * width + x, { x, y });
  };
  if (width * height <= LEAST_PLACES * 2) {
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) take(x, y);
    return [...found.values()];
  }
  const random = sequence(0x5eed);
  const anywhere = (n: number): number => Math.floor(random() * n);
  for (const { x, y } of spots) take(x, y);
  for (const t of grid.tiles)
    for (const x of [t.x, t.x + t.width - 1]) for (const y of [t.y, t.y + t.height - 1]) take(x, y);
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
  const least = found.size + LEAST_PLACES / 2;
  for (let i = 0; i < 20 * LEAST_PLACES && (found.size < LEAST_PLACES || found.size < least); i++)
    take(anywhere(width), anywhere(height));
  return [...found.values()];
}
