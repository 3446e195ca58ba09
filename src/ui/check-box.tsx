'use client';
import { Checkbox, Field, Label } from '@headlessui/react';

export function CheckBox({
  label,
  checked,
  onChange,
  disabled = false,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
  disabled?: boolean;
}) {
  return (
    <Field disabled={disabled} className="inline-flex items-center gap-1.5 data-disabled:opacity-50">
      <Checkbox
        checked={checked}
        onChange={onChange}
        className="group size-[14px] border border-ink bg-panel grid place-items-center cursor-pointer rounded-[1px]"
      >
        <svg
          viewBox="0 0 10 10"
          width="10"
          height="10"
          aria-hidden="true"
          className="opacity-0 group-data-checked:opacity-100"
        >
          <path d="M1.5 5 4 7.6 8.6 2" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      </Checkbox>
      <Label className="cursor-pointer">{label}</Label>
    </Field>
  );
}
