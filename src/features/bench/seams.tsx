'use client';
import { rereadBlended } from '@/state';
import { Button, NumberField } from '@/ui';
import { useCurrentRecipe } from '../hooks';
import { Group } from './parts';

/** Steps at the seams of several files that are spread, and over how many samples. */
export function Seams() {
  const blend = useCurrentRecipe()?.source.blend;
  if (blend === undefined) return null;
  return (
    <Group title="Seams, blended">
      <NumberField
        label="Samples each way"
        value={blend}
        whole
        min={1}
        max={4096}
        hint="Half of a step on either side of its seam, fading out over so many; nothing beyond."
        onCommit={(n) => void rereadBlended(n)}
      />
      <div>
        <Button kind="link" onClick={() => void rereadBlended(null)}>
          Leave the seams as they are
        </Button>
      </div>
    </Group>
  );
}
