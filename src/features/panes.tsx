'use client';
import { useHotkeys } from 'react-hotkeys-hook';
import { patchSession, useSession, type Pane } from '@/state';
import { STEPS } from './chain/chain';

/** In a narrow window a part of the page is there when it is asked for. */
export const paneClass = (open: boolean): string => (open ? 'flex' : 'hidden wide:flex');

/** In a narrow window: which part stands beside or under the map, or in its place. */
export function Panes() {
  const pane = useSession((s) => s.pane);
  const step = useSession((s) => s.step);
  useHotkeys('esc', () => patchSession({ pane: null }), { enabled: pane !== null });
  const panes: readonly (readonly [Pane, string])[] = [
    ['bench', STEPS.find((s) => s.id === step)?.label ?? ''],
    ['section', 'Section'],
    ['card', 'Type in'],
  ];
  return (
    <nav
      aria-label="Beside the map"
      className="wide:hidden grid grid-cols-3 h-10 shrink-0 border-t border-ink bg-panel"
    >
      {panes.map(([id, label]) => (
        <button
          key={id}
          type="button"
          aria-pressed={pane === id}
          onClick={() => patchSession({ pane: pane === id ? null : id })}
          className={`border-r border-rule last:border-r-0 font-semibold focus-visible:outline-offset-[-3px] ${pane === id ? 'bg-ink text-panel' : 'hover:bg-kelp-wash'}`}
        >
          {label}
        </button>
      ))}
    </nav>
  );
}
