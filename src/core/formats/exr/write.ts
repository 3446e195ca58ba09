import { LevelGridError, type ByteSink } from '../../base';
import type { Codes } from '../../raster';
import { zlib } from '../deflate';
import { bytesOfStored } from '../stored-bytes';

/** What a single channel is called in this format: brightness. */
const USUAL = 'Y';
const FLOAT = 2;
/** In front of a block: the number of its first row, and the bytes of its samples. */
const BLOCK_HEAD = 8;
/** Bytes in front of the samples grow with the rows; so many samples across are still told as a block's size of 32 bits. */
const MOST_ACROSS = 2 ** 24;
/** Packed blocks are held until the last one is known, up to this many bytes. */
const MOST_HELD = 1.5e9;

/** Ways of packing: their number, and the rows of a block. */
const PLAIN = { id: 0, rows: 1 } as const;
const ZIP = { id: 3, rows: 16 } as const;

export interface ExrShape {
  readonly width: number;
  readonly height: number;
  /** Name of the one channel. */
  readonly channel?: string;
  /** Blocks of rows are packed by Deflate, without loss. */
  readonly deflate?: boolean;
}

interface Rows {
  write(codes: Codes): Promise<void>;
  close(): Promise<void>;
}

/**
 * Writes rows of floats of 32 bits as an OpenEXR file: version 2, one part of scan lines from the top, one channel. As
 * they are, every offset is known beforehand and the file is written in one go; packed, blocks are held until the last one.
 */
export async function openExr(sink: ByteSink, shape: ExrShape): Promise<Rows> {
  if (shape.width > MOST_ACROSS) throw tooLarge(`${shape.width} samples across in one EXR`, `at most ${MOST_ACROSS}`);
  return shape.deflate === true ? packedRows(sink, shape) : plainRows(sink, shape);
}

const tooLarge = (found: string, expected: string): LevelGridError =>
  new LevelGridError('too-large', { found, expected, remedy: 'Split into tiles.' });

async function plainRows(sink: ByteSink, { width, height, channel = USUAL }: ExrShape): Promise<Rows> {
  let row = 0;
  const block = BLOCK_HEAD + 4 * width;
  await sink.write(headerOf(width, height, channel, PLAIN.id));
  await sink.write(offsetsOf(headerOf(width, height, channel, PLAIN.id).length, new Array<number>(height).fill(block)));
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

function packedRows(sink: ByteSink, { width, height, channel = USUAL }: ExrShape): Rows {
  const blocks: Uint8Array[] = [];
  let bytes = 0;
  let first = 0;
  const waiting = new Float32Array(ZIP.rows * width);
  let rows = 0;
  const pack = (): void => {
    if (rows === 0) return;
    const plain = bytesOfStored(waiting.subarray(0, rows * width), { bits: 32 }, 'little');
    const packed = zlib(differences(plain));
    // a block that would not shrink is stored as it is
    const data = packed.length < plain.length ? packed : plain;
    const block = new Uint8Array(BLOCK_HEAD + data.length);
    const view = new DataView(block.buffer);
    view.setInt32(0, first, true);
    view.setInt32(4, data.length, true);
    block.set(data, BLOCK_HEAD);
    bytes += block.length;
    if (bytes > MOST_HELD)
      throw tooLarge(`${width} × ${height} samples in an EXR that is packed`, `at most ${MOST_HELD} bytes, packed`);
    blocks.push(block);
    first += rows;
    rows = 0;
  };
  return {
    write: async (codes) => {
      for (let at = 0; at < codes.length;) {
        const n = Math.min((ZIP.rows - rows) * width, codes.length - at);
        waiting.set(codes.subarray(at, at + n), rows * width);
        rows += n / width;
        at += n;
        if (rows === ZIP.rows) pack();
      }
    },
    close: async () => {
      pack();
      const header = headerOf(width, height, channel, ZIP.id);
      await sink.write(header);
      await sink.write(
        offsetsOf(
          header.length,
          blocks.map((b) => b.length),
        ),
      );
      for (const block of blocks) await sink.write(block);
      await sink.close();
    },
  };
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
