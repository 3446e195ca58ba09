import { LevelGridError } from '../base';
import type { Ring } from './sample';

/** What is infinite is no height: in sums it would spread like one. */
function voidInfinite(row: Float32Array): void {
  for (let x = 0; x < row.length; x++) {
    const value = row[x]!;
    if (value - value !== 0) row[x] = NaN;
  }
}

/** Rows of a raster from north to south, as its bands are. */
interface Rows {
  readonly y: number;
  readonly rows: number;
  readonly data: ArrayLike<number>;
}

/** Rows that are held at first; more where lines of places lie more aslant. */
export const FIRST_ROWS = 64;

/** Rows of a raster that are held in a ring: a window that only moves south. */
export class HeldRows {
  ring: Ring;
  private first = 0;
  private band: Rows | null = null;
  private next = 0;

  /** `room`: a ring for so many rows, a power of two. What it held before is copied into it. */
  constructor(
    private readonly bands: AsyncGenerator<Rows>,
    width: number,
    height: number,
    private readonly room: (capacity: number) => Float32Array,
  ) {
    this.ring = { data: room(FIRST_ROWS), capacity: FIRST_ROWS, width, height };
  }

  /** Holds rows `from` to `to`, as far as the raster has them. */
  async hold(from: number, to: number): Promise<void> {
    const { width, height } = this.ring;
    const top = Math.max(0, Math.min(height - 1, from));
    const bottom = Math.max(0, Math.min(height - 1, to));
    if (bottom - top + 1 > this.ring.capacity) this.grow(bottom - top + 1);
    this.first = Math.max(this.first, top);
    for (; this.next <= bottom; this.next++) {
      const band = await this.bandOf(this.next);
      if (this.next < top) continue;
      const at = (this.next - band.y) * width;
      const row = (band.data as Float32Array).subarray(at, at + width);
      const place = (this.next & (this.ring.capacity - 1)) * width;
      this.ring.data.set(row, place);
      if (band.data instanceof Float32Array || band.data instanceof Float64Array)
        voidInfinite(this.ring.data.subarray(place, place + width));
    }
  }

  private async bandOf(row: number): Promise<Rows> {
    while (!this.band || row >= this.band.y + this.band.rows) {
      const step = await this.bands.next();
      if (step.done)
        throw new LevelGridError('truncated', {
          found: `${row} rows`,
          expected: `${this.ring.height}`,
          remedy: 'The file changed while it was read: bring it in again.',
        });
      this.band = step.value;
    }
    return this.band;
  }

  /** Room for `needed` rows; those that are held stay. */
  private grow(needed: number): void {
    const { ring, first, next } = this;
    const { width } = ring;
    let { capacity } = ring;
    const before = ring.data.slice();
    while (capacity < needed) capacity *= 2;
    this.ring = { ...ring, data: this.room(capacity), capacity };
    for (let y = Math.max(first, next - ring.capacity); y < next; y++) {
      const from = (y & (ring.capacity - 1)) * width;
      this.ring.data.set(before.subarray(from, from + width), (y & (capacity - 1)) * width);
    }
  }

  async end(): Promise<void> {
    await this.bands.return(undefined);
  }
}
