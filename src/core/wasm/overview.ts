import { sharedKernels } from './instance';

/** Bytes of rows that are in the kernel's memory at once. */
const AT_ONCE = 1 << 18;
/** Below this the way into the kernel costs more than it saves. */
const LEAST = 4096;

/**
 * Half the size by means of 2 × 2 of `pairs` pairs of rows; `from` begins with them, `to` takes the result. False where
 * the plain twin must do it.
 */
export function halveKernel(from: Uint16Array, to: Uint16Array, width: number, pairs: number): boolean {
  const k = width * pairs < LEAST ? null : sharedKernels();
  if (!k) return false;
  const half = (width + 1) >> 1;
  const step = Math.max(1, Math.floor(AT_ONCE / (width * 4)));
  const mark = k.mark();
  const rows = k.take(step * width * 4);
  const halves = k.take(step * half * 2);
  for (let p = 0; p < pairs; p += step) {
    const n = Math.min(step, pairs - p);
    k.write(rows, from.subarray(2 * p * width, 2 * (p + n) * width));
    k.run.halve16(rows, halves, width, n);
    to.set(new Uint16Array(k.u8.buffer, halves, n * half), p * half);
  }
  k.release(mark);
  return true;
}
