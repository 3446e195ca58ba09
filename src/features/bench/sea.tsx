'use client';
import { useEffect, useRef } from 'react';
import { formatShort } from '@/core/base';
import { withSea } from '@/core/edits';
import { percent } from '@/core/plan';
import { editRecipe, pauseUndo, resumeUndo } from '@/state';
import { NumberField } from '@/ui';
import { choose, useCurrentRecipe, usePlan } from '../hooks';
import { Group, Hint } from './parts';

/** A round step of which about 200 make the height of the ground: 1, 2 or 5 times a power of ten. */
function stepFor(height: number): number {
  const wanted = height / 200 || 1;
  const ten = 10 ** Math.floor(Math.log10(wanted));
  return ten * ([1, 2, 5].find((n) => n * ten >= wanted) ?? 10);
}

/** Where the sea lies, typed or moved, and how much of the ground is under it. `ground`: lowest and highest, in true metres. */
export function Sea({ ground }: { ground: { readonly low: number; readonly high: number } }) {
  const recipe = useCurrentRecipe();
  const flooded = usePlan()?.work.flooded ?? null;
  /** Null where nothing is held; whether something was changed since it is held. */
  const held = useRef<boolean | null>(null);
  const letGo = (): void => {
    if (held.current) resumeUndo();
    held.current = null;
  };
  useEffect(() => letGo, []);
  if (!recipe) return null;
  const { sea } = recipe.height;
  const step = stepFor(ground.high - ground.low);
  // round levels, from the last one below the ground on
  const lowest = Math.floor(ground.low / step) * step;
  const highest = Math.ceil(ground.high / step) * step;
  const move = (level: number): void => {
    choose((r) => withSea(r, level));
    // one drag is undone at once: from its first change on
    if (held.current === false) {
      held.current = true;
      pauseUndo();
    }
  };
  return (
    <Group title="Sea" aside={flooded === null ? undefined : `${percent(flooded)} under water`}>
      <NumberField
        label="Sea level"
        unit="m"
        value={sea ?? null}
        hint={
          sea === undefined
            ? 'Leave empty where there is no sea, or move it up.'
            : 'Ground at or below it is hatched on the map. Emptied, there is no sea.'
        }
        onCommit={(level) => editRecipe((r) => withSea(r, level))}
        onClear={() => choose((r) => withSea(r, null))}
      />
      <input
        type="range"
        aria-label="Move the water up and down"
        aria-valuetext={sea === undefined ? 'no sea' : `${formatShort(sea, 2)} m`}
        className="w-full accent-kelp"
        min={lowest}
        max={highest}
        step={step}
        value={sea ?? lowest}
        onPointerDown={() => (held.current = false)}
        onPointerUp={letGo}
        onPointerCancel={letGo}
        onChange={(e) => move(Number(e.target.value))}
      />
      <Hint>Arrow keys move it by {formatShort(step, 3)} m.</Hint>
    </Group>
  );
}
