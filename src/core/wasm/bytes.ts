import { sharedKernels } from './instance';

let tables: { of: object; at: number } | null = null;

/** CRC-32 by the kernel; null where there is none. */
export function crc32Kernel(bytes: Uint8Array, before: number): number | null {
  const k = sharedKernels();
  if (!k) return null;
  if (tables?.of !== k) {
    tables = { of: k, at: k.take(16384) };
    k.run.crcTables(tables.at);
  }
  const mark = k.mark();
  const sum = k.run.crc32(k.put(bytes), bytes.length, before, tables.at) >>> 0;
  k.release(mark);
  return sum;
}

export function adler32Kernel(bytes: Uint8Array, before: number): number | null {
  const k = sharedKernels();
  if (!k) return null;
  const mark = k.mark();
  const sum = k.run.adler32(k.put(bytes), bytes.length, before) >>> 0;
  k.release(mark);
  return sum;
}

/** One piece of a deflate stream by the kernel; the same bytes as the plain twin. */
export function deflateKernel(input: Uint8Array, start: number, last: boolean, matching: boolean): Uint8Array | null {
  const k = sharedKernels();
  if (!k) return null;
  const mark = k.mark();
  const from = k.put(input);
  const scratch = k.take(k.run.deflateScratch());
  const fresh = input.length - start;
  // incompressible bytes cost at most a table and a bit each
  const target = k.take(fresh + (fresh >> 3) + 1024 * (2 + (fresh >> 16)));
  const length = k.run.deflatePiece(from, start, input.length, last ? 1 : 0, matching ? 1 : 0, target, scratch);
  const out = k.copy(target, length);
  k.release(mark);
  return out;
}
