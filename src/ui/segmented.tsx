'use client';
import { Radio, RadioGroup } from '@headlessui/react';

export interface Choice<T extends string> {
  readonly value: T;
  readonly label: string;
  readonly disabled?: boolean;
}

/** A few choices side by side, one of them taken. */
export function Segmented<T extends string>({
  label,
  value,
  choices,
  onChange,
}: {
  label: string;
  value: T;
  choices: readonly Choice<T>[];
  onChange: (value: T) => void;
}) {
  return (
    <RadioGroup
      value={value}
      onChange={onChange}
      aria-label={label}
      className="flex border border-ink rounded-[2px] overflow-hidden"
    >
      {choices.map((c) => (
        <Radio
          key={c.value}
          value={c.value}
          disabled={c.disabled ?? false}
          className="flex-auto whitespace-nowrap px-1.5 h-[26px] leading-[26px] text-center cursor-pointer border-l border-ink first:border-l-0 data-checked:bg-ink data-checked:text-panel data-disabled:text-quiet data-disabled:cursor-default focus-visible:outline-offset-[-3px]"
        >
          {c.label}
        </Radio>
      ))}
    </RadioGroup>
  );
}
