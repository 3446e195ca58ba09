'use client';
import { formatLength, formatNumber } from '@/core/base';
import type { CardRow } from '@/core/plan';
import type { Proof, ProofCheck } from '@/core/proof';
import type { Typed } from '@/state';
import { Button, Mark, NumberField, Select, tied } from '@/ui';
import { Group, Hint } from './bench/parts';
import { ROW_WORDS, saidText } from './row-words';

/** What a proof found, for every place of the page that shows one. */

export function Verdict({ proof, aside }: { proof: Proof; aside?: string | undefined }) {
  return (
    <div className="flex flex-wrap items-center gap-x-2 font-semibold text-[15px]" role="status">
      <Mark state={proof.holds ? 'holds' : 'fault'} silent />
      {proof.holds ? 'The pack holds' : 'The pack does not hold'}
      {aside !== undefined && <span className="text-ochre font-normal text-[13px]">{aside}</span>}
    </div>
  );
}

const FIGURES = ['largest', 'mean', 'RMS'] as const;

/** `onShow`: goes to where an error is largest. */
export function Errors({ proof, onShow }: { proof: Proof; onShow?: (kind: 'encoding' | 'ground') => void }) {
  const { encodingError: e, groundError: g } = proof;
  const row = (kind: 'encoding' | 'ground', label: string, f: { max: number; mean: number; rms: number }) => (
    <tr>
      <th scope="row" className="font-normal text-left">
        {label}
      </th>
      {[f.max, f.mean, f.rms].map((v, i) => (
        <td key={FIGURES[i]} className="num text-right text-[13px]">
          {i === 0 && v > 0 && onShow ? (
            <Button kind="link" aria-label={`Show the largest ${kind} error`} onClick={() => onShow(kind)}>
              {formatLength(v)}
            </Button>
          ) : (
            formatLength(v)
          )}
        </td>
      ))}
    </tr>
  );
  return (
    <Group title={g ? 'Two errors' : 'The error'}>
      <table className="w-full text-[13px]">
        <thead>
          <tr className="text-quiet">
            <td />
            {FIGURES.map((h) => (
              <th key={h} scope="col" className="font-normal text-right">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {row('encoding', 'Encoding', e)}
          {g && row('ground', 'Ground', g)}
        </tbody>
      </table>
      <Hint>
        Encoding: what the target shows against the {e.against}. It may reach {formatLength(e.budget.halfStep)} for half
        a step, {formatLength(e.budget.typing)} for typing and {formatLength(e.budget.arithmetic)} for arithmetic.
        {g ? ' Ground: what fitting lost or invented against the source.' : ''}
      </Hint>
    </Group>
  );
}

const ORDER: readonly ProofCheck['state'][] = ['fault', 'caution', 'note', 'holds'];

/** What was compared: what is wrong first. */
export function ProofChecks({ proof }: { proof: Proof }) {
  return (
    <>
      <ul className="flex flex-col gap-1">
        {[...proof.checks]
          .sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state))
          .map((c) => (
            <li key={`${c.id}${c.message}`} className="flex gap-2 text-[13px] leading-[17px]" data-proof={c.state}>
              <span className="pt-[3px]">
                <Mark state={c.state} />
              </span>
              <span>{tied(c.message)}</span>
            </li>
          ))}
      </ul>
      <details className="mt-2 mb-3 text-[13px] leading-[17px] text-quiet" data-trusted>
        <summary className="cursor-pointer">Taken on trust ({proof.trusted.length})</summary>
        <ul className="mt-1 flex flex-col gap-1">
          {proof.trusted.map(({ what, guard }) => (
            <li key={what}>
              {what}; guarded by {guard}
            </li>
          ))}
        </ul>
      </details>
    </>
  );
}

type Note = (row: string, value: number | string | null) => void;

/** One value as it was really typed into the target. */
function TypedValue({ row, typed, onType }: { row: CardRow; typed: number | string | undefined; onType: Note }) {
  const take = (value: number | string): void => onType(row.id, value === row.value ? null : value);
  const words = ROW_WORDS[row.id];
  const value = typed ?? row.value;
  if (words)
    return (
      <div className="flex items-center justify-between gap-3">
        <span>{row.label}</span>
        <Select label={`${row.label}, as typed`} value={String(value)} options={words} onChange={take} />
      </div>
    );
  return (
    <NumberField
      label={row.label}
      unit={row.unit}
      digits={row.digits}
      value={typeof value === 'number' ? value : null}
      {...(typed !== undefined && { hint: `On the page: ${saidText(row)}` })}
      onCommit={take}
    />
  );
}

/** Every value of the card, to be typed as it stands in the target. */
export function TypedValues({ card, typed, onType }: { card: readonly CardRow[]; typed: Typed; onType: Note }) {
  return (
    <>
      {card.map((r) => (
        <TypedValue key={r.id} row={r} typed={typed[r.id]} onType={onType} />
      ))}
    </>
  );
}

/** What the target shows at the check spots, in metres and in its own unit; `onShow` goes to one on the map. */
export function ProofSpots({ proof, onShow }: { proof: Proof; onShow?: (spot: string) => void }) {
  const { spots, unit } = proof;
  const both = unit !== 'm';
  return (
    <table className="w-full text-[13px]">
      <thead>
        <tr className="text-quiet">
          <th scope="col" className="font-normal text-left">
            spot
          </th>
          <th scope="col" className="font-normal text-right">
            m
          </th>
          {both && (
            <th scope="col" className="font-normal text-right">
              {unit}
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {spots.map((s) => (
          <tr key={s.id} className="border-b border-rule">
            <th scope="row" className="font-normal text-left py-0.5">
              {onShow ? (
                <Button kind="link" className="!text-ink text-left" onClick={() => onShow(s.id)}>
                  {s.label}
                </Button>
              ) : (
                s.label
              )}
            </th>
            <td className="num text-right">{s.shown === null ? '–' : formatNumber(s.shown, 3)}</td>
            {both && (
              <td className="num text-right">{s.shownInUnit === null ? '–' : formatNumber(s.shownInUnit, 1)}</td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
