/** Samples that hang together by their sides, found by joining sets (R. Tarjan, 1975). */
export class Regions {
  private readonly parent: Int32Array;

  /** `belongs`: whether the sample with a number is one of those that are looked for. */
  constructor({ width, height }: { readonly width: number; readonly height: number }, belongs: (i: number) => boolean) {
    this.parent = new Int32Array(width * height).fill(-1);
    const { parent } = this;
    for (let i = 0; i < parent.length; i++) {
      if (!belongs(i)) continue;
      parent[i] = i;
      if (i % width > 0 && parent[i - 1]! >= 0) this.join(i, i - 1);
      if (i >= width && parent[i - width]! >= 0) this.join(i, i - width);
    }
  }

  private rootOf(i: number): number {
    let root = i;
    while (this.parent[root] !== root) root = this.parent[root]!;
    for (let k = i; k !== root;) {
      const next = this.parent[k]!;
      this.parent[k] = root;
      k = next;
    }
    return root;
  }

  private join(a: number, b: number): void {
    const [p, q] = [this.rootOf(a), this.rootOf(b)];
    if (p !== q) this.parent[Math.max(p, q)] = Math.min(p, q);
  }

  /** The region of a sample; −1 where it belongs to none. */
  regionOf(i: number): number {
    return this.parent[i]! < 0 ? -1 : this.rootOf(i);
  }

  /** All of them, from the north-west on, their samples in order. */
  all(): number[][] {
    const found = new Map<number, number[]>();
    for (let i = 0; i < this.parent.length; i++) {
      const region = this.regionOf(i);
      if (region < 0) continue;
      const list = found.get(region);
      if (list) list.push(i);
      else found.set(region, [i]);
    }
    return [...found.values()];
  }
}
