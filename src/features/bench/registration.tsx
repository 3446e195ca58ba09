'use client';
import { withFit, withRegistration } from '@/core/edits';
import { targetOf } from '@/core/targets';
import { Segmented } from '@/ui';
import { choose, useCurrentRecipe } from '../hooks';
import { Hint } from './parts';

/** What samples of the source are, and how they meet those of the target where these are something else. */
export function Registration() {
  const recipe = useCurrentRecipe();
  if (!recipe) return null;
  const source = recipe.source.registration ?? 'vertex';
  const { registration } = targetOf(recipe.target);
  return (
    <>
      <Segmented
        label="Samples of the source are"
        value={source}
        onChange={(to) => choose((r) => withRegistration(r, to))}
        choices={[
          { value: 'vertex', label: 'Vertices' },
          { value: 'cell', label: 'Cells' },
        ]}
      />
      <Hint>
        A height at a point, as in survey grids, or of a square, as in pictures. Half a spacing lies between the two at
        every edge.
      </Hint>
      {source !== registration && (
        <>
          <Segmented
            label="The target has the other: what is kept"
            value={recipe.fit.mixed ?? 'hold-extent'}
            onChange={(mixed) => choose((r) => withFit(r, { mixed }))}
            choices={[
              { value: 'hold-extent', label: 'The extent' },
              { value: 'centre-to-centre', label: 'Outermost samples' },
            ]}
          />
          <Hint>
            The ground stays as long as it is, or its outermost samples lie on those of the target and it becomes one
            spacing longer or shorter.
          </Hint>
        </>
      )}
    </>
  );
}
