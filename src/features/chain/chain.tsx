'use client';
import { useShallow } from 'zustand/react/shallow';
import { formatLength, formatShort } from '@/core/base';
import type { ChainStep, Plan } from '@/core/plan';
import type { Assumable } from '@/core/recipe';
import { patchSession, recipeKey, useRecipe, useSession, type Session } from '@/state';
import { Mark, type MarkState } from '@/ui';

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

/** A size and what goes with it, where there is room for both. */
const sized = (w: number, h: number, more: string): string => (w === h ? `${w}² · ${more}` : size(w, h));

interface Link {
  readonly text: string;
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
        text: sized(facts.info.width, facts.info.height, `${facts.info.bitDepth} bit`),
        state: worst(plan, step),
      };
    case 'clean': {
      const voids = facts.stats?.voids ?? 0;
      return { text: voids === 0 ? 'passes through' : `${voids} voids`, state: worst(plan, step) };
    }
    case 'fit':
      return {
        text: sized(document.fit.width, document.fit.height, `${formatShort(document.fit.spacing.x, 3)} m${guessed}`),
        state: worst(plan, step),
      };
    case 'height':
      return { text: `${formatLength(document.height.effectiveStep)} a step${guessed}`, state: worst(plan, step) };
    case 'split': {
      const n = document.files.length;
      return {
        text:
          n === 1
            ? '1 tile'
            : `${document.tiles.across} × ${document.tiles.down} of ${size(document.tiles.width, document.tiles.height)}`,
        state: worst(plan, step),
      };
    }
    case 'proof':
      if (proof?.key !== key) return { text: 'not proved', state: 'not-yet' };
      return proof.proof.holds
        ? { text: `${formatLength(proof.proof.encodingError.max)} at most`, state: 'holds' }
        : { text: 'does not hold', state: 'fault' };
    case 'hand-over':
      if (!pack) return { text: 'not packed yet', state: 'not-yet' };
      if (!fresh) return { text: 'pack is older', state: 'caution' };
      return { text: `${pack.files.size} files`, state: 'holds' };
  }
}

/** The chain: every step with its result. Navigation, lineage and health at once. */
export function Chain() {
  const results = useSession(useShallow(({ plan, facts, pack, proof }): Results => ({ plan, facts, pack, proof })));
  const step = useSession((s) => s.step);
  const recipe = useRecipe((s) => s.recipe);
  const key = recipeKey(recipe);
  return (
    <nav aria-label="Chain" className="flex border-b border-ink bg-film h-16 shrink-0">
      {STEPS.map(({ id, label }) => {
        const { text, state } = linkOf(id, results, key);
        const current = step === id;
        return (
          <button
            key={id}
            type="button"
            aria-current={current ? 'step' : undefined}
            onClick={() => patchSession({ step: id })}
            className={`relative flex-1 min-w-0 text-left pl-4 pr-2 border-r border-rule last:border-r-0 focus-visible:outline-offset-[-3px] ${current ? 'bg-panel' : 'hover:bg-panel/60'}`}
          >
            <span className="flex items-center gap-2 font-semibold text-[15px]">
              <Mark state={state} />
              {label}
            </span>
            <span
              className={`num text-[13px] block truncate pl-[18px] ${state === 'fault' ? 'text-madder' : 'text-quiet'}`}
            >
              {text}
            </span>
            {current && <span aria-hidden="true" className="absolute inset-x-0 bottom-[-1px] h-[3px] bg-kelp" />}
          </button>
        );
      })}
    </nav>
  );
}
