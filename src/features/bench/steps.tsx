'use client';
import { ArrowDown, ArrowUp, X } from 'lucide-react';
import { formatLength, formatNumber } from '@/core/base';
import { withoutStep, withStepMoved, withStepSwitched } from '@/core/edits';
import { stepWords } from '@/core/operations';
import type { PlanDocument } from '@/core/plan';
import type { Step } from '@/core/recipe';
import { CheckBox, Mark } from '@/ui';
import { useCurrentRecipe, usePlan, useStepEdit } from '../hooks';
import { MendFields } from './mend-fields';
import { Group, Hint } from './parts';
import { ValuesFields } from './values';

type Report = PlanDocument['steps'][number];

/** What a step changed, in a line. */
function changeWords(report: Report | undefined): string {
  if (!report || 'off' in report) return 'switched off';
  const { samples, largest, op } = report;
  if (op === 'reproject') return 'every sample lies elsewhere';
  if (op === 'crop' || op === 'pad') return 'samples stay as they are';
  if (samples === null) return 'being counted';
  if (samples === 0)
    return op === 'turn' || op === 'mirror' || op === 'swap-axes' ? 'no sample changes' : 'changes nothing';
  const what = `${formatNumber(samples, 0)} ${samples === 1 ? 'sample' : 'samples'}`;
  return largest === null || largest === 0 ? what : `${what}, ${formatLength(largest)} at most`;
}

function StepRow({
  step,
  index,
  last,
  report,
}: {
  step: Step;
  index: number;
  last: number;
  report: Report | undefined;
}) {
  const edit = useStepEdit();
  const words = stepWords(step);
  const name = `step ${index + 1}, ${words}`;
  return (
    <li className="border-b border-rule py-1.5 flex flex-col gap-1" data-step={step.op}>
      <div className="flex items-start gap-2">
        <span className="num text-quiet text-[13px] w-4 shrink-0 pt-px">{index + 1}</span>
        <span className={`flex-1 min-w-0 ${step.off ? 'text-quiet line-through decoration-1' : ''}`}>{words}</span>
        <button
          type="button"
          aria-label={`Remove ${name}`}
          title="Remove"
          className="p-1 text-quiet hover:text-ink"
          onClick={() => edit((r, source) => withoutStep(r, index, source))}
        >
          <X size={14} aria-hidden="true" />
        </button>
      </div>
      <div className="flex items-center gap-2 pl-6 text-[13px]">
        <CheckBox
          label="on"
          checked={!step.off}
          onChange={(on) => edit((r, source) => withStepSwitched(r, index, on, source))}
        />
        <span className="text-quiet flex-1 min-w-0" data-changed>
          {changeWords(report)}
        </span>
        <button
          type="button"
          aria-label={`Move up ${name}`}
          title="Earlier"
          disabled={index === 0}
          className="p-1 text-quiet hover:text-ink disabled:opacity-30"
          onClick={() => edit((r, source) => withStepMoved(r, index, index - 1, source))}
        >
          <ArrowUp size={14} aria-hidden="true" />
        </button>
        <button
          type="button"
          aria-label={`Move down ${name}`}
          title="Later"
          disabled={index === last}
          className="p-1 text-quiet hover:text-ink disabled:opacity-30"
          onClick={() => edit((r, source) => withStepMoved(r, index, index + 1, source))}
        >
          <ArrowDown size={14} aria-hidden="true" />
        </button>
      </div>
      {!step.off && (
        <div className="pl-6 flex flex-col gap-1.5 empty:hidden">
          {step.op === 'values' ? <ValuesFields step={step} index={index} /> : <MendFields step={step} index={index} />}
        </div>
      )}
    </li>
  );
}

/** What is done to the ground, in order; each can be switched off, moved and taken out. */
export function StepList() {
  const recipe = useCurrentRecipe();
  const document = usePlan()?.document;
  if (!recipe || recipe.steps.length === 0) return null;
  const refused = document?.checks.find((c) => c.id === 'step-order' || c.id === 'mosaic');
  return (
    <Group title="Done to the ground" aside="in this order">
      <ol aria-label="Steps" className="border-t border-rule">
        {recipe.steps.map((step, index) => (
          <StepRow
            key={`${index}/${step.op}`}
            step={step}
            index={index}
            last={recipe.steps.length - 1}
            report={document?.steps[index]}
          />
        ))}
      </ol>
      {refused && (
        <p role="alert" className="flex gap-2 text-[13px] leading-[17px] text-madder">
          <span className="pt-[3px]">
            <Mark state="fault" silent />
          </span>
          {refused.message}
        </p>
      )}
      <Hint>The file itself stays as it is. Undo takes any of this back.</Hint>
    </Group>
  );
}
