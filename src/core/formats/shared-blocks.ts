import { asLevelGridError, ByteRing, type ByteSource } from '../base';
import { sampleBytes, samplesOver, storedBytes, type RasterInfo, type StoredSamples } from '../raster';

/** Decodes the blocks of a raster, each on its own. */
export interface BlockReader {
  /** Blocks are numbered from 0, in the order in which they are wanted; the first is as large as any. */
  readonly blocks: number;
  shapeOf(number: number): { readonly rows: number; readonly wide: number };
  /** Samples of a block into column `left` of rows `stride` samples long. `next`: will probably be asked for after it. */
  decode(number: number, into: StoredSamples, left: number, stride: number, next: number): Promise<void>;
}

/** Fewer blocks are not worth another thread. */
const LEAST_BLOCKS = 4;
/** What may lie between the two: a few blocks, if they are not larger than this. */
const [LEAST_RING, MOST_RING] = [1 << 20, 1 << 24];
/** Blocks that this thread decodes before their turn, while it waits for the other one. */
const MOST_AHEAD = 2;

/**
 * The other thread's part: whichever block nobody has taken yet, again and again; their samples, as they are held, one
 * block after the other. `open` is the reader of the same file over there.
 */
export async function decodeInto(
  source: ByteSource,
  memory: SharedArrayBuffer,
  open: () => Promise<{ readonly info: RasterInfo; readonly reader: BlockReader }>,
): Promise<null> {
  const ring = new ByteRing(memory);
  try {
    const { info, reader } = await open();
    const room = roomFor(info, reader);
    for (let n = ring.number(), next; n < reader.blocks; n = next) {
      // taken beforehand, so that it is being read meanwhile
      next = ring.number();
      const { rows, wide } = reader.shapeOf(n);
      const block = room.subarray(0, rows * wide);
      await reader.decode(n, block, 0, wide, next);
      if (!(await ring.write(bytesOf(block)))) break;
    }
  } catch (reason) {
    throw asLevelGridError(reason, 'reading the file', source.name);
  } finally {
    ring.end();
  }
  return null;
}

/** For any of the blocks. */
function roomFor(info: RasterInfo, reader: BlockReader): StoredSamples {
  const { rows, wide } = reader.shapeOf(0);
  return samplesOver(info, new ArrayBuffer(rows * wide * sampleBytes(info)));
}

const bytesOf = ({ buffer, byteOffset, byteLength }: StoredSamples): Uint8Array =>
  new Uint8Array(buffer, byteOffset, byteLength);

/** A block that was decoded before its turn, or what went wrong: told when its turn comes. */
type Ahead = { readonly block: StoredSamples } | { readonly fault: unknown };

/**
 * Blocks in their order, decoded here and by the other thread: each takes the next one that is free, so that whichever
 * has more else to do does less of it. Where there is no other thread, or too little to do, all are decoded here.
 */
export class SharedBlocks {
  /** What this thread has taken: `held` not yet decoded, the others ahead of their turn. */
  private held: number;
  private readonly ahead = new Map<number, Ahead>();
  private readonly rooms: StoredSamples[] = [];
  private far: StoredSamples | null = null;

  private constructor(
    private readonly info: RasterInfo,
    private readonly reader: BlockReader,
    private readonly ring: ByteRing | null,
    private readonly whole: Promise<unknown>,
  ) {
    this.held = ring ? ring.number() : 0;
  }

  static start(source: ByteSource, info: RasterInfo, reader: BlockReader): SharedBlocks {
    const { thread } = source;
    if (!thread || !ByteRing.possible || reader.blocks < LEAST_BLOCKS)
      return new SharedBlocks(info, reader, null, Promise.resolve());
    const few = (storedBytes(info) / reader.blocks) * (MOST_AHEAD + 1);
    const ring = ByteRing.create(2 ** Math.ceil(Math.log2(Math.min(MOST_RING, Math.max(LEAST_RING, few)))));
    const whole = thread.inflate(info.format, ring.memory);
    // whoever waits for bytes of a thread that died learns it from `whole`
    whole.catch(() => ring.end());
    return new SharedBlocks(info, reader, ring, whole);
  }

  /** Samples of block `number`, one more than the last, into column `left` of rows `stride` samples long. */
  async take(number: number, into: StoredSamples, left: number, stride: number): Promise<void> {
    const { reader, ring } = this;
    if (!ring) return reader.decode(number, into, left, stride, number + 1);
    // the other thread is at work on it: meanwhile, one of those behind it
    while (number < this.held && !this.ahead.has(number) && ring.empty && this.ahead.size < MOST_AHEAD)
      if (!(await this.decodeAhead())) break;
    const done = this.ahead.get(number);
    if (done) {
      this.ahead.delete(number);
      if ('fault' in done) throw done.fault;
      this.copy(number, done.block, into, left, stride);
      this.rooms.push(done.block);
    } else if (number === this.held) {
      const next = (this.held = ring.number());
      await reader.decode(number, into, left, stride, next);
    } else await this.read(number, into, left, stride);
  }

  end(): void {
    this.ring?.close();
  }

  /** Decodes the block that this thread holds; false where there is none. */
  private async decodeAhead(): Promise<boolean> {
    const { reader, ring, held } = this;
    if (!ring || held >= reader.blocks) return false;
    this.held = ring.number();
    const { rows, wide } = reader.shapeOf(held);
    const block = this.rooms.pop() ?? roomFor(this.info, this.reader);
    try {
      await reader.decode(held, block.subarray(0, rows * wide), 0, wide, this.held);
      this.ahead.set(held, { block });
    } catch (fault) {
      this.ahead.set(held, { fault });
    }
    return true;
  }

  /** A block of the other thread. */
  private async read(number: number, into: StoredSamples, left: number, stride: number): Promise<void> {
    const { rows, wide } = this.reader.shapeOf(number);
    const direct = wide === stride;
    this.far ??= direct ? null : roomFor(this.info, this.reader);
    const block = (direct ? into : this.far!).subarray(0, rows * wide);
    const bytes = bytesOf(block);
    // fewer come only where something went wrong, which is said
    if ((await this.ring!.read(bytes)) < bytes.length) await this.whole;
    if (!direct) this.copy(number, block, into, left, stride);
  }

  private copy(number: number, block: StoredSamples, into: StoredSamples, left: number, stride: number): void {
    const { rows, wide } = this.reader.shapeOf(number);
    for (let r = 0; r < rows; r++)
      (into as Float64Array).set((block as Float64Array).subarray(r * wide, (r + 1) * wide), r * stride + left);
  }
}
