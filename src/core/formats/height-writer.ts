import { concatBytes, type ByteSink } from '../base';
import { saysPlace, type ByteOrder, type Codes, type Encoding, type FileFormat, type MapPlace } from '../raster';
import { openAscii } from './asc/write';
import { openExr } from './exr/write';
import { PngWriter, type PngOptions } from './png';
import * as headerless from './raw/write';
import { openTiff } from './tiff/write';
import type { HeightWriter } from './written-rows';

export interface HeightFileShape {
  readonly width: number;
  readonly height: number;
  readonly encoding: Encoding;
  /** Of a RAW; the other formats have their own. */
  readonly byteOrder: ByteOrder;
  /** Where the ground lies on a map, for formats that can say it. */
  readonly place?: MapPlace;
  /** Where it lies in the world that is written, in metres: for formats that must say some place. */
  readonly lies?: Pick<MapPlace, 'origin' | 'across' | 'down'>;
  /** Packed, without loss, where a format can be both. */
  readonly deflate?: boolean;
  /** Name of the one channel of an EXR. */
  readonly channel?: string;
}

type Opener = (sink: ByteSink, shape: HeightFileShape, png: PngOptions) => Promise<HeightWriter>;

const OPENERS: { readonly [F in FileFormat]: Opener } = {
  png: async (sink, { width, height, encoding }, png) => {
    const writer = await PngWriter.open(sink, width, height, { ...png, bitDepth: encoding.bits === 8 ? 8 : 16 });
    // pictures hold whole codes only
    return { write: (codes) => writer.write(codes as Uint16Array), close: () => writer.close() };
  },
  raw: async (sink, { encoding, byteOrder }) => new headerless.RawWriter(sink, byteOrder, encoding),
  tiff: async (sink, shape) => openTiff(sink, shape),
  exr: async (sink, shape) => openExr(sink, shape),
  asc: async (sink, { width, height, place, lies }) => {
    const stated = place && saysPlace('asc', place) ? place : lies;
    if (!stated) throw new Error('a text grid must lie somewhere');
    return openAscii(sink, width, height, stated);
  },
};

/** Opens a height file of a format for writing. */
export const openHeightWriter = (
  format: FileFormat,
  sink: ByteSink,
  shape: HeightFileShape,
  png: PngOptions = {},
): Promise<HeightWriter> => OPENERS[format](sink, shape, png);

/** A whole height file in memory; for files that are small. */
export async function heightFile(format: FileFormat, shape: HeightFileShape, codes: Codes): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  const sink: ByteSink = {
    // what is handed over may be used again
    write: async (bytes) => void parts.push(bytes.slice()),
    close: async () => undefined,
  };
  const writer = await openHeightWriter(format, sink, shape);
  await writer.write(codes);
  await writer.close();
  return concatBytes(parts);
}
