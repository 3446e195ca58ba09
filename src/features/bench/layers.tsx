'use client';
import { formatLength } from '@/core/base';
import { withHeight } from '@/core/edits';
import type { PlanDocument } from '@/core/plan';
import { editRecipe } from '@/state';
import { NumberField } from '@/ui';
import { Group, Hint } from './parts';

/** The layers of the lowest and highest code, where a target counts in blocks. */
export function Layers({
  height: { layers = 0, bottomLayer: bottom = 0, topLayer: top = 0, metresPerLayer = 0 },
}: {
  readonly height: PlanDocument['height'];
}) {
  return (
    <Group title="Layers" aside={`${layers} in all`}>
      <NumberField
        label="Bottom layer"
        value={bottom}
        whole
        max={top - 1}
        onCommit={(layer) => editRecipe((r) => withHeight(r, { bottom: layer }))}
      />
      <NumberField
        label="Top layer"
        value={top}
        whole
        min={bottom + 1}
        onCommit={(layer) => editRecipe((r) => withHeight(r, { top: layer }))}
      />
      <Hint>
        The lowest ground lies on the bottom layer, the highest on the top one: {formatLength(metresPerLayer)} a block.
      </Hint>
    </Group>
  );
}
