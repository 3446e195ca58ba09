import { LevelGridError, type ByteSink } from '../../base';
import type { Codes, Encoding, MapPlace } from '../../raster';
import { zlib } from '../deflate';
import { bytesOfStored } from '../stored-bytes';
import { headBytes, headWith, LONG, SHORT, type Entry } from './directory-entries';
import { placementEntries } from './placement';
import { predicted } from './predict';

/** Bytes of one strip, about. */
const STRIP_BYTES = 1 << 18;
/** Offsets are of 32 bits. */
const MOST_BYTES = 2 ** 32 - 1;
/** Packed strips are held until the last one is known, up to this many bytes. */
const MOST_HELD = 1.5e9;

export interface TiffShape {
  readonly width: number;
  readonly height: number;
  readonly encoding: Pick<Encoding, 'bits' | 'sampleType' | 'stores'>;
  readonly place?: MapPlace;
  /** Strips are packed by Deflate, without loss, from differences between neighbours. */
  readonly deflate?: boolean;
}

interface Rows {
  write(codes: Codes): Promise<void>;
  close(): Promise<void>;
}

/**
 * Writes rows of stored heights as a TIFF (revision 6.0, a grey picture of section 4; floats as in section 19), low byte
 * first, whole rows in strips. As they are: sizes are known beforehand, so that the directory comes first and the file is
 * written in one go. Packed (Adobe's technical notes 3 of 2002 and of 2005): strips are held until the last one.
 */
export async function openTiff(sink: ByteSink, shape: TiffShape): Promise<Rows> {
  return shape.deflate === true ? packedRows(sink, shape) : plainRows(sink, shape);
}

async function plainRows(sink: ByteSink, shape: TiffShape): Promise<Rows> {
  const { height, encoding } = shape;
  const { rowBytes, rowsPerStrip, strips } = stripsOf(shape);
  const lengths = strips.map((k) => rowBytes * Math.min(rowsPerStrip, height - k * rowsPerStrip));
  await sink.write(headOf(shape, lengths));
  return {
    write: async (codes) => sink.write(bytesOfStored(codes, encoding, 'little')),
    close: () => sink.close(),
  };
}

function packedRows(sink: ByteSink, shape: TiffShape): Rows {
  const { width, encoding } = shape;
  const { rowsPerStrip } = stripsOf(shape);
  const packed: Uint8Array[] = [];
  let bytes = 0;
  let waiting: Codes[] = [];
  let rows = 0;
  const pack = (): void => {
    if (rows === 0) return;
    const strip = zlib(predicted(waiting, rows, width, encoding));
    bytes += strip.length;
    if (bytes > MOST_HELD) throw tooLarge(shape, 'a TIFF that is packed', `at most ${MOST_HELD} bytes, packed`);
    packed.push(strip);
    waiting = [];
    rows = 0;
  };
  return {
    write: async (codes) => {
      for (let at = 0; at < codes.length;) {
        const n = Math.min((rowsPerStrip - rows) * width, codes.length - at);
        waiting.push(codes.slice(at, at + n));
        rows += n / width;
        at += n;
        if (rows === rowsPerStrip) pack();
      }
    },
    close: async () => {
      pack();
      await sink.write(
        headOf(
          shape,
          packed.map((strip) => strip.length),
        ),
      );
      for (const strip of packed) await sink.write(strip);
      await sink.close();
    },
  };
}

function stripsOf({ width, height, encoding }: TiffShape): {
  readonly rowBytes: number;
  readonly rowsPerStrip: number;
  readonly strips: readonly number[];
} {
  const rowBytes = (encoding.bits / 8) * width;
  const rowsPerStrip = Math.max(1, Math.min(height, Math.floor(STRIP_BYTES / rowBytes)));
  return { rowBytes, rowsPerStrip, strips: Array.from({ length: Math.ceil(height / rowsPerStrip) }, (_, k) => k) };
}

const tooLarge = ({ width, height }: TiffShape, what: string, expected: string): LevelGridError =>
  new LevelGridError('too-large', {
    found: `${width} × ${height} samples in ${what}`,
    expected,
    remedy: 'Split into tiles.',
  });

/** All bytes before the first sample; `lengths`: bytes of each strip. */
function headOf(shape: TiffShape, lengths: readonly number[]): Uint8Array<ArrayBuffer> {
  const { width, height, encoding, place, deflate = false } = shape;
  const { bits, sampleType, stores } = encoding;
  const { rowsPerStrip } = stripsOf(shape);
  let sum = 0;
  const before = lengths.map((length) => (sum += length) - length);
  const float = sampleType === 'float';
  const entriesAt = (first: number): readonly Entry[] => [
    [256, LONG, [width]],
    [257, LONG, [height]],
    [258, SHORT, [bits]],
    // the lowest black, one sample: of whole numbers or of floats
    [259, SHORT, [deflate ? 8 : 1]],
    [262, SHORT, [1]],
    [273, LONG, before.map((b) => first + b)],
    [277, SHORT, [1]],
    [278, LONG, [rowsPerStrip]],
    [279, LONG, lengths],
    ...(deflate ? ([[317, SHORT, [float ? 3 : 2]]] as const) : []),
    [339, SHORT, [float ? 3 : 1]],
    ...(place ? placementEntries(place, stores === 'metres') : []),
  ];
  const first = headBytes(entriesAt(0));
  if (first + sum > MOST_BYTES) throw tooLarge(shape, 'one TIFF', 'a file of less than 4 GB');
  return headWith(entriesAt(first));
}
