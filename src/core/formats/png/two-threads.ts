import { asLevelGridError, ByteRing, type ByteSource, type InflatedWhole, type SourceThread } from '../../base';
import { freshKernels, type Kernels } from '../../wasm';
import { KernelInflater } from '../inflate';
import type { FilteredRows } from './filtered-rows';
import { imageData, noChunks } from './image-data';

/** What may lie between the two threads. */
const RING_BYTES = 1 << 20;
/** Inflated at once. */
const STEP = 1 << 17;

/** The half of reading that finds image data, checks and inflates it: the other thread's part. */
export async function pngInto(source: ByteSource, memory: SharedArrayBuffer): Promise<InflatedWhole> {
  const ring = new ByteRing(memory);
  try {
    const state = noChunks();
    const inflater = KernelInflater.create(imageData(source, state), STEP);
    if (!inflater) throw new Error('no kernels on this thread');
    for (;;) {
      const there = Math.min(STEP, await inflater.fill(STEP));
      if (there === 0) break;
      const { from, kernels } = inflater;
      if (!(await ring.write(kernels.u8.subarray(from, from + there)))) return noChunks();
      inflater.skip(there);
    }
    // the checksums that remain
    await inflater.finish();
    return state;
  } catch (reason) {
    throw asLevelGridError(reason, 'reading the file', source.name);
  } finally {
    ring.end();
  }
}

/** The rows that another thread inflates, in the memory of kernels of this one. */
export class RowsFromThread implements FilteredRows {
  private readonly ring = ByteRing.create(RING_BYTES);
  private readonly whole: Promise<InflatedWhole | null>;
  readonly from: number;
  private unread = 0;

  private constructor(
    readonly kernels: Kernels,
    private readonly most: number,
    thread: SourceThread,
  ) {
    this.from = kernels.take(most);
    this.whole = thread.inflate('png', this.ring.memory);
    // whoever waits for bytes of a thread that died learns it from `whole`
    this.whole.catch(() => this.ring.end());
  }

  /** Null where this thread has no kernels or memory can't be shared. Up to `most` bytes can be asked for at once. */
  static start(thread: SourceThread, most: number): RowsFromThread | null {
    const kernels = ByteRing.possible ? freshKernels() : null;
    return kernels ? new RowsFromThread(kernels, most, thread) : null;
  }

  async fill(count: number): Promise<number> {
    const { kernels, from } = this;
    if (this.unread < count) {
      const into = kernels.u8.subarray(from + this.unread, from + Math.min(count, this.most));
      this.unread += await this.ring.read(into);
      // the stream has ended early: it says why, if there is more to say than that
      if (this.unread < count) await this.whole;
    }
    return this.unread;
  }

  skip(count: number): void {
    this.kernels.u8.copyWithin(this.from, this.from + count, this.from + this.unread);
    this.unread -= count;
  }

  async finish(): Promise<number> {
    const rest = new Uint8Array(STEP);
    let spare = this.unread;
    for (let n = await this.ring.read(rest); n > 0; n = await this.ring.read(rest)) spare += n;
    await this.whole;
    return spare;
  }

  /** What the other thread found, once it is through. */
  get found(): Promise<InflatedWhole> {
    return this.whole.then((whole) => whole ?? noChunks());
  }

  end(): void {
    this.ring.close();
  }
}
