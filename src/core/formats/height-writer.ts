import type { ByteSink } from '../base';
import type { ByteOrder, Codes, Encoding, FileFormat } from '../raster';
import { ExrWriter } from './exr/write';
import { PngWriter, type PngOptions } from './png';
import * as headerless from './raw/write';
import { TiffWriter } from './tiff/write';

/** Takes whole rows of stored heights from the first to the last. */
export interface HeightWriter {
  write(codes: Codes): Promise<void>;
  close(): Promise<void>;
}

export interface HeightFileShape {
  readonly width: number;
  readonly height: number;
  readonly encoding: Encoding;
  /** Of a RAW; the other formats have their own. */
  readonly byteOrder: ByteOrder;
}

type Opener = (sink: ByteSink, shape: HeightFileShape, png: PngOptions) => Promise<HeightWriter>;

const OPENERS: { readonly [F in FileFormat]: Opener } = {
  png: async (sink, { width, height, encoding }, png) => {
    const writer = await PngWriter.open(sink, width, height, { ...png, bitDepth: encoding.bits === 8 ? 8 : 16 });
    // pictures hold whole codes only
    return { write: (codes) => writer.write(codes as Uint16Array), close: () => writer.close() };
  },
  raw: async (sink, { encoding, byteOrder }) => new headerless.RawWriter(sink, byteOrder, encoding),
  tiff: async (sink, { width, height, encoding }) => TiffWriter.open(sink, width, height, encoding),
  exr: async (sink, { width, height }) => ExrWriter.open(sink, width, height),
};

/** Opens a height file of a format for writing. */
export const openHeightWriter = (
  format: FileFormat,
  sink: ByteSink,
  shape: HeightFileShape,
  png: PngOptions = {},
): Promise<HeightWriter> => OPENERS[format](sink, shape, png);
