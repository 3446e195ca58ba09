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
    <Group title="Seams">
      <NumberField
        label="Blended over"
        unit="samples"
        value={blend}
        whole
        min={1}
        max={4096}
        hint="On either side of a seam, half of the step each; nothing beyond."
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
