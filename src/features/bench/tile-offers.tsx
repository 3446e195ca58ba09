'use client';
import { withTiles } from '@/core/edits';
import { inventedShare, keptShare, splitOffers } from '@/core/grid';
import { percent } from '@/core/plan';
import { targetOf } from '@/core/targets';
import { ChoiceTable } from '@/ui';
import { choose, useCurrentRecipe, useEnteringInfo, usePlan } from '../hooks';
import { Group, Hint } from './parts';

/** Sizes of tiles that come near to the source: what each makes of it, one click away. */
export function TileOffers() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const info = useEnteringInfo();
  if (!recipe || !plan || !info) return null;
  const { across = 1, down = 1, edges = 'shared' } = recipe.split ?? {};
  const { grid, budgets } = targetOf(recipe.target);
  const offers = splitOffers(grid, info, { across, down, edges }, budgets);
  const { fit } = plan.document;
  const taken = offers.find((o) => fit.width === o.width && fit.height === o.height);
  return (
    <Group title="Tiles that fit" aside={`${across * down} ${across * down === 1 ? 'import' : 'imports'}`}>
      {offers.length === 0 && <Hint>So many tiles are above the target’s budget at every size.</Hint>}
      <ChoiceTable
        label="Size of a tile"
        columns="grid-cols-[42px_52px_1fr_46px] gap-x-1"
        head={['tile', 'whole', 'ground', 'comp.']}
        left={2}
        value={taken ? String(taken.tile) : null}
        onChange={(tile) => choose((r) => withTiles(r, Number(tile)))}
        rows={offers.map((o) => {
          const ground =
            o.upsampling > 1
              ? `invents ${percent(inventedShare(o.upsampling))}`
              : `keeps ${percent(keptShare(o.upsampling), 1)}`;
          return {
            key: String(o.tile),
            label: `Tiles of ${o.tile}, ${o.width} × ${o.height} in all, ${ground}${o.components === null ? '' : `, ${o.components} components in all`}`,
            cells: [o.tile, o.width === o.height ? o.width : `${o.width}×${o.height}`, ground, o.components ?? '–'],
          };
        })}
      />
      <Hint>Typing a number of tiles changes no vertex. Taking one of these resamples the ground to that whole.</Hint>
    </Group>
  );
}
