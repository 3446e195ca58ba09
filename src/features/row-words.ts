import { formatNumber } from '@/core/base';
import type { CardRow } from '@/core/plan';
import { typedText } from '@/core/run';

/** Words that a row of words may hold, as they are said. */
export const ROW_WORDS: Readonly<Record<string, readonly { value: string; label: string }[]>> = {
  byteOrder: [
    { value: 'little', label: 'little-endian' },
    { value: 'big', label: 'big-endian' },
  ],
  rowOrder: [
    { value: 'north', label: 'north row first' },
    { value: 'south', label: 'south row first' },
  ],
};

/** A value as the page shows it: the words of a row, a size as it is typed, any other number in groups of three. */
export function saidText(row: Pick<CardRow, 'id' | 'value' | 'digits' | 'unit'>): string {
  const { value, digits, unit } = row;
  const word = ROW_WORDS[row.id]?.find((w) => w.value === value)?.label;
  if (word !== undefined || typeof value === 'string') return word ?? typedText(row);
  // sizes in samples are names, written alike everywhere: 1525, never 1 525
  return digits === 0 && unit === '' ? typedText(row).replace('-', '−') : formatNumber(value, digits);
}
