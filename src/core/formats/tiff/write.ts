import { LevelGridError, type ByteSink } from '../../base';
import type { Codes, Encoding } from '../../raster';
import { bytesOfStored } from '../stored-bytes';
import { headBytes, headWith, LONG, SHORT, type Entry } from './directory-entries';
import { placementEntries, type Placement } from './placement';

/** Bytes of one strip, about. */
const STRIP_BYTES = 1 << 18;
/** Offsets are of 32 bits. */
const MOST_BYTES = 2 ** 32 - 1;

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
    encoding: Pick<Encoding, 'bits' | 'sampleType'>,
    placement?: Placement,
  ): Promise<TiffWriter> {
    const head = headOf(width, height, encoding, placement);
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
  placement: Placement | undefined,
): Uint8Array<ArrayBuffer> {
  const rowBytes = (bits / 8) * width;
  const rowsPerStrip = Math.max(1, Math.min(height, Math.floor(STRIP_BYTES / rowBytes)));
  const strips = Math.ceil(height / rowsPerStrip);
  const rows = (k: number): number => Math.min(rowsPerStrip, height - k * rowsPerStrip);
  const entriesAt = (first: number): readonly Entry[] => [
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
    ...(placement ? placementEntries(placement) : []),
  ];
  return headWith(entriesAt(headBytes(entriesAt(0))));
}
