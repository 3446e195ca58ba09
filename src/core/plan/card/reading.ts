import { formatBytes, formatNumber } from '../../base';
import type { CardRow } from '../document';
import { count, type CardInput } from './parts';

const ORDER_NOTES = {
  little:
    'Which end of each number comes first: the low one. Importers that name it after platforms call it that of Windows.',
  big: 'Which end of each number comes first: the high one. Importers that name it after platforms call it that of (older) Macs.',
} as const;

/** How the file is to be read. */
export function readingRows({ recipe, target, tile }: CardInput): CardRow[] {
  const { format, byteOrder, rows } = recipe.output;
  const { encoding } = target;
  const { bits } = encoding;
  const text = (id: string, label: string, value: string, note: string): CardRow => ({
    metres: '',
    id,
    label,
    value,
    exact: null,
    digits: 0,
    unit: '',
    formula: note,
    note,
    assumed: [],
  });
  const depth = count(
    recipe,
    'bitDepth',
    encoding.sampleType === 'float' ? 'Bit depth, floats' : 'Bit depth',
    bits,
    encoding.stores === 'codes'
      ? 'Bits of each height in the file, without a sign.'
      : `Each height is a floating-point number${encoding.stores === 'metres' ? ': its elevation in metres' : ' from 0, the lowest elevation, to 1, the highest'}.`,
    encoding.stores === 'codes' ? `${formatNumber(target.highestCode + 1, 0)} heights` : encoding.words,
  );
  if (format !== 'raw') return [depth];
  const bytes = tile.width * tile.height * (bits / 8);
  return [
    depth,
    ...(bits > 8 ? [text('byteOrder', 'Byte order', byteOrder, ORDER_NOTES[byteOrder])] : []),
    text(
      'rowOrder',
      'First row',
      rows,
      rows === 'north'
        ? 'The northernmost row comes first in the file.'
        : 'The southernmost row comes first in the file.',
    ),
    count(
      recipe,
      'fileSize',
      'Bytes in a file',
      bytes,
      `${formatBytes(bytes)}: the importer must find just as many.`,
      `${tile.width} · ${tile.height} · ${bits / 8}`,
    ),
  ];
}
