import type { Window } from '../tiles';

/** A coarse sample of what one file should show and what it does, kept while rows stream by. */
export class SparseTile {
  static readonly SIDE = 17;
  readonly truth = new Float64Array(SparseTile.SIDE ** 2).fill(NaN);
  readonly codes = new Int32Array(SparseTile.SIDE ** 2).fill(-1);
  private readonly columns: number[];
  private readonly rowAt = new Map<number, number>();

  constructor(readonly window: Window) {
    const place = (i: number, n: number): number => Math.round((i * (n - 1)) / (SparseTile.SIDE - 1));
    this.columns = Array.from({ length: SparseTile.SIDE }, (_, i) => place(i, window.width));
    for (let i = 0; i < SparseTile.SIDE; i++) this.rowAt.set(place(i, window.height), i);
  }

  /** Takes row `y` of the tile where it is one of the kept ones. `at` is the tile's first column in `truth`. */
  take(y: number, truth: Float32Array, at: number, codes: Uint16Array, unit: number, shift: number): void {
    const row = this.rowAt.get(y);
    if (row === undefined) return;
    this.columns.forEach((x, i) => {
      this.truth[row * SparseTile.SIDE + i] = truth[at + x]! * unit + shift;
      this.codes[row * SparseTile.SIDE + i] = codes[x]!;
    });
  }
}

type Turn = (i: number, j: number) => [number, number];
const LAST = SparseTile.SIDE - 1;
const TURNS: readonly { readonly words: string; readonly turn: Turn }[] = [
  { words: 'its rows are upside down', turn: (i, j) => [i, LAST - j] },
  { words: 'it is mirrored east to west', turn: (i, j) => [LAST - i, j] },
  { words: 'it is turned by 180°', turn: (i, j) => [LAST - i, LAST - j] },
  { words: 'its axes are swapped', turn: (i, j) => [j, i] },
  { words: 'it is turned by 90°', turn: (i, j) => [j, LAST - i] },
  { words: 'it is turned by 270°', turn: (i, j) => [LAST - j, i] },
];

function mismatch(
  shown: SparseTile,
  truth: SparseTile,
  heightOf: (code: number) => number,
  turn: Turn,
  swap: boolean,
): number {
  let sum = 0;
  let count = 0;
  for (let j = 0; j < SparseTile.SIDE; j++) {
    for (let i = 0; i < SparseTile.SIDE; i++) {
      const [x, y] = turn(i, j);
      const code = shown.codes[y * SparseTile.SIDE + x]!;
      const expected = truth.truth[j * SparseTile.SIDE + i]!;
      if (code < 0 || Number.isNaN(expected)) continue;
      const read = swap ? ((code & 255) << 8) | (code >> 8) : code;
      sum += Math.abs(heightOf(read) - expected);
      count++;
    }
  }
  return count > 0 ? sum / count : Infinity;
}

const STRAIGHT: Turn = (i, j) => [i, j];

/**
 * Names what happened to a file that does not show its ground: the ground of another tile, turned, mirrored, or read
 * with the wrong byte order. Null where no such reading fits far better than the straight one.
 */
export function explainTile(
  index: number,
  tiles: readonly SparseTile[],
  names: readonly string[],
  heightOf: (code: number) => number,
): string | null {
  const tile = tiles[index];
  if (!tile) return null;
  const straight = mismatch(tile, tile, heightOf, STRAIGHT, false);
  let best = straight / 10;
  let words: string | null = null;
  const offer = (score: number, said: string): void => {
    if (score < best) {
      best = score;
      words = said;
    }
  };
  for (const { words: said, turn } of TURNS) offer(mismatch(tile, tile, heightOf, turn, false), said);
  offer(mismatch(tile, tile, heightOf, STRAIGHT, true), 'its byte order is wrong');
  tiles.forEach((other, i) => {
    if (i !== index)
      offer(mismatch(tile, other, heightOf, STRAIGHT, false), `it holds the ground of ${names[i] ?? 'another tile'}`);
  });
  return words;
}
