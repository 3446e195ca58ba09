import { LevelGridError, type ByteSink } from '../../base';
import { HOST_IS_LITTLE, swapBytes } from '../bytes';

/** Bytes of one strip, about. */
const STRIP_BYTES = 1 << 18;
/** Offsets are of 32 bits. */
const MOST_BYTES = 2 ** 32 - 1;
const SHORT = 3;
const LONG = 4;

/** An entry of the directory: its tag, type and values. */
type Entry = readonly [tag: number, type: typeof SHORT | typeof LONG, values: readonly number[]];

/**
 * Writes rows of 16-bit codes as a TIFF (revision 6.0, a grey picture of section 4) without compression, low byte first.
 * Sizes are known beforehand, so that the directory comes first and the file is written in one go.
 */
export class TiffWriter {
  private constructor(private readonly sink: ByteSink) {}

  static async open(sink: ByteSink, width: number, height: number): Promise<TiffWriter> {
    const head = headOf(width, height);
    if (head.length + 2 * width * height > MOST_BYTES)
      throw new LevelGridError('too-large', {
        found: `${width} × ${height} samples in one TIFF`,
        expected: 'a file of less than 4 GB',
        remedy: 'Split into tiles.',
      });
    await sink.write(head);
    return new TiffWriter(sink);
  }

  async write(codes: Uint16Array): Promise<void> {
    const bytes = new Uint8Array(codes.slice().buffer);
    if (!HOST_IS_LITTLE) swapBytes(bytes, 2);
    await this.sink.write(bytes);
  }

  async close(): Promise<void> {
    await this.sink.close();
  }
}

/** All bytes before the first sample. */
function headOf(width: number, height: number): Uint8Array<ArrayBuffer> {
  const rowsPerStrip = Math.max(1, Math.min(height, Math.floor(STRIP_BYTES / (2 * width))));
  const strips = Math.ceil(height / rowsPerStrip);
  const rows = (k: number): number => Math.min(rowsPerStrip, height - k * rowsPerStrip);
  const entriesAt = (first: number): Entry[] => [
    [256, LONG, [width]],
    [257, LONG, [height]],
    [258, SHORT, [16]],
    // as they are, the lowest code black, one sample of whole numbers
    [259, SHORT, [1]],
    [262, SHORT, [1]],
    [273, LONG, Array.from({ length: strips }, (_, k) => first + k * rowsPerStrip * 2 * width)],
    [277, SHORT, [1]],
    [278, LONG, [rowsPerStrip]],
    [279, LONG, Array.from({ length: strips }, (_, k) => rows(k) * 2 * width)],
    [339, SHORT, [1]],
  ];
  const lists = strips > 1 ? 2 * 4 * strips : 0;
  const directory = 2 + 12 * entriesAt(0).length + 4;
  const first = 8 + directory + lists;
  const out = new Uint8Array(first);
  const view = new DataView(out.buffer);
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, true);
  view.setUint32(4, 8, true);
  const entries = entriesAt(first);
  view.setUint16(8, entries.length, true);
  let list = 8 + directory;
  entries.forEach(([tag, type, values], i) => {
    const at = 10 + 12 * i;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, values.length, true);
    const [only = 0] = values;
    if (values.length === 1 && type === SHORT) view.setUint16(at + 8, only, true);
    else if (values.length === 1) view.setUint32(at + 8, only, true);
    else {
      view.setUint32(at + 8, list, true);
      for (const value of values) {
        view.setUint32(list, value, true);
        list += 4;
      }
    }
  });
  return out;
}
