'use client';
import { Radio, RadioGroup } from '@headlessui/react';
import type { ReactNode } from 'react';

/** One row of a table to choose from: what is read aloud, and its cells. The first ones stand left, the others right. */
export interface ChoiceRow {
  readonly key: string;
  readonly label: string;
  readonly cells: readonly ReactNode[];
}

/** A table whose rows are choices, one of them taken; arrow keys go from row to row. */
export function ChoiceTable({
  label,
  columns,
  head,
  left,
  rows,
  value,
  onChange,
}: {
  label: string;
  /** Columns of the grid, as a class. */
  columns: string;
  head: readonly string[];
  /** So many cells stand at the left. */
  left: number;
  rows: readonly ChoiceRow[];
  /** Key of the row that is taken; null where none is. */
  value: string | null;
  onChange: (key: string) => void;
}) {
  const side = (i: number): string => (i < left ? '' : 'text-right');
  return (
    <RadioGroup value={value} onChange={(key) => key !== null && onChange(key)} aria-label={label}>
      <div className={`${columns} grid text-quiet text-[13px] whitespace-nowrap px-1`} aria-hidden="true">
        {head.map((h, i) => (
          <span key={h} className={side(i)}>
            {h}
          </span>
        ))}
      </div>
      {rows.map((row) => (
        <Radio
          key={row.key}
          value={row.key}
          aria-label={row.label}
          className={`${columns} num grid text-[13px] whitespace-nowrap w-full px-1 h-6 items-center cursor-pointer hover:bg-kelp-wash data-checked:bg-ink data-checked:text-panel focus-visible:outline-offset-[-3px]`}
        >
          {row.cells.map((cell, i) => (
            <span key={head[i] ?? i} className={side(i)}>
              {cell}
            </span>
          ))}
        </Radio>
      ))}
    </RadioGroup>
  );
}
