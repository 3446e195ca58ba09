import type { Kernels } from '../../wasm';

/** Filtered rows of a PNG as they come out of its compressed data, in the memory of kernels. */
export interface FilteredRows {
  readonly kernels: Kernels;
  /** Where the unread bytes begin; they stay there until the next `fill`. */
  readonly from: number;
  /**
   * Reads on until `count` bytes are unread; how many there are: fewer only where the data has ended. Throws `corrupt`
   * for damaged data, `truncated` where its source ends before it does.
   */
  fill(count: number): Promise<number>;
  skip(count: number): void;
  /** Reads on to the end, so that every checksum is compared; the bytes that nobody asked for. */
  finish(): Promise<number>;
}
