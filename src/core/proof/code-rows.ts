import { LevelGridError, type ByteSource } from '../base';
import { openHeightFile } from '../formats';
import type { PageFile } from './twin';

/** Bytes read at once from a RAW. */
const PIECE = 1 << 20;

/** Rows of codes of one written file from the north, as the target would read them. Valid until the next is requested. */
export async function* codeRows(source: ByteSource, file: PageFile): AsyncGenerator<Uint16Array, void, undefined> {
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
async function* pictureRows(source: ByteSource, file: PageFile): AsyncGenerator<Uint16Array> {
  const opened = await openHeightFile(source);
  const { format, width, height, bitDepth, channels } = opened.info;
  if (format !== file.format) throw wrong(file, `a ${format} file`, `a ${file.format} file`);
  if (width !== file.width || height !== file.height)
    throw wrong(file, `${width} × ${height} samples`, `${file.width} × ${file.height}`);
  if (bitDepth !== 16 || channels !== 1 || opened.info.sampleType !== 'uint')
    throw wrong(file, `${channels} channels of ${bitDepth} bits`, 'one channel of 16 bits');
  for await (const { rows, data } of opened.bands()) {
    for (let r = 0; r < rows; r++) yield (data as Uint16Array).subarray(r * width, (r + 1) * width);
  }
  // what a reader of sources puts up with is none of a file that was just written
  const [late] = opened.lateWarnings;
  if (late) throw wrong(file, late.message, 'a picture as it was written');
  if (file.format === 'png') await checkEnd(source, file);
}

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
async function* rawRows(source: ByteSource, file: PageFile): AsyncGenerator<Uint16Array> {
  const { width, height } = file;
  const rowBytes = width * 2;
  if (source.size !== rowBytes * height)
    throw wrong(file, `${source.size} bytes`, `${rowBytes * height} (${width} × ${height} samples of 16 bits)`);
  const lowFirst = file.byteOrder !== 'big';
  const perPiece = Math.max(1, Math.floor(PIECE / rowBytes));
  for (let y = 0; y < height; y += perPiece) {
    const rows = Math.min(perPiece, height - y);
    const firstStored = file.rows === 'south' ? height - y - rows : y;
    // on memory of its own, where a number begins on an even byte
    const codes = new Uint16Array(rows * width);
    const bytes = new Uint8Array(codes.buffer);
    bytes.set(await source.read(firstStored * rowBytes, rows * rowBytes));
    if (lowFirst !== LOW_FIRST) exchangeHalves(codes);
    for (let r = 0; r < rows; r++) {
      const at = (file.rows === 'south' ? rows - 1 - r : r) * width;
      yield codes.subarray(at, at + width);
    }
  }
}

function exchangeHalves(codes: Uint16Array): void {
  for (let i = 0; i < codes.length; i++) {
    const code = codes[i]!;
    codes[i] = ((code & 255) << 8) | (code >> 8);
  }
}
