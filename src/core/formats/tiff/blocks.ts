import { LevelGridError, type ByteSource } from '../../base';
import type { RasterInfo, StoredSamples } from '../../raster';
import { BlockInflater } from '../block-inflater';
import type { BlockReader } from '../shared-blocks';
import { MAX_BLOCKS, type Directory } from './directory';
import type { Layout } from './layout';
import { copySamples, undoPredictor } from './samples';
import { unpack } from './unpack';

/** The raster of a TIFF, and where its blocks lie. */
export interface BlockedRaster {
  readonly source: ByteSource;
  readonly directory: Directory;
  readonly layout: Layout;
  readonly info: RasterInfo;
  /** Blocks side by side, and all of them. */
  readonly across: number;
  readonly blocks: number;
}

/** How many rows and columns of a block belong to the raster. */
interface BlockShape {
  readonly rows: number;
  readonly wide: number;
}

function shapeOf({ layout, across }: BlockedRaster, number: number): BlockShape {
  const { width, height, blockWidth, blockHeight } = layout;
  const left = (number % across) * blockWidth;
  const top = Math.floor(number / across) * blockHeight;
  return { rows: Math.min(blockHeight, height - top), wide: Math.min(blockWidth, width - left) };
}

/** Larger blocks are not asked for before they are wanted: two of them are too much to hold. */
const MOST_AHEAD = 2 ** 24;

/** Decodes blocks; while one is worked on the next is being read. */
export class BlockDecoder implements BlockReader {
  readonly blocks: number;
  private readonly inflater = new BlockInflater();
  private next: { readonly number: number; readonly bytes: Promise<Uint8Array> } | null = null;

  private constructor(
    private readonly raster: BlockedRaster,
    private readonly places: readonly number[],
    private readonly sizes: readonly number[],
  ) {
    this.blocks = raster.blocks;
  }

  static async of(raster: BlockedRaster): Promise<BlockDecoder> {
    const { directory, layout } = raster;
    const places = await directory.numbers(layout.tiled ? 'tileOffsets' : 'stripOffsets', MAX_BLOCKS * 4);
    const sizes = await directory.numbers(layout.tiled ? 'tileBytes' : 'stripBytes', MAX_BLOCKS * 4);
    return new BlockDecoder(raster, places, sizes);
  }

  shapeOf(number: number): BlockShape {
    return shapeOf(this.raster, number);
  }

  async decode(number: number, into: StoredSamples, left: number, stride: number, next: number): Promise<void> {
    const { raster, inflater } = this;
    const { layout } = raster;
    const { rows, wide } = shapeOf(raster, number);
    if (this.isHole(number)) {
      // a block that was left out holds nothing
      const nothing = layout.noData === null ? 0 : NaN;
      for (let r = 0; r < rows; r++) into.fill(nothing, r * stride + left, r * stride + left + wide);
      return;
    }
    // a tile is always whole; the last strip ends with the raster
    const stored = layout.tiled ? layout.blockHeight : rows;
    const size = ((layout.blockWidth * layout.together * layout.bits) / 8) * stored;
    const block = unpack(layout.compression, await this.packed(number, size, next), size, inflater);
    undoPredictor(block, layout, stored);
    copySamples(block.bytes, layout, rows, wide, into, left, stride);
  }

  /** True where the file has no such block. */
  private isHole(number: number): boolean {
    return (this.places[number] ?? 0) === 0 || this.sizes[number] === 0;
  }

  /** Bytes of a block as they lie in the file; `size` of them where it does not say how many. `next` is read ahead. */
  private async packed(number: number, size: number, next: number): Promise<Uint8Array> {
    const { source } = this.raster;
    const place = this.places[number] ?? 0;
    // files without lengths are those without compression
    const length = this.sizes[number] ?? size;
    const bytes = await (this.next?.number === number ? this.next.bytes : source.read(place, length));
    this.readAhead(next);
    if (bytes.length < length)
      throw new LevelGridError('truncated', {
        file: source.name,
        found: `the end of the file in block ${number}`,
        expected: `${length} bytes from byte ${place} on`,
        remedy: 'The file is cut short: copy or export it again.',
      });
    return bytes;
  }

  private readAhead(number: number): void {
    const size = this.sizes[number];
    this.next = null;
    if (size === undefined || size > MOST_AHEAD || this.isHole(number)) return;
    const bytes = this.raster.source.read(this.places[number]!, size);
    // whoever stops early never asks for it; else the fault is told when it is asked for
    bytes.catch(() => undefined);
    this.next = { number, bytes };
  }
}
