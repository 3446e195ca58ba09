import { LevelGridError } from '../../base';
import { MAX_SIDE } from '../limits';

export const SIGNATURE = Uint8Array.of(137, 80, 78, 71, 13, 10, 26, 10);

/** Colour types of the PNG specification (third edition, 11.2.1) with the samples each pixel stores. */
export const COLOUR_TYPES = {
  0: { name: 'grey', samples: 1, depths: [1, 2, 4, 8, 16] },
  2: { name: 'colour', samples: 3, depths: [8, 16] },
  3: { name: 'palette', samples: 1, depths: [1, 2, 4, 8] },
  4: { name: 'grey with alpha', samples: 2, depths: [8, 16] },
  6: { name: 'colour with alpha', samples: 4, depths: [8, 16] },
} as const;
export type ColourType = keyof typeof COLOUR_TYPES;

export interface PngHeader {
  readonly width: number;
  readonly height: number;
  readonly bitDepth: 1 | 2 | 4 | 8 | 16;
  readonly colourType: ColourType;
  readonly interlaced: boolean;
}

/** Deflate can't shrink further than this (RFC 1951: 258 bytes of match in 2 bits). */
const MAX_DEFLATE_RATIO = 1032;

const bad = (found: string, expected: string, remedy = 'Export the picture again.'): LevelGridError =>
  new LevelGridError('corrupt', { found, expected, remedy });

/** Parses and checks the 13 bytes of an IHDR chunk. */
export function parseHeader(data: Uint8Array): PngHeader {
  if (data.length !== 13) throw bad(`a header chunk of ${data.length} bytes`, '13 bytes');
  const view = new DataView(data.buffer, data.byteOffset, 13);
  const width = view.getUint32(0);
  const height = view.getUint32(4);
  const bitDepth = view.getUint8(8);
  const colourType = view.getUint8(9);
  if (width === 0 || height === 0)
    throw bad(`a picture of ${width} × ${height} samples`, 'at least one sample each way');
  if (!(colourType in COLOUR_TYPES)) throw bad(`colour type ${colourType}`, '0, 2, 3, 4 or 6');
  const type = colourType as ColourType;
  if (!(COLOUR_TYPES[type].depths as readonly number[]).includes(bitDepth)) {
    throw bad(
      `${bitDepth} bits in a ${COLOUR_TYPES[type].name} picture`,
      `${COLOUR_TYPES[type].depths.join(', ')} bits`,
    );
  }
  if (view.getUint8(10) !== 0 || view.getUint8(11) !== 0)
    throw bad('an unknown compression or filter method', 'method 0');
  if (view.getUint8(12) > 1) throw bad(`interlace method ${view.getUint8(12)}`, '0 or 1');
  return {
    width,
    height,
    bitDepth: bitDepth as PngHeader['bitDepth'],
    colourType: type,
    interlaced: view.getUint8(12) === 1,
  };
}

/** Bits of one pixel. */
export function pixelBits({ colourType, bitDepth }: PngHeader): number {
  return COLOUR_TYPES[colourType].samples * bitDepth;
}

/** Bytes of one unfiltered row of `width` pixels, without the filter byte. */
export function rowBytes(header: PngHeader, width = header.width): number {
  return Math.ceil((width * pixelBits(header)) / 8);
}

/** Most bytes that the samples of an interlaced picture may take, decoded: all of them are held at once. */
export const MAX_INTERLACED_BYTES = 2 ** 29;

/** Refuses, before anything is allocated, a picture that its own file can't hold or that is too large to work on. */
export function checkLimits(header: PngHeader, fileSize: number, voids = false): void {
  const { width, height } = header;
  if (width > MAX_SIDE || height > MAX_SIDE) {
    throw new LevelGridError('too-large', {
      found: `a picture of ${width} × ${height} samples`,
      expected: `at most ${MAX_SIDE} samples a side`,
      remedy: 'Split the picture, or check that the file is what you think.',
    });
  }
  const needed = (rowBytes(header) + 1) * height;
  if (needed > fileSize * MAX_DEFLATE_RATIO) {
    throw new LevelGridError('truncated', {
      found: `${fileSize} bytes that claim ${width} × ${height} samples`,
      expected: `at least ${Math.ceil(needed / MAX_DEFLATE_RATIO)} bytes for that size`,
      remedy: 'The file is damaged or cut short: export or copy it again.',
    });
  }
  // decoded, every sample takes a byte at the least; with voids four
  const decoded = width * height * (voids ? 4 : header.bitDepth === 16 ? 2 : 1);
  if (header.interlaced && decoded > MAX_INTERLACED_BYTES) {
    throw new LevelGridError('too-large', {
      found: `an interlaced picture that takes ${decoded} bytes at once when it is decoded`,
      expected: `at most ${MAX_INTERLACED_BYTES} (interlaced rows can't be read in bands)`,
      remedy: 'Export it without interlacing.',
    });
  }
}
