'use client';
import { useState } from 'react';
import { formatNumber } from '@/core/base';
import { correctedInPlace, type Given } from '@/core/height';
import type { CardRow } from '@/core/plan';
import type { Target } from '@/core/targets';
import { Fold, NumberField } from '@/ui';
import { usePlan } from '../hooks';
import { Hint } from './parts';

/** The rows of a card that say how heights are made of codes: a scale, and what is added to it. */
function rowsOf(card: readonly CardRow[]): { scale: CardRow; offset: CardRow } | null {
  const row = (...ids: readonly string[]): CardRow | undefined => card.find((r) => ids.includes(r.id));
  const scale = row('heightScale', 'heightRange', 'topOfRange');
  const offset = row('heightOffset', 'baseElevation');
  return scale && offset ? { scale, offset } : null;
}

/**
 * Ground that is imported already and stands too high or too low: from what is typed now and one height that is known,
 * what to type instead. Nothing of it belongs to the recipe.
 */
export function InPlace({ target }: { target: Target }) {
  const card = usePlan()?.document.card ?? [];
  const [typed, setTyped] = useState<Partial<Given>>({});
  const [shown, setShown] = useState<number | null>(null);
  const [wanted, setWanted] = useState<number | null>(null);
  const rows = rowsOf(card);
  if (!rows) return null;
  const given: Given = {
    scale: typed.scale ?? Number(rows.scale.value),
    offset: typed.offset ?? Number(rows.offset.value),
  };
  const unit = target.unit.name;
  const found = shown === null || wanted === null ? null : correctedInPlace(target.heights, given, { shown, wanted });
  const value = (row: CardRow, v: number): string => `${formatNumber(v, row.digits)}${row.unit ? ` ${row.unit}` : ''}`;
  return (
    <Fold title="Imported already, and too high or too low">
      <Hint>Type what the target is given now, and the height of one place: as it shows it, and as it should be.</Hint>
      <NumberField
        label={`${rows.scale.label} now`}
        unit={rows.scale.unit}
        value={given.scale}
        digits={rows.scale.digits}
        onCommit={(scale) => setTyped((t) => ({ ...t, scale }))}
      />
      <NumberField
        label={`${rows.offset.label} now`}
        unit={rows.offset.unit}
        value={given.offset}
        digits={rows.offset.digits}
        onCommit={(offset) => setTyped((t) => ({ ...t, offset }))}
      />
      <NumberField label="The place stands at" unit={unit} value={shown} onCommit={setShown} />
      <NumberField label="It should stand at" unit={unit} value={wanted} onCommit={setWanted} />
      {found && (
        <div role="status" className="text-[13px] leading-[18px] flex flex-col gap-1">
          <p>
            All ground moved: type{' '}
            <b>
              {rows.offset.label} {value(rows.offset, found.moved.offset)}
            </b>
            .
          </p>
          {found.stretched ? (
            <p>
              Or stretched, the lowest code where it is: type{' '}
              <b>
                {rows.scale.label} {value(rows.scale, found.stretched.scale)}
              </b>
              {found.stretched.offset !== given.offset && (
                <>
                  {' '}
                  and{' '}
                  <b>
                    {rows.offset.label} {value(rows.offset, found.stretched.offset)}
                  </b>
                </>
              )}
              .
            </p>
          ) : (
            <p>It lies at the lowest code, or should lie below it: no other scale brings it there.</p>
          )}
          <p className="text-quiet">The files stay as they are.</p>
        </div>
      )}
    </Fold>
  );
}
