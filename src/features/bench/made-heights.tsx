'use client';
import { formatLength } from '@/core/base';
import { trueCalibration } from '@/core/height';
import { endsOf } from '@/core/chain';
import { stepOf, withCurve, withStretch, withTruncation } from '@/core/edits';
import type { Curve } from '@/core/raster';
import type { SourceHeights } from '@/core/recipe';
import { useSession } from '@/state';
import { CheckBox, Fold, NumberField, Select } from '@/ui';
import { choose, useCurrentRecipe } from '../hooks';
import { KnownSpots } from './known-spots';
import { Hint } from './parts';

const CURVES = [
  { value: 'none', label: 'None', hint: 'Twice the height is twice the code. Right for most heightmaps.' },
  { value: 'srgb', label: 'sRGB', hint: 'The curve of pictures made for screens: low ground is spread out.' },
  { value: 'power', label: 'A power', hint: 'Stored = height to the power of 1 / p. Often 2.2.' },
] as const;

/** What may have been done to the heights before they came here: none of it can be seen in the file. */
export function MadeHeights() {
  const recipe = useCurrentRecipe();
  const facts = useSession((s) => s.facts);
  if (!recipe || !facts) return null;
  const { heights } = recipe.source;
  const curve = stepOf(recipe, 'linearise')?.curve;
  const ends = endsOf(facts.info);
  const changed = (heights.stretch ?? 1) !== 1 || curve !== undefined || ('truncated' in heights && heights.truncated);
  return (
    <>
      <KnownSpots />
      <Fold title="Stretch, rounding, display curve" open={Boolean(changed)}>
        <Stretch heights={heights} />
        <Rounding heights={heights} />
        <DisplayCurve curve={curve ?? null} take={(to) => choose((r) => withCurve(r, ends, to))} />
      </Fold>
    </>
  );
}

function Stretch({ heights }: { heights: SourceHeights }) {
  return (
    <NumberField
      label="Heights are stretched by"
      unit="×"
      value={heights.stretch ?? 1}
      min={1e-3}
      max={1000}
      hint="1 is true. A download at 180 % has 1.8 here, and it is divided out; the low end stays. “180 %” can be typed."
      onCommit={(v) => choose((r) => withStretch(r, v))}
    />
  );
}

function Rounding({ heights }: { heights: SourceHeights }) {
  const facts = useSession((s) => s.facts);
  if (heights.as === 'elevations' || !facts || facts.info.sampleType === 'float') return null;
  const { unit } = trueCalibration(heights, endsOf(facts.info));
  return (
    <div>
      <CheckBox
        label="Codes were cut off, not rounded"
        checked={heights.truncated ?? false}
        onChange={(on) => choose((r) => withTruncation(r, on))}
      />
      <Hint>Cut-off heights lie half a step too low, {formatLength(unit / 2)} here; it is put back.</Hint>
    </div>
  );
}

function DisplayCurve({ curve, take }: { curve: Curve | null; take: (curve: Curve | null) => void }) {
  const power = typeof curve === 'number' ? curve : null;
  return (
    <div className="flex flex-col gap-1">
      <div className="flex items-baseline justify-between gap-2">
        <span>Display curve to undo</span>
        <Select
          label="Display curve to undo"
          value={curve === null ? 'none' : power === null ? 'srgb' : 'power'}
          options={CURVES}
          onChange={(to) => take(to === 'none' ? null : to === 'srgb' ? 'srgb' : 2.2)}
          className="min-w-24"
        />
      </div>
      {power !== null && (
        <NumberField
          label="Power"
          value={power}
          min={0.1}
          max={10}
          hint="2.2 where the heights were saved as a picture with a gamma of 2.2."
          onCommit={take}
        />
      )}
    </div>
  );
}
