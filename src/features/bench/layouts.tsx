'use client';
import { formatBytes } from '@/core/base';
import { withFit } from '@/core/edits';
import { textureSamples } from '@/core/grid';
import { ChoiceTable } from '@/ui';
import { choose, usePlan } from '../hooks';
import { Group, Hint } from './parts';

/** The component layouts that the size allows. */
export function Layouts() {
  const plan = usePlan();
  if (!plan || plan.layouts.length === 0) return null;
  const { document, layouts } = plan;
  const { layout } = document;
  const keyOf = (l: { quads: number; patches: number }): string => `${l.quads}/${l.patches}`;
  return (
    <Group title={`${document.tiles.width} can be laid out as`}>
      <ChoiceTable
        label="Component layout"
        columns="grid-cols-[38px_50px_1fr_98px]"
        head={['quads', 'patches', 'components', 'texture memory']}
        left={2}
        value={layout ? keyOf(layout) : null}
        onChange={(key) => {
          const l = layouts.find((o) => keyOf(o) === key);
          if (l) choose((r) => withFit(r, { layout: { quads: l.quads, patches: l.patches } }));
        }}
        rows={layouts.map((l) => ({
          key: keyOf(l),
          label: `${l.quads} quads, ${l.patches} × ${l.patches} patches, ${l.componentsX} × ${l.componentsY} components`,
          cells: [
            l.quads,
            `${l.patches} × ${l.patches}`,
            `${l.componentsX} × ${l.componentsY}`,
            formatBytes(2 * textureSamples(l)),
          ],
        }))}
      />
      <Hint>
        {document.layoutReason !== null && `Taken: ${document.layoutReason}. `}
        Fewer, larger components draw faster; more, smaller ones are culled finer.
      </Hint>
    </Group>
  );
}
