import type { StoredRow } from './code-rows';
import { roomFor, sequence, type Place, type Stored } from './twin';

/** Places of a row or a column among which the one that tells most is taken. */
const CANDIDATES = 8;

/** A code that a file holds at a vertex of the whole. */
export interface FoundCode {
  readonly file: string;
  readonly code: number;
}

interface Told {
  readonly place: Place;
  readonly code: FoundCode;
  readonly by: number;
}

/** Places at the borders of voids. */
const AT_VOIDS = 2000;

/**
 * One place in each row and in each column of the whole where neighbours differ, as far as a few looked at show it: on
 * even ground a row that was taken from the one beside it could not be told from its own. Some more at the borders of
 * voids, of long ones more than of short ones.
 */
export class TellingPlaces {
  private readonly rowsOf = new Map<number, number[]>();
  private readonly above: StoredRow;
  private row = -1;
  private readonly atVoids: Pick<Told, 'place' | 'code'>[] = [];
  private borders = 0;
  private readonly byRow: (Told | null)[];
  private readonly byColumn: (Told | null)[];
  private readonly random: () => number;

  constructor(
    { width, height }: { readonly width: number; readonly height: number },
    stored: Pick<Stored, 'type'>,
    seed: number,
    /** The code that voids are written as; null where they have none. */
    private readonly voidCode: number | null = null,
  ) {
    this.random = sequence(seed);
    this.above = roomFor(stored, width);
    this.byRow = new Array<Told | null>(height).fill(null);
    this.byColumn = new Array<Told | null>(width).fill(null);
    for (let x = 0; x < width; x++)
      for (let k = 0; k < CANDIDATES; k++) {
        const y = this.below(height);
        const list = this.rowsOf.get(y);
        if (list) list.push(x);
        else this.rowsOf.set(y, [x]);
      }
  }

  private below = (n: number): number => Math.min(n - 1, Math.floor(this.random() * n));

  /** Codes of row `y` from column `from` on: rows in order, each in as many parts as there are tiles side by side. */
  take(file: string, codes: StoredRow, from: number, y: number): void {
    const { above } = this;
    const to = from + codes.length;
    const known = this.row >= y - 1;
    const differs = (x: number): number => {
      const code = codes[x - from]!;
      const before = x > from ? Math.abs(code - codes[x - from - 1]!) : Infinity;
      const after = x + 1 < to ? Math.abs(code - codes[x - from + 1]!) : Infinity;
      const least = Math.min(before, after);
      return least === Infinity ? 0 : least;
    };
    const told = (x: number, by: number): Told => ({ place: { x, y }, code: { file, code: codes[x - from]! }, by });
    for (let k = 0; k < CANDIDATES; k++) {
      const x = from + this.below(codes.length);
      const down = known ? Math.abs(codes[x - from]! - above[x]!) : 0;
      better(this.byRow, y, told(x, down + differs(x) / 2));
    }
    for (const x of this.rowsOf.get(y) ?? []) if (x >= from && x < to) better(this.byColumn, x, told(x, differs(x)));
    if (this.voidCode !== null) this.takeBorders(file, codes, from, y, this.voidCode);
    above.set(codes, from);
    this.row = y;
  }

  /** Where ground ends, along a row and downwards: of all such places so many are kept, each as likely as any. */
  private takeBorders(file: string, codes: StoredRow, from: number, y: number, ofVoids: number): void {
    const { above, atVoids } = this;
    for (let i = 0; i < codes.length; i++) {
      const isVoid = codes[i] === ofVoids;
      const ends =
        (i > 0 && (codes[i - 1] === ofVoids) !== isVoid) || (y > 0 && (above[from + i] === ofVoids) !== isVoid);
      if (!ends) continue;
      this.borders++;
      const found = { place: { x: from + i, y }, code: { file, code: codes[i]! } };
      if (atVoids.length < AT_VOIDS) atVoids.push(found);
      else {
        const at = this.below(this.borders);
        if (at < AT_VOIDS) atVoids[at] = found;
      }
    }
  }

  result = (): Pick<Told, 'place' | 'code'>[] => [
    ...[...this.byRow, ...this.byColumn].filter((t) => t !== null),
    ...this.atVoids,
  ];
}

function better(list: (Told | null)[], at: number, told: Told): void {
  const before = list[at];
  if (!before || told.by > before.by) list[at] = told;
}
