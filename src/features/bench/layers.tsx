'use client';
import { formatLength } from '@/core/base';
import { withHeight } from '@/core/edits';
import type { PlanDocument } from '@/core/plan';
import { editRecipe } from '@/state';
import { NumberField } from '@/ui';
import { Group, Hint } from './parts';

/** The layers of the lowest and highest code, where a target counts in blocks. */
export function Layers({ bottom, top, count, metres }: NonNullable<PlanDocument['height']['layers']>) {
  return (
    <Group title="Layers" aside={`${count} in all`}>
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
        The lowest ground lies on the bottom layer, the highest on the top one: {formatLength(metres)} a block.
      </Hint>
    </Group>
  );
}
