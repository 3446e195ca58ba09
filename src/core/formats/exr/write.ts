import { LevelGridError, type ByteSink } from '../../base';
import type { Codes } from '../../raster';
import { bytesOfStored } from '../stored-bytes';

/** What a single channel is called in this format: brightness. */
const USUAL = 'Y';
const FLOAT = 2;
/** A block is a row: its number, the bytes of its samples, and those. */
const BLOCK_HEAD = 8;
/** Bytes in front of the samples grow with the rows; so many samples across are still told as a block's size of 32 bits. */
const MOST_ACROSS = 2 ** 28;

/**
 * Writes rows of floats of 32 bits as an OpenEXR file: version 2, one part of scan lines from the top, one channel,
 * without compression, so that every offset is known beforehand and the file is written in one go.
 */
export class ExrWriter {
  private row = 0;

  private constructor(
    private readonly sink: ByteSink,
    private readonly width: number,
  ) {}

  static async open(sink: ByteSink, width: number, height: number, channel = USUAL): Promise<ExrWriter> {
    if (width > MOST_ACROSS)
      throw new LevelGridError('too-large', {
        found: `${width} samples across in one EXR`,
        expected: `at most ${MOST_ACROSS}`,
        remedy: 'Split into tiles.',
      });
    const header = headerOf(width, height, channel);
    const offsets = new DataView(new ArrayBuffer(8 * height));
    const first = header.length + 8 * height;
    for (let y = 0; y < height; y++)
      offsets.setBigUint64(8 * y, BigInt(first) + BigInt(y) * BigInt(BLOCK_HEAD + 4 * width), true);
    await sink.write(header);
    await sink.write(new Uint8Array(offsets.buffer));
    return new ExrWriter(sink, width);
  }

  /** `codes` holds whole rows, any number of them. */
  async write(codes: Codes): Promise<void> {
    const { width } = this;
    const samples = bytesOfStored(codes, { bits: 32 }, 'little');
    const rows = codes.length / width;
    const block = BLOCK_HEAD + 4 * width;
    const out = new Uint8Array(rows * block);
    const view = new DataView(out.buffer);
    for (let r = 0; r < rows; r++) {
      view.setInt32(r * block, this.row++, true);
      view.setInt32(r * block + 4, 4 * width, true);
      out.set(samples.subarray(r * 4 * width, (r + 1) * 4 * width), r * block + BLOCK_HEAD);
    }
    await this.sink.write(out);
  }

  async close(): Promise<void> {
    await this.sink.close();
  }
}

/** Magic number, version, and the attributes that every file must have. */
function headerOf(width: number, height: number, channel: string): Uint8Array<ArrayBuffer> {
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
    ...attribute('compression', 'compression', [0]),
    ...attribute('dataWindow', 'box2i', box),
    ...attribute('displayWindow', 'box2i', box),
    ...attribute('lineOrder', 'lineOrder', [0]),
    ...attribute('pixelAspectRatio', 'float', float(1)),
    ...attribute('screenWindowCenter', 'v2f', [...float(0), ...float(0)]),
    ...attribute('screenWindowWidth', 'float', float(1)),
    0,
  ]);
}
