'use client';
import { stepOf, withBlend } from '@/core/edits';
import { Button, NumberField } from '@/ui';
import { choose, useCurrentRecipe } from '../hooks';
import { Group } from './parts';

/** Steps at the seams of several files that are spread, and over how many samples. */
export function Seams() {
  const recipe = useCurrentRecipe();
  const blend = recipe && stepOf(recipe, 'blend');
  if (!blend) return null;
  return (
    <Group title="Seams, blended">
      <NumberField
        label="Samples each way"
        value={blend.reach}
        whole
        min={1}
        max={4096}
        hint="Half of a step on either side of its seam, fading out over so many; nothing beyond."
        onCommit={(n) => choose((r) => withBlend(r, n))}
      />
      <div>
        <Button kind="link" onClick={() => choose((r) => withBlend(r, null))}>
          Leave the seams as they are
        </Button>
      </div>
    </Group>
  );
}
