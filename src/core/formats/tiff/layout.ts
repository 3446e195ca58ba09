import { LevelGridError } from '../../base';
import type { SampleType } from '../../raster';
import { checkSize } from '../blocks';
import type { Directory } from './directory';
import { NOT_READ, READ } from './unpack';

/** How the blocks of a raster lie in the file. */
export interface Layout {
  readonly width: number;
  readonly height: number;
  readonly bits: 8 | 16 | 32 | 64;
  readonly type: SampleType;
  /** Samples of a place that lie side by side in a block. */
  readonly together: number;
  readonly compression: number;
  readonly predictor: number;
  readonly little: boolean;
  readonly blockWidth: number;
  readonly blockHeight: number;
  readonly tiled: boolean;
  /** White is stored as 0. */
  readonly inverted: boolean;
  readonly noData: number | null;
}

export const unsupported = (found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('unsupported', { found, expected, remedy });

/** How a picture's blocks lie, as its directory says. Throws `unsupported` or `corrupt` for what can't be read. */
export async function readLayout(d: Directory): Promise<Layout> {
  const width = await d.number('width', 0);
  const height = await d.number('height', 0);
  checkSize(width, height, 0);
  const samples = await d.number('samples', 1);
  const depths = await d.numbers('bits');
  const formats = await d.numbers('sampleFormat');
  const bits = depths[0] ?? 1;
  if (depths.some((b) => b !== bits))
    throw unsupported(
      `channels of ${[...new Set(depths)].slice(0, 4).join(', ')} bits`,
      'channels of one depth',
      'Export the heights alone.',
    );
  const type = ({ 1: 'uint', 2: 'int', 3: 'float', 4: 'uint' } as const)[formats[0] ?? 1];
  if (!type)
    throw unsupported(
      `samples of format ${formats[0] ?? 1}`,
      'whole numbers or floats',
      'Export the heights as floats of 32 bits.',
    );
  if (!(bits === 8 || bits === 16 || bits === 32 || bits === 64) || (type === 'float' && bits === 8))
    throw unsupported(
      `samples of ${bits} bits${type === 'float' ? ' (floats)' : ''}`,
      '8, 16, 32 or 64 bits; floats of 16, 32 or 64',
      'Export the heights with 16 bits or as floats of 32.',
    );
  const compression = await d.number('compression', 1);
  if (!READ[compression])
    throw unsupported(
      `a TIFF packed with ${NOT_READ[compression] ?? `method ${compression}`}`,
      'one of: none, LZW, Deflate, PackBits',
      'Export it again with Deflate, which keeps every height.',
    );
  if ((await d.number('fillOrder', 1)) !== 1)
    throw unsupported('bits in reverse order', 'the usual order', 'Export the file again.');
  const photometric = await d.number('photometric', 1);
  if (photometric === 3 || photometric > 4)
    throw unsupported(
      photometric === 3 ? 'a palette picture' : `a picture in colours of kind ${photometric}`,
      'grey samples',
      'Export the heights as one grey channel.',
    );
  const predictor = await d.number('predictor', 1);
  if (![1, 2, 3].includes(predictor) || (predictor === 3 && type !== 'float'))
    throw unsupported(`predictor ${predictor}`, '1, 2, or 3 for floats', 'Export it again without a predictor.');
  const planar = await d.number('planar', 1);
  const tiled = d.has('tileOffsets');
  const blockWidth = tiled ? await d.number('tileWidth', 0) : width;
  const blockHeight = tiled
    ? await d.number('tileHeight', 0)
    : Math.min(height, await d.number('rowsPerStrip', height));
  if (blockWidth < 1 || blockHeight < 1 || samples < 1 || samples > 4096)
    throw new LevelGridError('corrupt', {
      found: `blocks of ${blockWidth} × ${blockHeight} places with ${samples} samples`,
      expected: 'at least one each way',
      remedy: 'The file is damaged: export or copy it again.',
    });
  const text = await d.text('noData');
  return {
    width,
    height,
    bits,
    type,
    together: planar === 2 ? 1 : samples,
    compression,
    predictor,
    little: d.little,
    blockWidth,
    blockHeight,
    tiled,
    inverted: photometric === 0 && type === 'uint',
    noData: noDataOf(text, type, bits),
  };
}

/** The value that stands for no height, where samples of this type can hold it. */
function noDataOf(text: string | null, type: SampleType, bits: number): number | null {
  if (text === null || text.trim() === '') return null;
  const value = /^[+-]?nan$/i.test(text.trim()) ? NaN : Number(text);
  if (Number.isNaN(value)) return type === 'float' ? NaN : null;
  if (type === 'float') return bits === 32 ? Math.fround(value) : value;
  const [low, high] = type === 'int' ? [-(2 ** (bits - 1)), 2 ** (bits - 1) - 1] : [0, 2 ** bits - 1];
  return Number.isInteger(value) && value >= low && value <= high ? value : null;
}
