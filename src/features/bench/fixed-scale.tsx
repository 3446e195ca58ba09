'use client';
import { formatShort } from '@/core/base';
import { clippedToFit, flattenedToFit, withAnchor, withHeight } from '@/core/edits';
import { percent, type PlanDocument } from '@/core/plan';
import { editRecipe } from '@/state';
import { NumberField, Segmented, Select } from '@/ui';
import { choose, useCurrentRecipe, usePlan } from '../hooks';
import { Hint } from './parts';

/** What a fixed scale does to ground that does not fit it. */
function misfit(document: PlanDocument, factor: number | null, exaggeration: number): string {
  const { low, high } = document.height.clipped;
  if (low === null || high === null) return 'What lies outside is being counted.';
  const share = (low + high) / (document.fit.width * document.fit.height);
  const clipped = low + high === 0 ? 'nothing is clipped' : `${percent(share, 2)} of the ground is clipped`;
  if (exaggeration !== 1) return `Heights × ${formatShort(exaggeration, 6)}: ${clipped}.`;
  const flat =
    factor === null || low + high === 0 ? '' : ` Flattened to fit, heights would be × ${formatShort(factor, 6)}.`;
  return `True heights: ${clipped}.${flat}`;
}

/** A scale that is kept whatever the ground, and what happens to heights that it has no codes for. */
export function FixedScale({
  centred,
  factor,
  trueGround,
}: {
  centred: boolean;
  /** Flattens the ground to fit; null where nothing could. */
  factor: number | null;
  trueGround: { readonly low: number; readonly high: number };
}) {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  if (!recipe || !plan) return null;
  const { height } = recipe;
  const { document } = plan;
  return (
    <>
      <NumberField
        label={centred ? 'Height scale' : 'Height range'}
        {...(centred ? {} : { unit: 'm' })}
        value={height.scale ?? null}
        min={0.001}
        hint={`Spans ${formatShort(document.height.high - document.height.low, 2)} m.`}
        onCommit={(scale) => editRecipe((r) => withHeight(r, { scale }))}
      />
      <div className="flex items-center justify-between gap-3">
        <span>Anchored at the</span>
        <Select
          label="Anchor"
          value={height.anchor?.at ?? 'lowest'}
          options={[
            { value: 'lowest', label: 'lowest code' },
            { value: 'middle', label: 'middle code' },
            { value: 'highest', label: 'highest code' },
          ]}
          onChange={(at) => choose((r) => withAnchor(r, { at }))}
        />
      </div>
      <NumberField
        label="which lies at"
        unit="m"
        value={height.anchor?.elevation ?? 0}
        onCommit={(elevation) => editRecipe((r) => withAnchor(r, { elevation }))}
      />
      <Segmented
        label="What does not fit"
        value={height.exaggeration === 1 ? 'clip' : 'flatten'}
        onChange={(way) =>
          choose((r) => (way === 'clip' ? clippedToFit(r) : flattenedToFit(clippedToFit(r), trueGround)))
        }
        choices={[
          { value: 'flatten', label: 'Flatten to fit', disabled: factor === null },
          { value: 'clip', label: 'Clip' },
        ]}
      />
      <Hint>{misfit(document, factor, height.exaggeration)}</Hint>
    </>
  );
}
