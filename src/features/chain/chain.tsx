'use client';
import { useShallow } from 'zustand/react/shallow';
import { formatLength, formatNumber, formatShort } from '@/core/base';
import type { ChainStep, Plan } from '@/core/plan';
import type { Assumable } from '@/core/recipe';
import { goToStep, useSession, type Session } from '@/state';
import { Mark, type MarkState } from '@/ui';
import { usePackKey } from '../hooks';

export const STEPS: readonly { readonly id: ChainStep; readonly label: string }[] = [
  { id: 'bring-in', label: 'Bring in' },
  { id: 'clean', label: 'Clean' },
  { id: 'fit', label: 'Fit' },
  { id: 'height', label: 'Height' },
  { id: 'split', label: 'Split' },
  { id: 'proof', label: 'Proof' },
  { id: 'hand-over', label: 'Hand over' },
];

/** Size as it is read aloud and written: 1525² where the sides are equal. */
const size = (w: number, h: number): string => (w === h ? `${w}²` : `${w} × ${h}`);

interface Link {
  readonly text: string;
  /** Shown where there is room for it too. */
  readonly more?: string;
  readonly state: MarkState;
}

/** A step whose values rest on a placeholder of the source says so. */
const PLACED: Partial<Record<ChainStep, readonly Assumable[]>> = {
  fit: ['spacing'],
  height: ['low', 'high'],
};

const URGENCY: readonly MarkState[] = ['fault', 'caution', 'not-yet'];

function worst(plan: Plan | null, step: ChainStep): MarkState {
  const states = plan?.document.checks.filter((c) => c.step === step).map((c) => c.state) ?? [];
  return URGENCY.find((s) => states.includes(s)) ?? 'holds';
}

type Results = Pick<Session, 'plan' | 'facts' | 'pack' | 'proof'>;

/** What each link says: the step's result, from the plan. */
function linkOf(step: ChainStep, { plan, facts, pack, proof }: Results, key: string): Link {
  if (!facts || !plan) return { text: '…', state: 'not-yet' };
  const { document } = plan;
  const fresh = pack !== null && pack.key === key;
  const guessed = PLACED[step]?.some((a) => document.source.assumed.includes(a)) ? ' ?' : '';
  switch (step) {
    case 'bring-in':
      return {
        text: size(facts.info.width, facts.info.height),
        more: `· ${(facts.info.own ?? facts.info).bitDepth} bit`,
        state: worst(plan, step),
      };
    case 'clean': {
      const steps = document.steps.filter((step) => !('off' in step)).length;
      const voids = plan.work.entering.stats?.voids ?? facts.stats?.voids ?? 0;
      const holes = `${formatNumber(voids, 0)} ${voids === 1 ? 'void' : 'voids'}`;
      if (steps === 0) return { text: voids === 0 ? 'unchanged' : holes, state: worst(plan, step) };
      return {
        text: `${steps} ${steps === 1 ? 'step' : 'steps'}`,
        more: `· ${voids === 0 ? size(document.entering?.width ?? 0, document.entering?.height ?? 0) : holes}`,
        state: worst(plan, step),
      };
    }
    case 'fit':
      return {
        text: size(document.fit.width, document.fit.height),
        more: `· ${formatShort(document.fit.spacing.x, 3)} m${guessed}`,
        state: worst(plan, step),
      };
    case 'height':
      return {
        text: `${formatLength(document.height.effectiveStep)}${guessed}`,
        more: 'a step',
        state: worst(plan, step),
      };
    case 'split': {
      const n = document.files.length;
      return {
        text: n === 1 ? '1 tile' : `${document.tiles.across} × ${document.tiles.down}`,
        ...(n > 1 ? { more: `of ${size(document.tiles.width, document.tiles.height)}` } : {}),
        state: worst(plan, step),
      };
    }
    case 'proof':
      if (proof?.key !== key) return { text: 'not proved', state: 'not-yet' };
      return proof.proof.holds
        ? { text: formatLength(proof.proof.encodingError.max), more: 'at most', state: 'holds' }
        : { text: 'does not hold', state: 'fault' };
    case 'hand-over':
      if (!pack) return { text: 'not packed', state: 'not-yet' };
      if (!fresh) return { text: 'pack out of date', state: 'caution' };
      return { text: `${pack.files.size} files`, state: 'holds' };
  }
}

/** The chain: every step with its result. Navigation, lineage and health at once. */
export function Chain() {
  const results = useSession(useShallow(({ plan, facts, pack, proof }): Results => ({ plan, facts, pack, proof })));
  const step = useSession((s) => s.step);
  const key = usePackKey();
  return (
    <nav
      aria-label="Chain"
      className="grid grid-cols-4 sm:grid-cols-7 border-b border-ink bg-film sm:h-12 wide:h-16 shrink-0"
    >
      {STEPS.map(({ id, label }) => {
        const { text, more, state } = linkOf(id, results, key);
        const current = step === id;
        return (
          <button
            key={id}
            type="button"
            aria-current={current ? 'step' : undefined}
            onClick={() => goToStep(id)}
            className={`relative min-w-0 max-sm:h-12 text-left pl-2 pr-1 wide:pl-4 wide:pr-2 border-r border-rule last:border-r-0 max-sm:border-b focus-visible:outline-offset-[-3px] ${current ? 'bg-panel' : 'hover:bg-panel/60'}`}
          >
            <span className="flex items-center gap-1.5 wide:gap-2 font-semibold text-[14px] wide:text-[15px]">
              <Mark state={state} />
              {label}
            </span>
            {/* what does not fit beside the first part goes to a line that is not shown */}
            <span
              className={`num text-[12px] wide:text-[13px] flex flex-wrap h-5 overflow-hidden gap-x-1.5 wide:pl-[18px] ${state === 'fault' ? 'text-madder' : 'text-quiet'}`}
            >
              <span className="whitespace-nowrap">{text}</span>{' '}
              {more !== undefined && <span className="whitespace-nowrap">{more}</span>}
            </span>
            {current && <span aria-hidden="true" className="absolute inset-x-0 bottom-[-1px] h-[3px] bg-kelp" />}
          </button>
        );
      })}
    </nav>
  );
}
