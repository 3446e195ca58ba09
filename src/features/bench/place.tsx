'use client';
import { withFit, withGroundCentred, withPlace } from '@/core/edits';
import { editRecipe } from '@/state';
import { Button, NumberField } from '@/ui';
import { choose, useCurrentRecipe, useEnteringInfo, usePlan } from '../hooks';
import { Group } from './parts';

/** Where the cropped window, or the padded source, lies. */
export function Place() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const info = useEnteringInfo();
  if (!recipe || !plan || !info) return null;
  const { fit } = recipe;
  return (
    <Group title={fit.method === 'crop' ? 'Window' : 'Place of the source'}>
      <NumberField
        label={fit.method === 'crop' ? 'First column' : 'Empty columns in the west'}
        value={fit.at[0]}
        whole
        onCommit={(v) => editRecipe((r) => withPlace(r, { column: v }))}
      />
      <NumberField
        label={fit.method === 'crop' ? 'First row' : 'Empty rows in the north'}
        value={fit.at[1]}
        whole
        hint="Counted from the north-west."
        onCommit={(v) => editRecipe((r) => withPlace(r, { row: v }))}
      />
      <Button onClick={() => choose((r) => withGroundCentred(r, info))}>Centre it</Button>
      {fit.method === 'pad' && (
        <NumberField
          label="Rim lies at"
          unit="m"
          value={fit.rim ?? plan.work.rimElevation}
          hint="Elevation of the ground that the source does not cover."
          onCommit={(rim) => editRecipe((r) => withFit(r, { rim }))}
        />
      )}
    </Group>
  );
}
