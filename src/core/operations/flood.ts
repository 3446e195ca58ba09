/** A pile of whole numbers that grows: a list of numbers would take several times the room. */
class Pile {
  private room = new Int32Array(1 << 16);
  size = 0;

  push(value: number): void {
    if (this.size === this.room.length) {
      const larger = new Int32Array(this.size * 2);
      larger.set(this.room);
      this.room = larger;
    }
    this.room[this.size++] = value;
  }

  pop(): number {
    return this.room[--this.size]!;
  }
}

interface Sides {
  readonly width: number;
  readonly height: number;
}

/**
 * All samples that hang together with `seeds` by their sides, where `marks` is 1: there it becomes 2. `found` is told of
 * each; `edge` of those beside it whose mark is 0. Each sample is looked at once from every side.
 */
export function flood(
  marks: Uint8Array,
  { width, height }: Sides,
  seeds: Iterable<number>,
  found?: (i: number) => void,
  edge?: (i: number) => void,
): void {
  const waiting = new Pile();
  const last = width * (height - 1);
  const take = (i: number): void => {
    const mark = marks[i];
    if (mark === 1) {
      marks[i] = 2;
      waiting.push(i);
      found?.(i);
    } else if (mark === 0) edge?.(i);
  };
  for (const seed of seeds) if (marks[seed] === 1) take(seed);
  while (waiting.size > 0) {
    const i = waiting.pop();
    const x = i % width;
    if (x > 0) take(i - 1);
    if (x < width - 1) take(i + 1);
    if (i >= width) take(i - width);
    if (i < last) take(i + width);
  }
}
