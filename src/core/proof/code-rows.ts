import { LevelGridError, type ByteSource } from '../base';
import { openHeightFile } from '../formats';
import type { PageFile } from './twin';

/** Bytes read at once from a RAW. */
const PIECE = 1 << 20;

/** Heights as a file stores them. */
export type StoredRow = Uint16Array | Float32Array;

/** Rows of stored heights of one written file from the north, as the target would read them. Valid until the next is requested. */
export async function* codeRows(source: ByteSource, file: PageFile): AsyncGenerator<StoredRow, void, undefined> {
  if (file.format === 'raw') yield* rawRows(source, file);
  else yield* pictureRows(source, file);
}

const wrong = (file: PageFile, found: string, expected: string): LevelGridError =>
  new LevelGridError('pack-file', {
    file: file.name,
    found,
    expected,
    remedy: 'Take the file as it was written, or make the pack again.',
  });

/** Of a picture as its format says. */
async function* pictureRows(source: ByteSource, file: PageFile): AsyncGenerator<StoredRow> {
  const opened = await openHeightFile(source);
  const { format, width, height, bitDepth, channels } = opened.info;
  if (format !== file.format) throw wrong(file, `a ${format} file`, `a ${file.format} file`);
  if (width !== file.width || height !== file.height)
    throw wrong(file, `${width} × ${height} samples`, `${file.width} × ${file.height}`);
  if (bitDepth !== file.bitDepth || channels !== 1 || opened.info.sampleType !== file.sampleType)
    throw wrong(
      file,
      `${channels} channels of ${bitDepth} bits, ${opened.info.sampleType}`,
      `one channel of ${file.bitDepth} bits, ${file.sampleType}`,
    );
  for await (const { rows, data } of opened.bands()) {
    for (let r = 0; r < rows; r++) yield rowOf(data, r * width, (r + 1) * width);
  }
  // what a reader of sources puts up with is none of a file that was just written
  const [late] = opened.lateWarnings;
  if (late) throw wrong(file, late.message, 'a picture as it was written');
  if (file.format === 'png') await checkEnd(source, file);
}

/** Codes of 8 bits are compared as those of 16. */
const rowOf = (data: ArrayLike<number>, from: number, to: number): StoredRow =>
  data instanceof Uint16Array || data instanceof Float32Array
    ? data.subarray(from, to)
    : Uint16Array.from({ length: to - from }, (_, i) => data[from + i]!);

/** A picture ends with its closing chunk. */
async function checkEnd(source: ByteSource, file: PageFile): Promise<void> {
  const CLOSING = [0, 0, 0, 0, 0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82];
  const end = await source.read(Math.max(0, source.size - CLOSING.length), Math.min(source.size, CLOSING.length));
  if (CLOSING.some((byte, i) => end[i] !== byte))
    throw wrong(file, 'bytes behind the closing chunk of the picture, or no such chunk', 'a picture as it was written');
}

/** This machine stores the low half of a number first. */
const LOW_FIRST = new Uint8Array(Uint16Array.of(1).buffer)[0] === 1;

/** Written out here: the reader for sources is not asked, so a slip there can't hide one here. */
async function* rawRows(source: ByteSource, file: PageFile): AsyncGenerator<StoredRow> {
  const { width, height, bitDepth } = file;
  const rowBytes = (width * bitDepth) / 8;
  if (source.size !== rowBytes * height)
    throw wrong(
      file,
      `${source.size} bytes`,
      `${rowBytes * height} (${width} × ${height} samples of ${bitDepth} bits)`,
    );
  const lowFirst = file.byteOrder !== 'big';
  const perPiece = Math.max(1, Math.floor(PIECE / rowBytes));
  for (let y = 0; y < height; y += perPiece) {
    const rows = Math.min(perPiece, height - y);
    const firstStored = file.rows === 'south' ? height - y - rows : y;
    const codes = numbersOf(await source.read(firstStored * rowBytes, rows * rowBytes), bitDepth, lowFirst);
    for (let r = 0; r < rows; r++) {
      const at = (file.rows === 'south' ? rows - 1 - r : r) * width;
      yield codes.subarray(at, at + width);
    }
  }
}

/** Bytes as numbers of so many bits: on memory of their own, where a number begins where it may. */
function numbersOf(bytes: Uint8Array, bits: number, lowFirst: boolean): StoredRow {
  if (bits === 8) return Uint16Array.from(bytes);
  const own = bytes.slice();
  if (lowFirst !== LOW_FIRST) turnNumbers(own, bits / 8);
  return bits === 32 ? new Float32Array(own.buffer) : new Uint16Array(own.buffer);
}

/** Each number of so many bytes the other way round. */
function turnNumbers(bytes: Uint8Array, size: number): void {
  for (let at = 0; at < bytes.length; at += size)
    for (let i = 0; i < size / 2; i++) {
      const byte = bytes[at + i]!;
      bytes[at + i] = bytes[at + size - 1 - i]!;
      bytes[at + size - 1 - i] = byte;
    }
}
