'use client';
import type { ReactElement } from 'react';
import type { ChainStep } from '@/core/plan';
import { useSession } from '@/state';
import { paneClass } from '../panes';
import { BringIn } from './bring-in';
import { Clean } from './clean';
import { Fit } from './fit';
import { HandOver } from './hand-over';
import { HeightBench } from './height';
import { ProofBench } from './proof';
import { SplitBench } from './split';

const BENCHES: Record<ChainStep, () => ReactElement | null> = {
  'bring-in': BringIn,
  clean: Clean,
  fit: Fit,
  height: HeightBench,
  split: SplitBench,
  proof: ProofBench,
  'hand-over': HandOver,
};

export function Bench() {
  const step = useSession((s) => s.step);
  const planError = useSession((s) => s.planError);
  const projectId = useSession((s) => s.projectId);
  const open = useSession((s) => s.pane === 'bench');
  const Step = BENCHES[step];
  return (
    <aside
      // every step begins at its top
      key={step}
      aria-label="Bench"
      className={`${paneClass(open)} w-full sm:w-[300px] shrink-0 sm:border-r border-rule bg-panel overflow-y-auto p-4 flex-col gap-5`}
    >
      {planError && (
        <p role="alert" className="text-madder">
          {planError.message}
        </p>
      )}
      <Step key={`${projectId ?? ''}/${step}`} />
    </aside>
  );
}
