'use client';
import { useEffect, useId, useState } from 'react';
import { formatShort } from '@/core/base';
import { readNumber } from './arithmetic';
import { askNext, OPEN_QUESTION } from './ask-next';
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
  /** An empty field means something: the value is taken away. */
  readonly onClear?: () => void;
  readonly digits?: number;
  /** The value is a placeholder: said so, with a way to confirm it as it stands. */
  readonly onConfirm?: () => void;
  /** What taking this value would change, in a few words; null where it can't be taken. */
  readonly preview?: (value: number) => string | null;
}

const show = (value: number | null, digits: number): string =>
  value === null ? '' : String(Number(value.toFixed(digits)));

/** Why a number can't be taken; null where it can. */
function faultOf(read: number | null, { whole, min, max }: Pick<NumberFieldProps, 'whole' | 'min' | 'max'>) {
  if (read === null) return 'Not a number.';
  if (whole && !Number.isInteger(read)) return 'A whole number is needed.';
  if (min !== undefined && read < min) return `At least ${formatShort(min, 9)}.`;
  if (max !== undefined && read > max) return `At most ${formatShort(max, 9)}.`;
  return null;
}

const sentence = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** What was typed and is not taken yet, or was refused. */
function useDraft(props: NumberFieldProps) {
  const { value, unit, onCommit, onConfirm, onClear } = props;
  const [draft, setDraft] = useState<string | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const drop = (): void => {
    setDraft(null);
    setFault(null);
  };
  /** True where the field holds what the recipe holds. */
  const commit = (): boolean => {
    if (draft === null) return true;
    if (onClear && draft.trim() === '') {
      if (value !== null) onClear();
      drop();
      return true;
    }
    const read = readNumber(draft, unit);
    const wrong = faultOf(read, props);
    if (wrong !== null || read === null) {
      setFault(wrong);
      return false;
    }
    try {
      // a placeholder that is typed as it stands is confirmed
      if (read !== value) onCommit(read);
      else onConfirm?.();
      drop();
      return true;
    } catch (reason) {
      setFault(reason instanceof Error ? sentence(reason.message) : 'This value can’t be used.');
      return false;
    }
  };
  // a number that was refused is tried again when what it was refused for has changed
  useEffect(() => {
    if (fault !== null) queueMicrotask(commit);
  });
  const type = (text: string): void => {
    setDraft(text);
    setFault(null);
  };
  return { draft, fault, type, commit, drop };
}

/** A number with its unit. Takes sums and other units; says what it makes of them; commits on Enter or when left. */
export function NumberField(props: NumberFieldProps) {
  const { label, value, unit, hint, digits = 6, onConfirm, preview } = props;
  const id = useId();
  const { draft, fault, type, commit, drop } = useDraft(props);
  const parsed = draft === null ? value : readNumber(draft, unit);
  const changed = draft !== null && parsed !== null && parsed !== value;
  const told = [
    ...(changed && !/^-?[\d.]+$/.test(draft.trim())
      ? [`= ${show(parsed, digits)}${unit === undefined ? '' : ` ${unit}`}`]
      : []),
    ...(changed && preview ? [preview(parsed) ?? ''] : []),
  ].join(': ');
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
            inputMode="text"
            autoComplete="off"
            spellCheck={false}
            className="num w-[100px] h-6 bg-transparent text-right outline-none"
            value={draft ?? show(value, digits)}
            aria-invalid={fault !== null}
            aria-describedby={`${id}-hint`}
            {...(onConfirm && { [OPEN_QUESTION]: '' })}
            onFocus={(e) => e.currentTarget.select()}
            onChange={(e) => type(e.target.value)}
            onBlur={commit}
            onKeyDown={(e) => {
              if (e.key === 'Enter') {
                if (draft === null) onConfirm?.();
                if (commit() && onConfirm) askNext(e.currentTarget);
              }
              if (e.key === 'Escape' && draft !== null) {
                e.stopPropagation();
                drop();
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
        {fault ?? (told === '' ? hint : told)}
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
