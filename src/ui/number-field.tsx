'use client';
import { useId, useState } from 'react';
import { readNumber } from './arithmetic';
import { Mark } from './mark';

export interface NumberFieldProps {
  readonly label: string;
  readonly value: number | null;
  readonly unit?: string;
  /** One plain sentence under the field. */
  readonly hint?: string;
  readonly whole?: boolean;
  readonly min?: number;
  readonly max?: number;
  /** Throws an error with a message where the value can't be taken. */
  readonly onCommit: (value: number) => void;
  readonly digits?: number;
  /** The value is a placeholder: said so, with a way to confirm it as it stands. */
  readonly onConfirm?: () => void;
}

const show = (value: number | null, digits: number): string =>
  value === null ? '' : String(Number(value.toFixed(digits)));

/** A number with its unit. Takes arithmetic; says what it makes of it; commits on Enter or when left. */
export function NumberField({
  label,
  value,
  unit,
  hint,
  whole = false,
  min,
  max,
  onCommit,
  digits = 6,
  onConfirm,
}: NumberFieldProps) {
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const text = draft ?? show(value, digits);
  const parsed = draft === null ? value : readNumber(draft);
  const changed = draft !== null && parsed !== null && parsed !== value && !/^-?[\d.]+$/.test(draft.trim());

  const commit = (): void => {
    if (draft === null) return;
    const read = readNumber(draft);
    const wrong =
      read === null
        ? 'Not a number.'
        : whole && !Number.isInteger(read)
          ? 'A whole number is needed.'
          : min !== undefined && read < min
            ? `At least ${min}.`
            : max !== undefined && read > max
              ? `At most ${max}.`
              : null;
    if (wrong !== null || read === null) {
      setFault(wrong);
      return;
    }
    try {
      // a placeholder that is typed as it stands is confirmed
      if (read !== value) onCommit(read);
      else onConfirm?.();
      setDraft(null);
      setFault(null);
    } catch (reason) {
      setFault(reason instanceof Error ? reason.message : 'This value can’t be used.');
    }
  };

  return (
    <div>
      <div className="flex items-baseline gap-2">
        <label id={`${id}-label`} htmlFor={id} className="flex-1 min-w-0">
          {label}
        </label>
        <span
          className={`inline-flex items-baseline border-b ${fault === null ? 'border-strong focus-within:border-kelp' : 'border-madder'}`}
        >
          <input
            id={id}
            inputMode="decimal"
            autoComplete="off"
            spellCheck={false}
            className="num w-[86px] h-6 bg-transparent text-right outline-none"
            value={text}
            aria-invalid={fault !== null}
            aria-describedby={`${id}-hint`}
            onChange={(e) => {
              setDraft(e.target.value);
              setFault(null);
            }}
            onBlur={commit}
            onKeyDown={(e) => {
              if (e.key === 'Enter') {
                if (draft === null) onConfirm?.();
                else commit();
              }
              if (e.key === 'Escape') {
                setDraft(null);
                setFault(null);
              }
            }}
          />
          <span className="num text-quiet pl-1 w-7 text-[12px]">{unit ?? ''}</span>
        </span>
      </div>
      <p
        id={`${id}-hint`}
        className={`text-[13px] leading-[17px] ${fault === null ? 'text-quiet' : 'text-madder'}`}
        role={fault === null ? undefined : 'alert'}
      >
        {fault ?? (changed ? `= ${show(parsed, digits)}${unit === undefined ? '' : ` ${unit}`}` : hint)}
      </p>
      {onConfirm && (
        <p className="text-[13px] leading-[17px] text-ochre flex items-center gap-1.5">
          <Mark state="caution" silent /> Placeholder: type it, or{' '}
          <button
            type="button"
            aria-label="Confirm this placeholder"
            aria-describedby={`${id}-label`}
            className="min-h-6 underline decoration-1 underline-offset-2 hover:decoration-2"
            onClick={onConfirm}
          >
            confirm it
          </button>
        </p>
      )}
    </div>
  );
}
