import type { JobContext } from '../../../base';
import type { StepOf } from '../../../recipe';
import { assembled, type Added } from '../samples';
import { onFiles, type Piece, type TwinOperation } from './operation';

type Blended = Piece;

/** Seams of several files blended a second time. */
export const blend: TwinOperation<StepOf<'blend'>> = async (before, { reach }, { job }) => {
  const { pieces } = before.laid?.files ?? before;
  if (!pieces) throw new Error('seams are blended after samples were mixed');
  const added = await blendOf(pieces, reach, job);
  return { stage: onFiles(before, (files) => ({ ...files, pieces: null, samples: assembled(pieces, added) })) };
};

/** Samples at most two lines away from a border, by column and row. */
class Rim {
  private readonly values = new Map<number, number>();

  constructor(private readonly piece: Blended) {}

  async fill(job: JobContext): Promise<void> {
    const { width, height, factor, shift } = this.piece;
    for await (const { y, rows, data } of this.piece.read.bands(job))
      for (let r = 0; r < rows; r++)
        for (let column = 0; column < width; column++) {
          const row = y + r;
          const near = row < 2 || row >= height - 2 || column < 2 || column >= width - 2;
          if (near) this.values.set(row * width + column, factor * Number(data[r * width + column]) + shift);
        }
  }

  at(column: number, row: number): number {
    const { width, height } = this.piece;
    const [c, r] = [Math.max(0, Math.min(width - 1, column)), Math.max(0, Math.min(height - 1, row))];
    return this.values.get(r * width + c) ?? NaN;
  }
}

/** By how much a stretch of places is shared. */
const common = (a: number, aLength: number, b: number, bLength: number): number =>
  Math.min(a + aLength, b + bLength) - Math.max(a, b);

/**
 * Steps between neighbours, halved on either side and let out over `reach` samples, written as one function of the
 * place: east and west first, then north and south of what that gives.
 */
async function blendOf(pieces: readonly Blended[], reach: number, job: JobContext): Promise<Added> {
  const rims = new Map<Blended, Rim>();
  for (const piece of pieces) {
    const rim = new Rim(piece);
    await rim.fill(job);
    rims.set(piece, rim);
  }
  const fade = (away: number): number => (away < reach ? 1 - away / reach : 0);
  const meets = (end: number, start: number): 0 | 1 | null => (end === start ? 0 : end - 1 === start ? 1 : null);
  /** Half of the step at a seam; `one` and `other` give samples by their way from it. */
  const half = (shared: boolean, one: (way: number) => number, other: (way: number) => number): number => {
    const step = shared ? other(0) - one(0) : other(0) + (other(0) - other(1)) / 2 - (one(0) + (one(0) - one(1)) / 2);
    return Number.isFinite(step) ? step / 2 : 0;
  };

  const sideways = (p: Blended, column: number, row: number): number => {
    const y = p.y + row;
    let [east, west] = [0, 0];
    for (const q of pieces) {
      if (q === p || y < q.y || y >= q.y + q.height || common(p.y, p.height, q.y, q.height) < 2) continue;
      const [mine, theirs] = [rims.get(p)!, rims.get(q)!];
      const onEast = q.x > p.x ? meets(p.x + p.width, q.x) : null;
      const onWest = p.x > q.x ? meets(q.x + q.width, p.x) : null;
      if (onEast !== null)
        east = half(
          onEast === 1,
          (k) => mine.at(p.width - 1 - k, row),
          (k) => theirs.at(k, y - q.y),
        );
      if (onWest !== null)
        west = -half(
          onWest === 1,
          (k) => theirs.at(q.width - 1 - k, y - q.y),
          (k) => mine.at(k, row),
        );
    }
    return east * fade(p.width - 1 - column) + west * fade(column);
  };

  const straightened = (p: Blended, column: number, row: number): number =>
    rims.get(p)!.at(column, row) + sideways(p, column, Math.max(0, Math.min(p.height - 1, row)));

  const known = new Map<Blended, Map<string, number>>(pieces.map((p) => [p, new Map<string, number>()]));
  const upright = (p: Blended, column: number, side: 'north' | 'south'): number => {
    const key = `${side} ${column}`;
    const found = known.get(p)!.get(key);
    if (found !== undefined) return found;
    const x = p.x + column;
    let added = 0;
    for (const q of pieces) {
      if (q === p || x < q.x || x >= q.x + q.width || common(p.x, p.width, q.x, q.width) < 2) continue;
      const onSouth = side === 'south' && q.y > p.y ? meets(p.y + p.height, q.y) : null;
      const onNorth = side === 'north' && p.y > q.y ? meets(q.y + q.height, p.y) : null;
      if (onSouth !== null)
        added = half(
          onSouth === 1,
          (k) => straightened(p, column, p.height - 1 - k),
          (k) => straightened(q, x - q.x, k),
        );
      if (onNorth !== null)
        added = -half(
          onNorth === 1,
          (k) => straightened(q, x - q.x, q.height - 1 - k),
          (k) => straightened(p, column, k),
        );
    }
    known.get(p)!.set(key, added);
    return added;
  };

  return (p, column, row) => {
    let added = 0;
    if (column < reach || p.width - 1 - column < reach) added += sideways(p, column, row);
    if (row < reach) added += upright(p, column, 'north') * fade(row);
    if (p.height - 1 - row < reach) added += upright(p, column, 'south') * fade(p.height - 1 - row);
    return added;
  };
}
