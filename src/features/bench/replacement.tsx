'use client';
import { formatShort } from '@/core/base';
import { withBestFit } from '@/core/edits';
import { patchSession, setKeeps, undo, useSession } from '@/state';
import { Button, Segmented } from '@/ui';
import { choose, useChangedRows, useCurrentRecipe, usePlan } from '../hooks';
import { Group, Hint } from './parts';

const size = (s: { width: number; height: number }): string => `${s.width} × ${s.height}`;

/** What another source in the place of the old one changed, and what can be done about it. */
export function ReplacementNote() {
  const replacement = useSession((s) => s.replacement);
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const changed = useChangedRows();
  if (!replacement || !recipe || !plan) return null;
  const { before, after, keeps } = replacement;
  const sameSize = before.width === after.width && before.height === after.height;
  const best = withBestFit(recipe, after).fit;
  const fitting = typeof best.size === 'number' ? best.size : size({ width: best.size[0], height: best.size[1] });
  const fits = JSON.stringify(best.size) === JSON.stringify(recipe.fit.size);
  return (
    <Group title="Replaced">
      <Hint>
        {sameSize
          ? `The new source has the same ${size(after)} samples; every choice stays.`
          : `The new source has ${size(after)} samples instead of ${size(before)}. ${
              keeps === 'extent'
                ? `The ground keeps its extent: samples now lie ${formatShort(recipe.source.spacing, 6)} m apart.`
                : `The spacing stays ${formatShort(recipe.source.spacing, 6)} m: the ground is now ${after.width > before.width ? 'larger' : 'smaller'}.`
            }`}
      </Hint>
      {!sameSize && (
        <Segmented
          label="What a replaced source keeps"
          value={keeps}
          onChange={setKeeps}
          choices={[
            { value: 'extent', label: 'Keep the extent' },
            { value: 'spacing', label: 'Keep the spacing' },
          ]}
        />
      )}
      {!sameSize && !fits && !recipe.split && (
        <div>
          <Button onClick={() => choose((r) => withBestFit(r, after))}>Take {fitting}, which fits it best</Button>
        </div>
      )}
      {changed.length > 0 && (
        <>
          <Hint>Changed on the card since the last pack:</Hint>
          <ul className="text-[13px]">
            {changed.map((c) => (
              <li key={c.label} className="flex justify-between gap-2 border-b border-rule">
                <span>{c.label}</span>
                <span className="num whitespace-nowrap">
                  {c.before} → {c.now}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      <div className="flex gap-4">
        {!sameSize && (
          <Button kind="link" onClick={undo}>
            take the old source back
          </Button>
        )}
        <Button kind="link" onClick={() => patchSession({ replacement: null })}>
          Close
        </Button>
      </div>
    </Group>
  );
}
