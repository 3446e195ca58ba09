'use client';
import { useState } from 'react';
import { verticesOf } from '@/core/grid';
import { withComponents, withTileSide, withTypedSide, type Side } from '@/core/edits';
import { targetOf } from '@/core/targets';
import { editRecipe } from '@/state';
import { NumberField, Segmented } from '@/ui';
import { choose, useCurrentRecipe, useEnteringInfo, usePlan } from '../hooks';
import { sidePreview, SizeLadder } from './ladder';
import { Group, Hint } from './parts';

/** The ladder of one side, or of both where they are alike. */
export function Sides() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const info = useEnteringInfo();
  const [chosen, setChosen] = useState<Side | null>(null);
  if (!recipe || !plan || !info) return null;
  const { document } = plan;
  const { layout } = document;
  const { across, down, width, height } = document.tiles;
  const tiled = document.files.length > 1;
  const target = targetOf(recipe.target);
  const mayDiffer = !target.square;
  const what = target.registration === 'cell' ? 'Cells' : 'Vertices';
  const differ = width !== height || info.width !== info.height;
  const side: Side = mayDiffer ? (chosen ?? (differ ? 'across' : 'both')) : 'both';
  if (target.grid.kind === 'one')
    return (
      <Group title={`${what} per side`} aside={`${width} × ${height}`}>
        <Hint>
          This map has {target.grid.side} {what.toLowerCase()} a side, whatever is imported: the ground is fitted to
          them.
        </Hint>
      </Group>
    );
  // the ladder compares a tile with its share of the source
  const share = (samples: number, count: number): number => Math.round((samples - 1) / count) + 1;
  const samples =
    side === 'across'
      ? share(info.width, across)
      : side === 'down'
        ? share(info.height, down)
        : share(Math.min(info.width, info.height), Math.max(across, down));
  return (
    <Group
      title={tiled ? `${what} per side of a tile` : `${what} per side`}
      aside={`whole ${document.fit.width} × ${document.fit.height}`}
    >
      {mayDiffer && (
        <Segmented
          label="Sides"
          value={side}
          onChange={setChosen}
          choices={[
            { value: 'both', label: 'Both sides' },
            { value: 'across', label: 'East–west' },
            { value: 'down', label: 'North–south' },
          ]}
        />
      )}
      <SizeLadder
        target={recipe.target}
        samples={samples}
        value={side === 'down' ? height : width}
        method={recipe.fit.method}
        atMost={recipe.fit.atMost}
        label={{ both: `${what} per side`, across: `${what}, east–west`, down: `${what}, north–south` }[side]}
        onPick={(vertices) => choose((r) => withTileSide(r, vertices, info, side))}
      />
      <NumberField
        label={what}
        value={side === 'down' ? height : width}
        whole
        min={2}
        preview={(n) => sidePreview(recipe.target, n, samples, recipe.fit.method)}
        onCommit={(n) => editRecipe((r) => withTypedSide(r, n, info, side))}
      />
      {layout && (
        <NumberField
          label="Components"
          value={side === 'down' ? layout.componentsY : layout.componentsX}
          whole
          min={1}
          preview={(n) => {
            const vertices = verticesOf({ ...layout, components: n });
            return `${vertices} vertices: ${sidePreview(recipe.target, vertices, samples, recipe.fit.method)}`;
          }}
          hint={`Each is ${layout.quads * layout.patches} quads a side.`}
          onCommit={(n) => editRecipe((r) => withComponents(r, layout, n, info, side))}
        />
      )}
    </Group>
  );
}
