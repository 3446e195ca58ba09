'use client';
import { withVoids } from '@/core/edits';
import { editRecipe, useSession } from '@/state';
import { Button, NumberField } from '@/ui';
import { choose, useCurrentRecipe, usePlan } from '../hooks';
import { BenchHead, Group, Hint } from './parts';

/** Voids: what becomes of vertices without ground. */
function Voids({ count }: { count: number }) {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  if (!recipe || !plan) return null;
  const { voids } = recipe.fit;
  const left = plan.document.checks.find((c) => c.id === 'voids');
  return (
    <Group title="Voids" aside={`${count} samples`}>
      <NumberField
        label="Voids get"
        unit="m"
        value={voids ?? null}
        hint="Elevation of vertices that have no ground of their own. Without one, ground with voids is not written."
        onCommit={(elevation) => editRecipe((r) => withVoids(r, elevation))}
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
  const voids = useSession((s) => s.facts?.stats?.voids ?? null);
  return (
    <>
      <BenchHead title="Clean">Samples pass through as they came; only voids need a choice.</BenchHead>
      {voids === null && <Hint>Samples are being counted.</Hint>}
      {voids === 0 && <Hint>No sample is missing a height.</Hint>}
      {voids !== null && voids > 0 && <Voids count={voids} />}
    </>
  );
}
