import { LevelGridError, type ByteSink } from '../../base';
import { adler32, deflatePiece, WINDOW, type Preset } from '../deflate';
import { filter16Kernel } from '../../kernels';
import { crc32 } from './crc';
import { filterRow } from './filters';
import { SIGNATURE } from './header';

/** Filtered bytes that are deflated as one piece and stored as one IDAT chunk; fixed, so that files are the same everywhere. */
const PIECE_BYTES = 1 << 20;

/** Zlib header (RFC 1950, 2.2): deflate with a 32 KiB window, and how hard was tried. */
const ZLIB_HEADER: Record<Preset, readonly [number, number]> = { fast: [0x78, 0x01], default: [0x78, 0x9c] };

/** Takes rows of codes from the north and writes a grey PNG (16 or 8 bits, one channel, not interlaced). */
export class PngWriter {
  private above: Uint8Array;
  private row: Uint8Array;
  private readonly stride: number;
  private readonly rowsPerPiece: number;
  /** The end of the piece before, then the filtered rows of the current one. */
  private readonly buffer: Uint8Array;
  private known = 0;
  private pieceRows = 0;
  private rowsDone = 0;
  private adler = 1;

  private constructor(
    private readonly sink: ByteSink,
    private readonly width: number,
    private readonly height: number,
    /** Bytes of a sample. */
    private readonly bytes: 1 | 2,
    private readonly preset: Preset,
  ) {
    this.above = new Uint8Array(width * bytes);
    this.row = new Uint8Array(width * bytes);
    this.stride = width * bytes + 1;
    this.rowsPerPiece = Math.max(1, Math.floor(PIECE_BYTES / this.stride));
    this.buffer = new Uint8Array(WINDOW + this.stride * this.rowsPerPiece);
  }

  static async open(
    sink: ByteSink,
    width: number,
    height: number,
    options: { readonly bitDepth?: 8 | 16; readonly preset?: Preset } = {},
  ): Promise<PngWriter> {
    const { bitDepth = 16, preset = 'default' } = options;
    const writer = new PngWriter(sink, width, height, bitDepth === 16 ? 2 : 1, preset);
    const header = new Uint8Array(13);
    const view = new DataView(header.buffer);
    view.setUint32(0, width);
    view.setUint32(4, height);
    header.set([bitDepth, 0, 0, 0, 0], 8);
    await sink.write(SIGNATURE);
    await sink.write(chunk('IHDR', [header]));
    return writer;
  }

  /** `codes` holds whole rows, any number of them. */
  async write(codes: Uint16Array): Promise<void> {
    const { width, bytes, stride } = this;
    const rows = codes.length / width;
    if (bytes === 2) {
      // by the kernel, as many rows at once as the piece has room for
      for (let r = 0; r < rows;) {
        const n = Math.min(rows - r, this.rowsPerPiece - this.pieceRows);
        const filtered = filter16Kernel(codes.subarray(r * width, (r + n) * width), width, this.above);
        if (!filtered) break;
        this.buffer.set(filtered, this.known + this.pieceRows * stride);
        this.pieceRows += n;
        this.rowsDone += n;
        r += n;
        if (this.pieceRows === this.rowsPerPiece || this.rowsDone === this.height) await this.flush();
        if (r === rows) return;
      }
    }
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
      filterRow(this.buffer, this.known + this.pieceRows * stride, row, above, bytes);
      this.above = row;
      this.row = above;
      this.pieceRows++;
      this.rowsDone++;
      if (this.pieceRows === this.rowsPerPiece || this.rowsDone === this.height) await this.flush();
    }
  }

  private async flush(): Promise<void> {
    const { buffer, known } = this;
    const end = known + this.pieceRows * this.stride;
    const fresh = buffer.subarray(known, end);
    const first = this.rowsDone === this.pieceRows;
    const last = this.rowsDone === this.height;
    this.adler = adler32(fresh, this.adler);
    const parts = [deflatePiece(buffer.subarray(0, end), known, last, this.preset)];
    if (first) parts.unshift(Uint8Array.from(ZLIB_HEADER[this.preset]));
    if (last) {
      const sum = new Uint8Array(4);
      new DataView(sum.buffer).setUint32(0, this.adler);
      parts.push(sum);
    }
    await this.sink.write(chunk('IDAT', parts));
    const keep = Math.min(WINDOW, end);
    buffer.copyWithin(0, end - keep, end);
    this.known = keep;
    this.pieceRows = 0;
  }

  async close(): Promise<void> {
    if (this.rowsDone !== this.height) {
      throw new LevelGridError('internal', {
        found: `${this.rowsDone} rows`,
        expected: `${this.height}`,
        remedy: 'This is a fault in Level Grid; report it.',
      });
    }
    await this.sink.write(chunk('IEND', []));
    await this.sink.close();
  }
}

/** Length, type, data, CRC. */
function chunk(type: string, parts: readonly Uint8Array[]): Uint8Array {
  const length = parts.reduce((n, p) => n + p.length, 0);
  const out = new Uint8Array(length + 12);
  const view = new DataView(out.buffer);
  view.setUint32(0, length);
  for (let i = 0; i < 4; i++) out[4 + i] = type.charCodeAt(i);
  let at = 8;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  view.setUint32(length + 8, crc32(out.subarray(4, length + 8)));
  return out;
}
