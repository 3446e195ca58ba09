import { useShallow } from 'zustand/react/shallow';
import type { View } from '@/core/relief';
import { patchSession, useSession } from '@/state';
import { Button, CheckBox } from '@/ui';
import { usePlan } from '../hooks';

const VIEW_LABELS: readonly { id: View | 'difference'; label: string }[] = [
  { id: 'relief', label: 'Relief' },
  { id: 'heights', label: 'Heights' },
  { id: 'slope', label: 'Slope' },
  { id: 'steps', label: 'Steps' },
  { id: 'difference', label: 'Difference' },
];

/** Above the map: how it is drawn, and what is drawn over it. `source`: the map shows the source itself. */
export function MapBar({ source }: { source: boolean }) {
  const { view, overlays, compare } = useSession(
    useShallow(({ view, overlays, compare }) => ({ view, overlays, compare })),
  );
  const plan = usePlan();
  return (
    <div className="flex flex-wrap items-center gap-x-4 min-h-9 px-2 wide:px-4 border-b border-rule shrink-0">
      <div className="flex flex-wrap gap-x-3 wide:gap-x-4" role="tablist" aria-label="View">
        {VIEW_LABELS.map((v) => (
          <button
            key={v.id}
            type="button"
            role="tab"
            aria-selected={view === v.id}
            onClick={() => patchSession({ view: v.id })}
            className={`h-8 wide:h-9 border-b-2 focus-visible:outline-offset-[-3px] ${view === v.id ? 'border-ink font-semibold' : 'border-transparent text-quiet hover:text-ink'}`}
          >
            {v.label}
          </button>
        ))}
      </div>
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
          Compare source and result
        </Button>
      </div>
    </div>
  );
}
