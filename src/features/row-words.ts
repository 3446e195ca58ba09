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

/** A value as it is said on the page: words of a row, or the number as typed. */
export const saidText = (row: Pick<CardRow, 'id' | 'value' | 'digits'>): string =>
  ROW_WORDS[row.id]?.find((w) => w.value === row.value)?.label ?? typedText(row);
