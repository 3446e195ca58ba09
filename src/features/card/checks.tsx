'use client';
import { useState } from 'react';
import type { PlanCheck } from '@/core/plan';
import { doEdit, goToStep, showSpot, useSession } from '@/state';
import { Button, Mark, tied } from '@/ui';
import { usePlan } from '../hooks';

const ORDER: readonly PlanCheck['state'][] = ['fault', 'caution', 'not-yet', 'note', 'holds'];

function Item({ check }: { check: PlanCheck }) {
  const step = useSession((s) => s.step);
  const { spot, repair } = check;
  return (
    <li className="flex gap-2.5 px-4 py-2 border-b border-rule" data-check={check.id}>
      <span className="pt-[5px]">
        <Mark state={check.state} />
      </span>
      <div>
        <p className={check.state === 'holds' ? 'text-quiet' : ''}>{tied(check.message)}</p>
        {check.state !== 'holds' && (spot !== undefined || step !== check.step || repair) && (
          <p className="flex flex-wrap gap-x-4">
            {spot !== undefined ? (
              <Button kind="link" onClick={() => showSpot(spot)}>
                show me
              </Button>
            ) : (
              step !== check.step && (
                <Button kind="link" onClick={() => goToStep(check.step)}>
                  show me
                </Button>
              )
            )}
            {repair && (
              <Button kind="link" onClick={() => void doEdit(repair)}>
                {repair.label}
              </Button>
            )}
          </p>
        )}
      </div>
    </li>
  );
}

/** Failed first, then cautions; what holds is folded into a line until it is asked for. */
export function Checks() {
  const plan = usePlan();
  const [all, setAll] = useState(false);
  if (!plan) return null;
  const checks = [...plan.document.checks].sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state));
  const count = (state: PlanCheck['state']): number => checks.filter((c) => c.state === state).length;
  const words = [
    count('fault') > 0 ? `${count('fault')} ${count('fault') === 1 ? 'fault' : 'faults'}` : '',
    count('caution') > 0 ? `${count('caution')} ${count('caution') === 1 ? 'caution' : 'cautions'}` : '',
    count('note') > 0 ? `${count('note')} ${count('note') === 1 ? 'note' : 'notes'}` : '',
    `${count('holds')} hold`,
  ].filter((w) => w !== '');
  const shown = checks.filter((c) => all || c.state !== 'holds');
  return (
    <section aria-label="Checks">
      <div className="flex items-baseline gap-2 px-4 pt-4 pb-2 border-b border-rule">
        <h2 className="font-semibold text-[16px]">Checks</h2>
        <span className="text-quiet text-[13px]" role="status">
          {words.join(', ')}
        </span>
        <span className="ml-auto">
          <Button
            kind="link"
            aria-expanded={all}
            aria-label={all ? 'Hide what holds' : 'Show all checks'}
            onClick={() => setAll(!all)}
          >
            {all ? 'Hide what holds' : 'Show all'}
          </Button>
        </span>
      </div>
      <ul>
        {shown.map((c) => (
          <Item key={`${c.id}/${c.message}`} check={c} />
        ))}
      </ul>
      {shown.length === 0 && (
        <p className="px-4 py-2 text-quiet">
          {plan.provisional ? 'Nothing so far: samples are still being counted.' : 'Nothing stands in the way.'}
        </p>
      )}
    </section>
  );
}
