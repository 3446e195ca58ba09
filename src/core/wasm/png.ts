import { sharedKernels, type KernelPlace, type Kernels } from './instance';

/** Undoes the row filters of 16-bit grey where the filtered bytes lie: in the kernel's memory. Keeps the row before. */
export class Unfilter16Kernel {
  private readonly above: number;
  private readonly bytes: number;

  constructor(
    private readonly k: Kernels,
    private readonly width: number,
    most: number,
  ) {
    this.above = k.take(width * 2);
    this.bytes = k.take(most * width * 2);
    k.u8.fill(0, this.above, this.above + width * 2);
  }

  /**
   * Where the samples of the next `rows` rows lie, in the machine's order, until the next call. Filter byte + row each
   * lie at `from`. Where a filter does not exist, that filter.
   */
  rows(from: number, rows: number): KernelPlace | number {
    const { k, width, bytes } = this;
    const bad = k.run.unfilter16(from, bytes, this.above, width, rows);
    if (bad >= 0) return k.u8[from + bad * (width * 2 + 1)] ?? 0;
    const length = rows * width * 2;
    k.u8.copyWithin(this.above, bytes + length - width * 2, bytes + length);
    k.run.swap16(bytes, bytes, rows * width);
    return { kernels: k, at: bytes, length: rows * width };
  }
}

/** 16-bit codes as filtered rows; `above` holds the row before, big-endian, and is replaced by the last one. */
export function filter16Kernel(codes: Uint16Array, width: number, above: Uint8Array): Uint8Array | null {
  const k = sharedKernels();
  if (!k) return null;
  const rows = codes.length / width;
  const mark = k.mark();
  const from = k.put(codes);
  const before = k.take(16 + width * 2);
  const scratch = k.take(16 + width * 2);
  const out = k.take(rows * (width * 2 + 1));
  k.u8.fill(0, before, before + 16);
  k.u8.set(above, before + 16);
  k.run.filter16(from, out, before, scratch, width, rows);
  above.set(k.u8.subarray(before + 16, before + 16 + width * 2));
  const filtered = k.copy(out, rows * (width * 2 + 1));
  k.release(mark);
  return filtered;
}
