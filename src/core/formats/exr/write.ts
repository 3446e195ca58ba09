import { LevelGridError, type ByteSink } from '../../base';
import { zlib } from '../deflate';
import { bytesOfStored } from '../stored-bytes';
import { HeldPieces, RowGroups, type HeightWriter } from '../written-rows';

/** What a single channel is called in this format: brightness. */
const USUAL = 'Y';
const FLOAT = 2;
/** In front of a block: the number of its first row, and the bytes of its samples. */
const BLOCK_HEAD = 8;
/** Bytes in front of the samples grow with the rows; so many samples across are still told as a block's size of 32 bits. */
const MOST_ACROSS = 2 ** 24;

/** Ways of packing by their number, and the rows of a block. */
const PLAIN = 0;
const ZIP = 3;
const ZIP_ROWS = 16;

export interface ExrShape {
  readonly width: number;
  readonly height: number;
  /** Name of the one channel. */
  readonly channel?: string;
  /** Blocks of rows are packed by Deflate, without loss. */
  readonly deflate?: boolean;
}

/**
 * Writes rows of floats of 32 bits as an OpenEXR file: version 2, one part of scan lines from the top, one channel. As
 * they are, every offset is known beforehand and the file is written in one go; packed, blocks are held until the last one.
 */
export async function openExr(sink: ByteSink, shape: ExrShape): Promise<HeightWriter> {
  if (shape.width > MOST_ACROSS)
    throw new LevelGridError('too-large', {
      found: `${shape.width} samples across in one EXR`,
      expected: `at most ${MOST_ACROSS}`,
      remedy: 'Split into tiles.',
    });
  return shape.deflate === true ? packedRows(sink, shape) : plainRows(sink, shape);
}

async function plainRows(sink: ByteSink, { width, height, channel = USUAL }: ExrShape): Promise<HeightWriter> {
  let row = 0;
  const block = BLOCK_HEAD + 4 * width;
  const header = headerOf(width, height, channel, PLAIN);
  await sink.write(header);
  await sink.write(offsetsOf(header.length, new Array<number>(height).fill(block)));
  return {
    write: async (codes) => {
      const samples = bytesOfStored(codes, { bits: 32 }, 'little');
      const rows = codes.length / width;
      const out = new Uint8Array(rows * block);
      const view = new DataView(out.buffer);
      for (let r = 0; r < rows; r++) {
        view.setInt32(r * block, row++, true);
        view.setInt32(r * block + 4, 4 * width, true);
        out.set(samples.subarray(r * 4 * width, (r + 1) * 4 * width), r * block + BLOCK_HEAD);
      }
      await sink.write(out);
    },
    close: () => sink.close(),
  };
}

function packedRows(sink: ByteSink, { width, height, channel = USUAL }: ExrShape): HeightWriter {
  const blocks = new HeldPieces();
  let first = 0;
  const groups = new RowGroups(ZIP_ROWS * width, (rows) => {
    const plain = bytesOfStored(rows, { bits: 32 }, 'little');
    const packed = zlib(differences(plain));
    // a block that would not shrink is stored as it is
    blocks.add(blockOf(first, packed.length < plain.length ? packed : plain));
    first += rows.length / width;
  });
  return {
    write: async (codes) => groups.add(codes),
    close: async () => {
      groups.end();
      const header = headerOf(width, height, channel, ZIP);
      await sink.write(header);
      await sink.write(offsetsOf(header.length, blocks.lengths));
      for (const block of blocks.pieces) await sink.write(block);
      await sink.close();
    },
  };
}

function blockOf(row: number, data: Uint8Array): Uint8Array {
  const block = new Uint8Array(BLOCK_HEAD + data.length);
  const view = new DataView(block.buffer);
  view.setInt32(0, row, true);
  view.setInt32(4, data.length, true);
  block.set(data, BLOCK_HEAD);
  return block;
}

/** Even bytes first, odd ones behind them; then each as its difference to the one before it, about 128. */
function differences(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length);
  const half = (bytes.length + 1) >> 1;
  for (let i = 0; i < bytes.length; i++) out[(i & 1) * half + (i >> 1)] = bytes[i]!;
  for (let i = out.length - 1; i > 0; i--) out[i] = out[i]! - out[i - 1]! + 128;
  return out;
}

/** The table of blocks behind a header: where each begins. */
function offsetsOf(header: number, blocks: readonly number[]): Uint8Array {
  const offsets = new DataView(new ArrayBuffer(8 * blocks.length));
  let at = header + 8 * blocks.length;
  blocks.forEach((length, i) => {
    offsets.setBigUint64(8 * i, BigInt(at), true);
    at += length;
  });
  return new Uint8Array(offsets.buffer);
}

/** Magic number, version, and the attributes that every file must have. */
function headerOf(width: number, height: number, channel: string, compression: number): Uint8Array<ArrayBuffer> {
  const text = (s: string): number[] => [...new TextEncoder().encode(s), 0];
  const int = (n: number): number[] => [n & 255, (n >> 8) & 255, (n >> 16) & 255, (n >> 24) & 255];
  const float = (n: number): number[] => [...bytesOfStored(Float32Array.of(n), { bits: 32 }, 'little')];
  const attribute = (name: string, type: string, value: readonly number[]): number[] => [
    ...text(name),
    ...text(type),
    ...int(value.length),
    ...value,
  ];
  const box = [...int(0), ...int(0), ...int(width - 1), ...int(height - 1)];
  return Uint8Array.from([
    ...[0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0],
    // name, type, linear or not and three reserved bytes, sampling across and down; a 0 ends the list
    ...attribute('channels', 'chlist', [...text(channel), ...int(FLOAT), 0, 0, 0, 0, ...int(1), ...int(1), 0]),
    ...attribute('compression', 'compression', [compression]),
    ...attribute('dataWindow', 'box2i', box),
    ...attribute('displayWindow', 'box2i', box),
    ...attribute('lineOrder', 'lineOrder', [0]),
    ...attribute('pixelAspectRatio', 'float', float(1)),
    ...attribute('screenWindowCenter', 'v2f', [...float(0), ...float(0)]),
    ...attribute('screenWindowWidth', 'float', float(1)),
    0,
  ]);
}
