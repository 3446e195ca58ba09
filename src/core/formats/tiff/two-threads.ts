import { asLevelGridError, ByteRing, type SourceThread } from '../../base';
import { sampleBytes, samplesOver, storedBytes, type StoredSamples } from '../../raster';
import { BlockDecoder, shapeOf, type BlockedRaster } from './blocks';

/** Two threads decode blocks by turns: even ones here, odd ones over there. */
export const THREADS = 2;
/** Fewer blocks are not worth another thread. */
const LEAST_BLOCKS = 4;
/** What may lie between the two: blocks of one turn, if they are not larger than this. */
const [LEAST_RING, MOST_RING] = [1 << 20, 1 << 24];

/** The other thread's part: samples of its blocks, as they are held, one block after the other. */
export async function decodeInto(raster: BlockedRaster, ring: ByteRing): Promise<void> {
  const { source, info, blocks } = raster;
  try {
    const decoder = await BlockDecoder.of(raster, THREADS);
    const size = sampleBytes(info);
    let room: StoredSamples | null = null;
    for (let n = 1; n < blocks; n += THREADS) {
      const { rows, wide } = shapeOf(raster, n);
      // the first is as large as any
      room ??= samplesOver(info, new ArrayBuffer(rows * wide * size));
      const block = room.subarray(0, rows * wide);
      await decoder.decode(n, block, 0, wide);
      if (!(await ring.write(bytesOf(block)))) return;
    }
  } catch (reason) {
    throw asLevelGridError(reason, 'reading the file', source.name);
  } finally {
    ring.end();
  }
}

const bytesOf = ({ buffer, byteOffset, byteLength }: StoredSamples): Uint8Array =>
  new Uint8Array(buffer, byteOffset, byteLength);

/** Blocks that another thread decodes, taken in their order. */
export class BlocksFromThread {
  private readonly ring: ByteRing;
  private readonly whole: Promise<unknown>;
  private room: StoredSamples | null = null;

  private constructor(
    private readonly raster: BlockedRaster,
    thread: SourceThread,
  ) {
    const { info, blocks } = raster;
    const turn = (storedBytes(info) / blocks) * THREADS;
    this.ring = ByteRing.create(2 ** Math.ceil(Math.log2(Math.min(MOST_RING, Math.max(LEAST_RING, turn)))));
    this.whole = thread.inflate('tiff', this.ring.memory);
    // whoever waits for bytes of a thread that died learns it from `whole`
    this.whole.catch(() => this.ring.end());
  }

  /** Null where the source has no other thread, memory can't be shared, or there is too little to do. */
  static start(raster: BlockedRaster): BlocksFromThread | null {
    const { thread } = raster.source;
    return thread && ByteRing.possible && raster.blocks >= LEAST_BLOCKS ? new BlocksFromThread(raster, thread) : null;
  }

  /** Samples of a block into column `left` of rows `stride` samples long. */
  async take(number: number, into: StoredSamples, left: number, stride: number): Promise<void> {
    const { rows, wide } = shapeOf(this.raster, number);
    if (wide === stride) {
      await this.read(into.subarray(0, rows * wide));
      return;
    }
    this.room ??= samplesOver(this.raster.info, new ArrayBuffer(rows * wide * into.BYTES_PER_ELEMENT));
    const block = this.room.subarray(0, rows * wide);
    await this.read(block);
    for (let r = 0; r < rows; r++)
      (into as Float64Array).set((block as Float64Array).subarray(r * wide, (r + 1) * wide), r * stride + left);
  }

  end(): void {
    this.ring.close();
  }

  private async read(samples: StoredSamples): Promise<void> {
    const bytes = bytesOf(samples);
    // fewer come only where something went wrong, which is said
    if ((await this.ring.read(bytes)) < bytes.length) await this.whole;
  }
}
