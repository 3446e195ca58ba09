import { LevelGridError, type ByteSink } from '../../base';
import { adler32Joined, type Preset } from '../deflate';
import { SIGNATURE } from './header';
import { chunk, contextRows, encodePiece, type PieceEncoder, type PieceResult } from './piece';

/** Filtered bytes that are deflated as one piece and stored as one IDAT chunk; fixed, so that files are the same everywhere. */
const PIECE_BYTES = 1 << 20;

export interface PngOptions {
  readonly bitDepth?: 8 | 16;
  readonly preset?: Preset;
  /** Encodes pieces elsewhere; this thread does it where none is given. */
  readonly encode?: PieceEncoder;
  /** Pieces that may be under way at once. */
  readonly inFlight?: number;
}

/**
 * Takes rows of codes from the north and writes a grey PNG (16 or 8 bits, one channel, not interlaced). Pieces are
 * encoded in any order and written in their own; when as many are under way as allowed, writing waits.
 */
export class PngWriter {
  private readonly bytes: 1 | 2;
  private readonly preset: Preset;
  private readonly encode: PieceEncoder;
  private readonly inFlight: number;
  private readonly rowsPerPiece: number;
  private readonly context: number;
  /** The context of the current piece, then its rows. */
  private readonly buffer: Uint16Array;
  private held = 0;
  private pieceRows = 0;
  private rowsDone = 0;
  private adler = 1;
  private readonly pending: Promise<PieceResult>[] = [];

  private constructor(
    private readonly sink: ByteSink,
    private readonly width: number,
    private readonly height: number,
    { bitDepth = 16, preset = 'default', encode, inFlight = 4 }: PngOptions,
  ) {
    this.bytes = bitDepth === 16 ? 2 : 1;
    this.preset = preset;
    this.encode = encode ?? (async (task) => encodePiece(task));
    this.inFlight = encode ? inFlight : 1;
    this.rowsPerPiece = Math.max(1, Math.floor(PIECE_BYTES / (width * this.bytes + 1)));
    this.context = contextRows(width, this.bytes);
    this.buffer = new Uint16Array((this.context + this.rowsPerPiece) * width);
  }

  static async open(sink: ByteSink, width: number, height: number, options: PngOptions = {}): Promise<PngWriter> {
    const header = new Uint8Array(13);
    const view = new DataView(header.buffer);
    view.setUint32(0, width);
    view.setUint32(4, height);
    header.set([options.bitDepth ?? 16, 0, 0, 0, 0], 8);
    await sink.write(SIGNATURE);
    await sink.write(chunk('IHDR', [header]));
    return new PngWriter(sink, width, height, options);
  }

  /** `codes` holds whole rows, any number of them. */
  async write(codes: Uint16Array): Promise<void> {
    const { width } = this;
    const rows = codes.length / width;
    for (let r = 0; r < rows;) {
      const n = Math.min(rows - r, this.rowsPerPiece - this.pieceRows);
      this.buffer.set(codes.subarray(r * width, (r + n) * width), (this.held + this.pieceRows) * width);
      this.pieceRows += n;
      this.rowsDone += n;
      r += n;
      if (this.pieceRows === this.rowsPerPiece || this.rowsDone === this.height) await this.flush();
    }
  }

  private async flush(): Promise<void> {
    const { buffer, width, held, pieceRows, rowsDone } = this;
    const all = held + pieceRows;
    const result = this.encode({
      codes: buffer.slice(0, all * width),
      width,
      bytes: this.bytes,
      context: held,
      fromTop: rowsDone === all,
      first: rowsDone === pieceRows,
      last: rowsDone === this.height,
      preset: this.preset,
    });
    // a piece that fails is noticed when its turn comes, also where another one failed before
    result.catch(() => undefined);
    this.pending.push(result);
    const keep = Math.min(this.context, all);
    buffer.copyWithin(0, (all - keep) * width, all * width);
    this.held = keep;
    this.pieceRows = 0;
    while (this.pending.length >= this.inFlight) await this.writeNext();
  }

  private async writeNext(): Promise<void> {
    const next = this.pending.shift();
    if (!next) return;
    const { bytes, adler, length } = await next;
    this.adler = adler32Joined(this.adler, adler, length);
    if (this.rowsDone === this.height && this.pending.length === 0) {
      const sum = new Uint8Array(4);
      new DataView(sum.buffer).setUint32(0, this.adler);
      await this.sink.write(chunk('IDAT', [bytes, sum]));
    } else await this.sink.write(bytes);
  }

  async close(): Promise<void> {
    if (this.rowsDone !== this.height) {
      throw new LevelGridError('internal', {
        found: `${this.rowsDone} rows`,
        expected: `${this.height}`,
        remedy: 'This is a fault in Level Grid; report it.',
      });
    }
    while (this.pending.length > 0) await this.writeNext();
    await this.sink.write(chunk('IEND', []));
    await this.sink.close();
  }
}
