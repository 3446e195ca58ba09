import { LevelGridError, type ByteSink } from '../../base';
import type { Codes, Encoding } from '../../raster';
import { bytesOfStored } from '../stored-bytes';

/** Bytes of one strip, about. */
const STRIP_BYTES = 1 << 18;
/** Offsets are of 32 bits. */
const MOST_BYTES = 2 ** 32 - 1;
const SHORT = 3;
const LONG = 4;

/** An entry of the directory: its tag, type and values. */
type Entry = readonly [tag: number, type: typeof SHORT | typeof LONG, values: readonly number[]];

/**
 * Writes rows of stored heights as a TIFF (revision 6.0, a grey picture of section 4; floats as in section 19) without
 * compression, low byte first.
 * Sizes are known beforehand, so that the directory comes first and the file is written in one go.
 */
export class TiffWriter {
  private constructor(
    private readonly sink: ByteSink,
    private readonly encoding: Pick<Encoding, 'bits'>,
  ) {}

  static async open(
    sink: ByteSink,
    width: number,
    height: number,
    encoding: Pick<Encoding, 'bits' | 'sampleType'> = { bits: 16, sampleType: 'uint' },
  ): Promise<TiffWriter> {
    const head = headOf(width, height, encoding);
    if (head.length + (encoding.bits / 8) * width * height > MOST_BYTES)
      throw new LevelGridError('too-large', {
        found: `${width} × ${height} samples in one TIFF`,
        expected: 'a file of less than 4 GB',
        remedy: 'Split into tiles.',
      });
    await sink.write(head);
    return new TiffWriter(sink, encoding);
  }

  async write(codes: Codes): Promise<void> {
    await this.sink.write(bytesOfStored(codes, this.encoding, 'little'));
  }

  async close(): Promise<void> {
    await this.sink.close();
  }
}

/** All bytes before the first sample. */
function headOf(
  width: number,
  height: number,
  { bits, sampleType }: Pick<Encoding, 'bits' | 'sampleType'>,
): Uint8Array<ArrayBuffer> {
  const rowBytes = (bits / 8) * width;
  const rowsPerStrip = Math.max(1, Math.min(height, Math.floor(STRIP_BYTES / rowBytes)));
  const strips = Math.ceil(height / rowsPerStrip);
  const rows = (k: number): number => Math.min(rowsPerStrip, height - k * rowsPerStrip);
  const entriesAt = (first: number): Entry[] => [
    [256, LONG, [width]],
    [257, LONG, [height]],
    [258, SHORT, [bits]],
    // as they are, the lowest black, one sample: of whole numbers or of floats
    [259, SHORT, [1]],
    [262, SHORT, [1]],
    [273, LONG, Array.from({ length: strips }, (_, k) => first + k * rowsPerStrip * rowBytes)],
    [277, SHORT, [1]],
    [278, LONG, [rowsPerStrip]],
    [279, LONG, Array.from({ length: strips }, (_, k) => rows(k) * rowBytes)],
    [339, SHORT, [sampleType === 'float' ? 3 : 1]],
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
