import { sharedKernels } from './instance';

/**
 * Filtered rows of 16-bit grey (filter byte + row each) as samples in the machine's order. `above` holds the bytes of
 * the row before and is replaced by the last row. Null without a kernel, and where a row's filter is unknown: the
 * twin then says so.
 */
export function unfilter16Kernel(
  filtered: Uint8Array,
  width: number,
  rows: number,
  above: Uint8Array,
): Uint16Array | null {
  const k = sharedKernels();
  if (!k) return null;
  const mark = k.mark();
  const from = k.put(filtered);
  const before = k.put(above);
  const bytes = k.take(rows * width * 2);
  const bad = k.run.unfilter16(from, bytes, before, width, rows);
  if (bad >= 0) {
    k.release(mark);
    return null;
  }
  above.set(k.u8.subarray(bytes + (rows - 1) * width * 2, bytes + rows * width * 2));
  const swapped = k.take(rows * width * 2);
  k.run.swap16(bytes, swapped, rows * width);
  const out = new Uint16Array(k.copy(swapped, rows * width * 2).buffer);
  k.release(mark);
  return out;
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
