'use client';
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react';
import { ChevronDown } from 'lucide-react';

export interface Option<T extends string> {
  readonly value: T;
  readonly label: string;
  readonly hint?: string;
}

/** One of several, in a list that opens. */
export function Select<T extends string>({
  label,
  value,
  options,
  onChange,
  className = '',
}: {
  label: string;
  value: T;
  options: readonly Option<T>[];
  onChange: (value: T) => void;
  className?: string;
}) {
  const current = options.find((o) => o.value === value);
  return (
    <Listbox value={value} onChange={onChange}>
      <ListboxButton
        aria-label={`${label}: ${current?.label ?? ''}`}
        className={`flex items-center justify-between gap-1 h-7 border-b border-ink text-left ${className}`}
      >
        <span className="truncate">{current?.label ?? value}</span>
        <ChevronDown size={14} aria-hidden="true" className="shrink-0" />
      </ListboxButton>
      <ListboxOptions
        anchor={{ to: 'bottom start', gap: 2 }}
        className="z-50 min-w-(--button-width) max-w-80 bg-panel border border-ink outline-none py-1"
      >
        {options.map((o) => (
          <ListboxOption
            key={o.value}
            value={o.value}
            className="px-3 py-1 cursor-pointer data-focus:bg-kelp-wash data-selected:font-semibold"
          >
            {o.label}
            {o.hint !== undefined && (
              <span className="block text-[13px] leading-4 text-quiet font-normal whitespace-normal">{o.hint}</span>
            )}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}
