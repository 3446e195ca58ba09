import { useShallow } from 'zustand/react/shallow';
import type { View } from '@/core/relief';
import { patchSession, useSession } from '@/state';
import { Button, CheckBox, Tabs } from '@/ui';
import { usePlan } from '../hooks';

const VIEWS: readonly { value: View | 'difference'; label: string }[] = [
  { value: 'relief', label: 'Relief' },
  { value: 'heights', label: 'Heights' },
  { value: 'slope', label: 'Slope' },
  { value: 'steps', label: 'Steps' },
  { value: 'difference', label: 'Difference' },
];

/** Above the map: how it is drawn, and what is drawn over it. `source`: the map shows the source itself. */
export function MapBar({ source }: { source: boolean }) {
  const { view, overlays, compare } = useSession(
    useShallow(({ view, overlays, compare }) => ({ view, overlays, compare })),
  );
  const plan = usePlan();
  return (
    <div className="flex flex-wrap items-center gap-x-4 min-h-9 px-2 wide:px-4 border-b border-rule shrink-0">
      <Tabs label="View" value={view} choices={VIEWS} onChange={(v) => patchSession({ view: v })} />
      <div className="ml-auto flex flex-wrap items-center gap-x-3 whitespace-nowrap max-wide:pb-1">
        {plan && plan.document.files.length > 1 && (
          <CheckBox
            label="tiles"
            checked={overlays.tiles}
            onChange={(tiles) => patchSession({ overlays: { ...overlays, tiles } })}
          />
        )}
        {plan?.document.layout && (
          <CheckBox
            label="components"
            checked={overlays.components}
            onChange={(components) => patchSession({ overlays: { ...overlays, components } })}
          />
        )}
        {plan?.document.layout && plan.document.layout.patches > 1 && (
          <CheckBox
            label="patches"
            checked={overlays.patches}
            onChange={(patches) => patchSession({ overlays: { ...overlays, patches } })}
          />
        )}
        <Button
          aria-pressed={compare}
          disabled={source || view === 'difference'}
          className={compare ? '!bg-ink !text-panel' : ''}
          onClick={() => patchSession({ compare: !compare })}
        >
          <span>
            Compare<span className="max-wide:sr-only"> source and result</span>
          </span>
        </Button>
      </div>
    </div>
  );
}
