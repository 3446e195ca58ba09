'use client';
import { formatNumber, formatShort } from '@/core/base';
import { applyEdit, withBestFit } from '@/core/edits';
import { patchSession, setKeeps, takeWay, undo, useSession, type Replacement, type Way } from '@/state';
import { Button, Mark, Segmented, tied } from '@/ui';
import { choose, useChangedRows, useCurrentRecipe, useEnteringInfo, usePlan } from '../hooks';
import { Group, Hint } from './parts';

const size = (s: { width: number; height: number }): string => `${s.width} × ${s.height}`;

/** What another source in the place of the old one changed, and what can be done about it. */
export function ReplacementNote() {
  const replacement = useSession((s) => s.replacement);
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const entering = useEnteringInfo();
  if (!replacement || !recipe || !plan || !entering) return null;
  const { before, after, keeps, dropped } = replacement;
  const sameSize = before.width === after.width && before.height === after.height;
  const best = withBestFit(recipe, entering).fit;
  const fitting = typeof best.size === 'number' ? best.size : size({ width: best.size[0], height: best.size[1] });
  const fits = JSON.stringify(best.size) === JSON.stringify(recipe.fit.size);
  return (
    <Group title="The new source">
      <Hint>
        {sameSize
          ? `The new source has the same ${size(after)} samples${dropped.length === 0 ? '; every choice stays' : ''}.`
          : `The new source has ${size(after)} samples instead of ${size(before)}. ${
              keeps === 'extent'
                ? `The ground keeps its extent: samples now lie ${formatShort(recipe.source.spacing, 6)} m apart.`
                : `The spacing stays ${formatShort(recipe.source.spacing, 6)} m: the ground is now ${after.width > before.width ? 'larger' : 'smaller'}.`
            }`}
      </Hint>
      {dropped.length > 0 && (
        <div className="text-[13px] leading-[17px] text-ochre flex gap-1.5">
          <span className="pt-[2px]">
            <Mark state="caution" silent />
          </span>
          <span>Does not go with the new source, and was left out: {dropped.join('; ')}.</span>
        </div>
      )}
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
          <Button onClick={() => choose((r) => withBestFit(r, entering))}>Take {fitting}, which fits it best</Button>
        </div>
      )}
      {replacement.filled && <FilledQuestion />}
      <Changed />
      <Ways replacement={replacement} />
      <div className="flex gap-4">
        <Button kind="link" onClick={undo}>
          take the old source back
        </Button>
        <Button kind="link" onClick={() => patchSession({ replacement: null })}>
          Close
        </Button>
      </div>
    </Group>
  );
}

/** Of a picture that uses all codes bytes can't tell whether its ends still stand for the same elevations. */
function FilledQuestion() {
  const heights = useCurrentRecipe()?.source.heights;
  const replacement = useSession((s) => s.replacement);
  if (heights?.as !== 'ends' || !replacement) return null;
  const answered = (): void => patchSession({ replacement: { ...replacement, filled: false } });
  return (
    <div className="flex flex-col gap-1.5 border-l-2 border-ochre pl-2">
      <p className="text-[13px] leading-[17px]">
        The new file uses every code from black to white. Do they still stand for {formatShort(heights.low, 2)} m and{' '}
        {formatShort(heights.high, 2)} m? The file itself can’t tell: a picture that was normalised again looks the
        same.
      </p>
      <div className="flex flex-wrap gap-2">
        <Button onClick={answered}>They do</Button>
        <Button
          onClick={() => {
            choose((r) => applyEdit(r, { edit: 'assume', args: { which: ['low', 'high'] } }));
            answered();
          }}
        >
          Others: ask me for them
        </Button>
      </div>
    </div>
  );
}

function Changed() {
  const changed = useChangedRows();
  const packed = useSession((s) => s.pack !== null);
  if (changed.length === 0) return <Hint>No value on the card has changed.</Hint>;
  return (
    <>
      <Hint>Changed on the card {packed ? 'since the last pack' : 'by the new source'}:</Hint>
      <ul className="text-[13px]" aria-label="Changed on the card">
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
  );
}

const WAYS: Readonly<Record<Way['id'], { readonly title: string; readonly take: string }>> = {
  hold: { title: 'Hold the last values', take: 'Hold them' },
  follow: { title: 'Follow the new ground', take: 'Follow it' },
  codes: { title: 'Codes as they are', take: 'Keep the codes' },
};

/** What it costs to go this way. */
function costWords({ changed, clipped }: Way): string {
  const typed =
    changed.length === 0
      ? 'Nothing to type again'
      : `${changed.length} ${changed.length === 1 ? 'value' : 'values'} to type again: ${changed.join(', ')}`;
  return `${typed}. ${clipped === 0 ? 'No sample is clipped' : `${formatNumber(clipped, 0)} samples lie outside and are clipped`}.`;
}

/** The ways to go on, side by side, each with what it costs. */
function Ways({ replacement: { ways } }: { replacement: Replacement }) {
  const recipe = useCurrentRecipe();
  if (!ways) return <Hint>What the new heights cost is being measured.</Hint>;
  // where nothing moves there is nothing to decide
  if (!recipe || ways.every((w) => w.changed.length === 0 && w.clipped === 0)) return null;
  return (
    <ul aria-label="Ways to go on" className="border-t border-rule">
      {ways.map((way) => {
        const { title, take } = WAYS[way.id];
        const taken = JSON.stringify(applyEdit(recipe, way.edit)) === JSON.stringify(recipe);
        return (
          <li key={way.id} className="border-b border-rule py-1.5 flex flex-col gap-1">
            <div className="flex items-baseline justify-between gap-2">
              <span className="font-semibold">{title}</span>
              {taken ? (
                <span className="text-quiet text-[13px]">as it is now</span>
              ) : (
                <Button kind="link" onClick={() => takeWay(way)}>
                  {take}
                </Button>
              )}
            </div>
            <p className="text-[13px] leading-[17px] text-quiet">{tied(costWords(way))}</p>
          </li>
        );
      })}
    </ul>
  );
}
