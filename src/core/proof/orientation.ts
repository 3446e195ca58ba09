import type { StoredRow } from './code-rows';
import type { ProofCheck } from './types';

/** Samples along the side of a sparse tile, and the last of them. */
const SIDE = 17;
const LAST = SIDE - 1;

/** A coarse sample of the codes that one file should hold and those it does, kept while rows stream by. */
export class SparseTile {
  static readonly SIDE = SIDE;
  readonly expected = new Float64Array(SparseTile.SIDE ** 2).fill(-1);
  readonly found = new Float64Array(SparseTile.SIDE ** 2).fill(-1);
  private readonly columns: number[];
  private readonly rowAt = new Map<number, number[]>();

  constructor(
    window: { readonly width: number; readonly height: number },
    /** Codes of 16 bits that 1 stored makes. */
    private readonly inCodes = 1,
  ) {
    // as far from one end as from the other, so that what is alike when mirrored is seen to be
    const near = (i: number, n: number): number => Math.round((i * (n - 1)) / LAST);
    const place = (i: number, n: number): number => (i <= LAST / 2 ? near(i, n) : n - 1 - near(LAST - i, n));
    this.columns = Array.from({ length: SparseTile.SIDE }, (_, i) => place(i, window.width));
    for (let i = 0; i < SparseTile.SIDE; i++) {
      const y = place(i, window.height);
      this.rowAt.set(y, [...(this.rowAt.get(y) ?? []), i]);
    }
  }

  /** Takes row `y` of the tile where it is one of the kept ones. `from` is the tile's first column in `expected`. */
  take(y: number, expected: StoredRow, from: number, found: StoredRow): void {
    for (const row of this.rowAt.get(y) ?? [])
      this.columns.forEach((x, i) => {
        this.expected[row * SparseTile.SIDE + i] = expected[from + x]! * this.inCodes;
        this.found[row * SparseTile.SIDE + i] = found[x]! * this.inCodes;
      });
  }
}

type Turn = (i: number, j: number) => readonly [number, number];
const STRAIGHT: Turn = (i, j) => [i, j];
const TURNS: readonly { readonly words: string; readonly turn: Turn }[] = [
  { words: 'its rows are upside down', turn: (i, j) => [i, LAST - j] },
  { words: 'it is mirrored east to west', turn: (i, j) => [LAST - i, j] },
  { words: 'it is turned by 180°', turn: (i, j) => [LAST - i, LAST - j] },
  { words: 'its axes are swapped', turn: (i, j) => [j, i] },
  { words: 'it is turned by 90°', turn: (i, j) => [j, LAST - i] },
  { words: 'it is turned by 270°', turn: (i, j) => [LAST - j, i] },
  { words: 'its axes are swapped, and it is turned by 180°', turn: (i, j) => [LAST - j, LAST - i] },
];

/** Mean difference in codes between what is shown, read in some way, and what is expected. */
function mismatch(shown: Float64Array, expected: Float64Array, turn: Turn, swap = false): number {
  let sum = 0;
  for (let j = 0; j < SparseTile.SIDE; j++)
    for (let i = 0; i < SparseTile.SIDE; i++) {
      const [x, y] = turn(i, j);
      const code = shown[y * SparseTile.SIDE + x]!;
      const read = swap ? ((code & 255) << 8) | (code >> 8) : code;
      sum += Math.abs(read - expected[j * SparseTile.SIDE + i]!);
    }
  return sum / SparseTile.SIDE ** 2;
}

/** Another reading explains a file where it fits so many times better than the straight one. */
const FAR_BETTER = 10;

/** Another reading can be told from the straight one where it would be off by so many codes on average. */
const TELLS = 4;

/**
 * Names what happened to a file that does not hold its codes: the ground of another tile, turned, mirrored, or read
 * with the wrong byte order. Null where no such reading fits far better than the straight one.
 */
export function explainTile(index: number, tiles: readonly SparseTile[], names: readonly string[]): string | null {
  const tile = tiles[index];
  if (!tile) return null;
  let best = mismatch(tile.found, tile.expected, STRAIGHT) / FAR_BETTER;
  let words: string | null = null;
  const offer = (score: number, said: string): void => {
    if (score < best) {
      best = score;
      words = said;
    }
  };
  for (const { words: said, turn } of TURNS) offer(mismatch(tile.found, tile.expected, turn), said);
  offer(mismatch(tile.found, tile.expected, STRAIGHT, true), 'its byte order is wrong');
  tiles.forEach((other, i) => {
    if (i !== index)
      offer(mismatch(tile.found, other.expected, STRAIGHT), `it holds the ground of ${names[i] ?? 'another tile'}`);
  });
  return words;
}

/** Files whose own codes would look the same turned, mirrored, or in the place of another. */
export function undecided(
  tiles: readonly SparseTile[],
  names: readonly string[],
): { turned: string[]; exchanged: string[] } {
  const turned = names.filter((_, i) => {
    const { expected } = tiles[i]!;
    return TURNS.some(({ turn }) => mismatch(expected, expected, turn) < TELLS);
  });
  // only tiles of about the same mean can hold the same ground
  const byMean = tiles
    .map(({ expected }, i) => ({ i, mean: expected.reduce((a, b) => a + b, 0) / expected.length }))
    .sort((a, b) => a.mean - b.mean);
  const exchanged = new Set<string>();
  byMean.forEach((a, n) => {
    for (let k = n + 1; k < byMean.length && byMean[k]!.mean - a.mean < TELLS; k++) {
      const b = byMean[k]!;
      if (mismatch(tiles[a.i]!.expected, tiles[b.i]!.expected, STRAIGHT) < TELLS) {
        exchanged.add(names[a.i]!);
        exchanged.add(names[b.i]!);
        break;
      }
    }
  });
  return { turned, exchanged: [...exchanged] };
}

const list = (names: readonly string[]): string =>
  names.length > 4 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');

/** What can be said of the orientation: only what was found. `differing`: files that do not hold their codes. */
export function orientationChecks(
  tiles: readonly SparseTile[],
  names: readonly string[],
  differing: readonly number[],
): ProofCheck[] {
  const faults = differing.flatMap((i): ProofCheck[] => {
    const why = explainTile(i, tiles, names);
    return why
      ? [
          {
            id: 'orientation',
            step: 'split',
            state: 'fault',
            message: `${names[i]!} does not lie where it should: ${why}.`,
          },
        ]
      : [];
  });
  // a file that holds none of its codes says nothing about the others
  if (faults.length > 0 || differing.length > 0) return faults;
  const { turned, exchanged } = undecided(tiles, names);
  if (turned.length === 0 && exchanged.length === 0)
    return [
      {
        id: 'orientation',
        step: 'split',
        state: 'holds',
        message:
          names.length === 1
            ? 'The file is not turned or mirrored: in any other way it would show other heights.'
            : 'No file is turned, mirrored or exchanged: in any other way it would show other heights.',
      },
    ];
  const open = [
    ...(turned.length > 0 ? [`whether ${list(turned)} ${turned.length === 1 ? 'is' : 'are'} turned or mirrored`] : []),
    ...(exchanged.length > 0 ? [`whether ${list(exchanged)} are exchanged`] : []),
  ].join(', and ');
  return [
    {
      id: 'orientation',
      step: 'split',
      state: 'note',
      message: `The heights can’t tell ${open}: they would look the same (even or clipped ground).`,
    },
  ];
}
