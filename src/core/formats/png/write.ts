import { Zlib } from 'fflate';
import type { ByteSink } from '../../base';
import { crc32 } from './crc';
import { filterRow } from './filters';
import { SIGNATURE } from './header';

/** Bytes of one IDAT chunk. Fixed, so that the same samples give the same file. */
const IDAT_BYTES = 1 << 18;
const LEVEL = 6;

/** Takes rows of codes from the north and writes a grey PNG (16 or 8 bits, one channel, not interlaced). */
export class PngWriter {
  private above: Uint8Array;
  private row: Uint8Array;
  private readonly zlib: Zlib;
  private pending: Uint8Array[] = [];
  private pendingBytes = 0;

  private constructor(
    private readonly sink: ByteSink,
    private readonly width: number,
    /** Bytes of a sample. */
    private readonly bytes: 1 | 2,
  ) {
    this.above = new Uint8Array(width * bytes);
    this.row = new Uint8Array(width * bytes);
    this.zlib = new Zlib({ level: LEVEL }, (chunk) => {
      if (chunk.length === 0) return;
      this.pending.push(chunk);
      this.pendingBytes += chunk.length;
    });
  }

  static async open(sink: ByteSink, width: number, height: number, bitDepth: 8 | 16 = 16): Promise<PngWriter> {
    const writer = new PngWriter(sink, width, bitDepth === 16 ? 2 : 1);
    const header = new Uint8Array(13);
    const view = new DataView(header.buffer);
    view.setUint32(0, width);
    view.setUint32(4, height);
    header.set([bitDepth, 0, 0, 0, 0], 8);
    await sink.write(SIGNATURE);
    await sink.write(chunk('IHDR', header));
    return writer;
  }

  /** `codes` holds whole rows. */
  async write(codes: Uint16Array): Promise<void> {
    const { width, bytes } = this;
    const rows = codes.length / width;
    const stride = width * bytes + 1;
    const filtered = new Uint8Array(rows * stride);
    for (let r = 0; r < rows; r++) {
      const { row, above } = this;
      if (bytes === 1) row.set(codes.subarray(r * width, (r + 1) * width));
      else {
        for (let x = 0, at = r * width; x < width; x++, at++) {
          const code = codes[at]!;
          row[2 * x] = code >> 8;
          row[2 * x + 1] = code & 255;
        }
      }
      filterRow(filtered, r * stride, row, above, bytes);
      this.above = row;
      this.row = above;
    }
    this.zlib.push(filtered);
    await this.drain(false);
  }

  async close(): Promise<void> {
    this.zlib.push(new Uint8Array(0), true);
    await this.drain(true);
    await this.sink.write(chunk('IEND', new Uint8Array(0)));
    await this.sink.close();
  }

  private async drain(all: boolean): Promise<void> {
    while (this.pendingBytes >= IDAT_BYTES || (all && this.pendingBytes > 0)) {
      const size = Math.min(IDAT_BYTES, this.pendingBytes);
      const data = new Uint8Array(size);
      for (let filled = 0; filled < size; ) {
        const first = this.pending[0]!;
        const n = Math.min(first.length, size - filled);
        data.set(first.subarray(0, n), filled);
        filled += n;
        if (n === first.length) this.pending.shift();
        else this.pending[0] = first.subarray(n);
      }
      this.pendingBytes -= size;
      await this.sink.write(chunk('IDAT', data));
    }
  }
}

/** Length, type, data, CRC. */
function chunk(type: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(data.length + 12);
  const view = new DataView(out.buffer);
  view.setUint32(0, data.length);
  for (let i = 0; i < 4; i++) out[4 + i] = type.charCodeAt(i);
  out.set(data, 8);
  view.setUint32(data.length + 8, crc32(out.subarray(4, data.length + 8)));
  return out;
}
