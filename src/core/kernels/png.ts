import { freshKernels, sharedKernels, type Kernels } from './instance';

/**
 * Undoes the row filters of 16-bit grey, band by band. Filtered bytes are written straight into the kernel's memory;
 * the row before is kept there.
 */
export class Unfilter16Kernel {
  private readonly from: number;
  private readonly above: number;
  private readonly bytes: number;

  private constructor(
    private readonly k: Kernels,
    private readonly width: number,
    private readonly most: number,
  ) {
    this.from = k.take(most * (width * 2 + 1));
    this.above = k.take(width * 2);
    this.bytes = k.take(most * width * 2);
    k.u8.fill(0, this.above, this.above + width * 2);
  }

  /** For rows of `width` samples, at most `most` rows at once; null without a kernel. */
  static create(width: number, most: number): Unfilter16Kernel | null {
    const k = freshKernels();
    return k ? new Unfilter16Kernel(k, width, most) : null;
  }

  /** Where the filtered bytes of the next `rows` rows go, filter byte + row each. */
  room(rows: number): Uint8Array {
    if (rows > this.most) throw new RangeError('more rows than were asked for');
    return this.k.u8.subarray(this.from, this.from + rows * (this.width * 2 + 1));
  }

  /** The samples of the rows that were written to `room`, in the machine's order; null where a filter is unknown. */
  finish(rows: number): Uint16Array | null {
    const { k, width, bytes } = this;
    if (k.run.unfilter16(this.from, bytes, this.above, width, rows) >= 0) return null;
    const length = rows * width * 2;
    k.u8.copyWithin(this.above, bytes + length - width * 2, bytes + length);
    k.run.swap16(bytes, bytes, rows * width);
    return new Uint16Array(k.copy(bytes, length).buffer);
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
