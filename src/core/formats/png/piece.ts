import { concatBytes } from '../../base';
import { filter16Kernel } from '../../wasm';
import { adler32, deflatePiece, WINDOW, type Preset } from '../deflate';
import { crc32 } from './crc';
import { filterRow } from './filters';

/** A few rows of a picture, to be filtered and deflated apart from all others. Plain data: it may cross to a worker. */
export interface PieceTask {
  /** Rows of codes: first `context` rows that come before the piece, then the piece itself. */
  readonly codes: Uint16Array;
  readonly width: number;
  readonly bytes: 1 | 2;
  readonly context: number;
  /** The first context row is the picture's first row (or there is none): what stands above it is zeros. */
  readonly fromTop: boolean;
  readonly first: boolean;
  readonly last: boolean;
  readonly preset: Preset;
}

export interface PieceResult {
  /** A finished IDAT chunk; of the last piece only its data, which still lacks the sum of the whole. */
  readonly bytes: Uint8Array;
  /** Adler-32 and length of the piece's filtered bytes. */
  readonly adler: number;
  readonly length: number;
}

/** Who encodes pieces: this thread, or a pool of workers. */
export type PieceEncoder = (task: PieceTask) => Promise<PieceResult>;

/** Zlib header (RFC 1950, 2.2): deflate with a 32 KiB window, and how hard was tried. */
const ZLIB_HEADER: Record<Preset, readonly [number, number]> = { fast: [0x78, 0x01], default: [0x78, 0x9c] };

/** Rows before a piece that are needed to know the 32 KiB before it: their filters, and the row above the first. */
export function contextRows(width: number, bytes: 1 | 2): number {
  return Math.ceil(WINDOW / (width * bytes + 1)) + 1;
}

/** Filters and deflates one piece. The result depends on the picture alone, not on who does it. */
export function encodePiece(task: PieceTask): PieceResult {
  const { codes, width, bytes, context, fromTop, first, last, preset } = task;
  const stride = width * bytes + 1;
  const filtered = filterRows(codes, width, bytes);
  // a first row whose upper neighbour is unknown was only there to filter the second
  const from = fromTop ? 0 : stride;
  const start = context * stride;
  const known = Math.min(WINDOW, start - from);
  const fresh = filtered.subarray(start);
  const data = deflatePiece(filtered.subarray(start - known), known, last, preset);
  const parts = first ? [Uint8Array.from(ZLIB_HEADER[preset]), data] : [data];
  return { bytes: last ? concatBytes(parts) : chunk('IDAT', parts), adler: adler32(fresh), length: fresh.length };
}

function filterRows(codes: Uint16Array, width: number, bytes: 1 | 2): Uint8Array {
  let above = new Uint8Array(width * bytes);
  const byKernel = bytes === 2 ? filter16Kernel(codes, width, above) : null;
  if (byKernel) return byKernel;
  const rows = codes.length / width;
  const stride = width * bytes + 1;
  const out = new Uint8Array(rows * stride);
  let row = new Uint8Array(width * bytes);
  for (let r = 0; r < rows; r++) {
    if (bytes === 1) row.set(codes.subarray(r * width, (r + 1) * width));
    else {
      for (let x = 0, at = r * width; x < width; x++, at++) {
        const code = codes[at]!;
        row[2 * x] = code >> 8;
        row[2 * x + 1] = code & 255;
      }
    }
    filterRow(out, r * stride, row, above, bytes);
    [row, above] = [above, row];
  }
  return out;
}

/** Length, type, data, CRC. */
export function chunk(type: string, parts: readonly Uint8Array[]): Uint8Array {
  const data = concatBytes(parts);
  const { length } = data;
  const out = new Uint8Array(length + 12);
  const view = new DataView(out.buffer);
  view.setUint32(0, length);
  for (let i = 0; i < 4; i++) out[4 + i] = type.charCodeAt(i);
  out.set(data, 8);
  view.setUint32(length + 8, crc32(out.subarray(4, length + 8)));
  return out;
}
