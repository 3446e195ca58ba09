'use client';
import { formatNumber } from '@/core/base';
import { withVoids } from '@/core/edits';
import { editRecipe, useSession } from '@/state';
import { Button, NumberField } from '@/ui';
import { choose, useCurrentRecipe, usePlan } from '../hooks';
import { Drawn } from './drawn';
import { LayGround } from './lay';
import { FillVoids, Mends } from './mends';
import { BenchHead, Group, Hint } from './parts';
import { StepList } from './steps';
import { AddValues } from './values';

/** Voids: what becomes of vertices without ground. */
function Voids({ count }: { count: number }) {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  if (!recipe || !plan) return null;
  const { voids } = recipe.fit;
  const left = plan.document.checks.find((c) => c.id === 'voids');
  return (
    <Group title={count === 1 ? 'A void' : `${formatNumber(count, 0)} voids`}>
      <FillVoids />
      <NumberField
        label="Voids get"
        unit="m"
        value={voids ?? null}
        hint="One elevation, given after the ground was fitted. With neither, ground with voids is not written."
        onCommit={(elevation) => editRecipe((r) => withVoids(r, elevation))}
        onClear={() => choose((r) => withVoids(r, null))}
      />
      {voids !== undefined && (
        <div>
          <Button kind="link" onClick={() => choose((r) => withVoids(r, null))}>
            leave them voids
          </Button>
        </div>
      )}
      {left && <p className="text-[13px] leading-[17px] text-madder">{left.message}</p>}
    </Group>
  );
}

export function Clean() {
  const plan = usePlan();
  const counted = useSession((s) => s.facts?.stats ?? null);
  const voids = plan?.work.entering.stats?.voids ?? counted?.voids ?? null;
  const steps = useCurrentRecipe()?.steps.length ?? 0;
  return (
    <>
      <BenchHead title="Clean">
        {steps === 0
          ? 'Samples pass through as they came. What is to be mended before the ground is fitted is chosen here.'
          : 'What is mended before the ground is fitted.'}
      </BenchHead>
      <StepList />
      {voids === null && <Hint>Samples are being counted.</Hint>}
      {voids !== null && voids > 0 && <Voids count={voids} />}
      <Mends />
      <Drawn />
      <AddValues />
      <LayGround />
    </>
  );
}
