import { LevelGridError, type ByteSink } from '../../base';
import type { Encoding, MapPlace } from '../../raster';
import { zlib } from '../deflate';
import { bytesOfStored } from '../stored-bytes';
import { HeldPieces, RowGroups, type HeightWriter } from '../written-rows';
import { headBytes, headWith, LONG, SHORT, type Entry } from './directory-entries';
import { placementEntries } from './placement';
import { predicted } from './predict';

/** Bytes of one strip, about. */
const STRIP_BYTES = 1 << 18;
/** Offsets are of 32 bits. */
const MOST_BYTES = 2 ** 32 - 1;

export interface TiffShape {
  readonly width: number;
  readonly height: number;
  readonly encoding: Pick<Encoding, 'bits' | 'sampleType' | 'stores'>;
  readonly place?: MapPlace;
  /** Strips are packed by Deflate, without loss, from differences between neighbours. */
  readonly deflate?: boolean;
}

/**
 * Writes rows of stored heights as a TIFF (revision 6.0, a grey picture of section 4; floats as in section 19), low byte
 * first, whole rows in strips. As they are: sizes are known beforehand, so that the directory comes first and the file is
 * written in one go. Packed (Adobe's technical notes 3 of 2002 and of 2005): strips are held until the last one.
 */
export async function openTiff(sink: ByteSink, shape: TiffShape): Promise<HeightWriter> {
  return shape.deflate === true ? packedRows(sink, shape) : plainRows(sink, shape);
}

async function plainRows(sink: ByteSink, shape: TiffShape): Promise<HeightWriter> {
  const { height, encoding } = shape;
  const { rowBytes, rowsPerStrip, strips } = stripsOf(shape);
  const lengths = strips.map((k) => rowBytes * Math.min(rowsPerStrip, height - k * rowsPerStrip));
  await sink.write(headOf(shape, lengths));
  return {
    write: async (codes) => sink.write(bytesOfStored(codes, encoding, 'little')),
    close: () => sink.close(),
  };
}

function packedRows(sink: ByteSink, shape: TiffShape): HeightWriter {
  const { width, encoding } = shape;
  const packed = new HeldPieces();
  const strips = new RowGroups(width * stripsOf(shape).rowsPerStrip, (rows) =>
    packed.add(zlib(predicted(rows, width, encoding))),
  );
  return {
    write: async (codes) => strips.add(codes),
    close: async () => {
      strips.end();
      await sink.write(headOf(shape, packed.lengths));
      for (const strip of packed.pieces) await sink.write(strip);
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
  if (first + sum > MOST_BYTES)
    throw new LevelGridError('too-large', {
      found: `${width} × ${height} samples in one TIFF`,
      expected: 'a file of less than 4 GB',
      remedy: 'Split into tiles.',
    });
  return headWith(entriesAt(first));
}
