'use client';
import { formatLength, formatNumber } from '@/core/base';
import type { CardRow } from '@/core/plan';
import type { ProofCheck } from '@/core/proof';
import { makePack, noteTyped, patchSession, recipeKey, showSpot, typedAsOnCard, useRecipe, useSession } from '@/state';
import { Button, Mark, NumberField, Segmented, Select, tied } from '@/ui';
import { useCurrentRecipe, usePlan } from '../hooks';
import { BenchHead, Group, Hint } from './parts';

function Errors() {
  const proof = useSession((s) => s.proof?.proof ?? null);
  if (!proof) return null;
  const { encodingError: e, groundError: g } = proof;
  const row = (label: string, f: { max: number; mean: number; rms: number }) => (
    <tr>
      <th scope="row" className="font-normal text-left">
        {label}
      </th>
      {[f.max, f.mean, f.rms].map((v, i) => (
        <td key={i} className="num text-right text-[13px]">
          {formatLength(v)}
        </td>
      ))}
    </tr>
  );
  return (
    <Group title="Two errors">
      <table className="w-full text-[13px]">
        <thead>
          <tr className="text-quiet">
            <td />
            {['largest', 'mean', 'RMS'].map((h) => (
              <th key={h} scope="col" className="font-normal text-right">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {row('Encoding', e)}
          {g && row('Ground', g)}
        </tbody>
      </table>
      <Hint>
        Encoding: what the target shows against the fitted ground. It may reach {formatLength(e.budget.halfStep)} for
        half a step, {formatLength(e.budget.typing)} for typing and {formatLength(e.budget.arithmetic)} for arithmetic.
        Ground: what fitting lost or invented against the source.
      </Hint>
    </Group>
  );
}

const ORDER: readonly ProofCheck['state'][] = ['fault', 'caution', 'note', 'holds'];

/** Words that a row of words may hold, as they are said. */
const WORDS: Readonly<Record<string, readonly { value: string; label: string }[]>> = {
  byteOrder: [
    { value: 'little', label: 'little-endian' },
    { value: 'big', label: 'big-endian' },
  ],
  rowOrder: [
    { value: 'north', label: 'north row first' },
    { value: 'south', label: 'south row first' },
  ],
};

/** One value as it was really typed into the target. */
function TypedValue({ row }: { row: CardRow }) {
  const typed = useRecipe((s) => s.typed[row.id]);
  const take = (value: number | string): void => noteTyped(row.id, value === row.value ? null : value);
  const words = WORDS[row.id];
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
      onCommit={take}
    />
  );
}

export function ProofBench() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const proof = useSession((s) => s.proof);
  const pack = useSession((s) => s.pack);
  const typed = useRecipe((s) => s.typed);
  const working = useSession((s) => s.job !== null);
  const errorKind = useSession((s) => s.errorKind);
  if (!recipe || !plan) return null;
  const key = recipeKey(recipe);
  const current = proof?.key === key;
  const blocked = plan.refusals.length > 0;
  return (
    <>
      <BenchHead title="Proof">
        The files are read back as the target would, with the values that are typed in, and held against the source.
      </BenchHead>
      <div className="flex gap-2 items-center">
        <Button kind="solid" disabled={blocked || working} onClick={() => void makePack()}>
          {current ? 'Write and prove again' : 'Write the files and prove them'}
        </Button>
      </div>
      {proof && (
        <div className="flex items-center gap-2 font-semibold text-[15px]" role="status">
          <Mark state={proof.proof.holds ? 'holds' : 'fault'} silent />
          {proof.proof.holds ? 'The pack holds' : 'The pack does not hold'}
          {!current && <span className="text-ochre font-normal text-[13px]">the choices have changed since</span>}
        </div>
      )}
      <Errors />
      {proof && (
        <Group title="What was compared">
          <ul className="flex flex-col gap-1">
            {[...proof.proof.checks]
              .sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state))
              .map((c) => (
                <li key={`${c.id}${c.message}`} className="flex gap-2 text-[13px] leading-[17px]">
                  <span className="pt-[3px]">
                    <Mark state={c.state} />
                  </span>
                  <span>{tied(c.message)}</span>
                </li>
              ))}
          </ul>
          <div className="flex flex-col gap-1 items-start [&>*:first-child]:w-full">
            <Segmented
              label="Difference view"
              value={errorKind}
              onChange={(k) => patchSession({ errorKind: k, view: 'difference' })}
              choices={[
                { value: 'encoding', label: 'Encoding error' },
                { value: 'ground', label: 'Ground error' },
              ]}
            />
            <Button kind="link" onClick={() => patchSession({ view: 'difference' })}>
              show on the map
            </Button>
          </div>
        </Group>
      )}
      {pack && (
        <Group
          title="What was typed"
          aside={
            Object.keys(typed).length > 0 ? (
              <Button kind="link" onClick={typedAsOnCard}>
                as on the card
              </Button>
            ) : (
              'as on the card'
            )
          }
        >
          <Hint>
            Type what the target really holds; the proof is made again with it and names the value that is wrong.
          </Hint>
          {pack.document.card.map((r) => (
            <TypedValue key={r.id} row={r} />
          ))}
        </Group>
      )}
      {proof && (
        <Group title="Check spots" aside="world height, m">
          <ul className="text-[13px]">
            {proof.proof.spots.map((s) => (
              <li key={s.id} className="flex justify-between border-b border-rule py-0.5">
                <Button kind="link" className="!text-ink" onClick={() => showSpot(s.id)}>
                  {s.label}
                </Button>
                <span className="num">{s.shown === null ? '–' : formatNumber(s.shown, 3)}</span>
              </li>
            ))}
          </ul>
        </Group>
      )}
    </>
  );
}
