'use client';
import { formatLength, formatNumber, formatShort } from '@/core/base';
import { scaleOfRange } from '@/core/height';
import type { Recipe } from '@/core/recipe';
import { targetById } from '@/core/targets';
import { editRecipe } from '@/state';
import { NumberField, Segmented, Select } from '@/ui';
import { change, choose, useCurrentRecipe, usePlan } from '../hooks';
import { BenchHead, Group, Hint } from './parts';

type Height = Recipe['height'];

const RANGES: Record<Height['range'], string> = {
  source: 'From the lowest to the highest code that occurs in the source. Stays the same at every size.',
  ground: 'From the lowest to the highest vertex of the fitted ground. Uses every code.',
  pinned: 'Typed. For tiles made at different times, and for later updates.',
};
const OFFSETS: readonly { value: Height['offset']; label: string; hint: string }[] = [
  { value: 'lowest-code', label: 'the lowest code', hint: 'Code 0 lies at world height 0.' },
  { value: 'lowest-ground', label: 'the lowest ground', hint: 'The low end of the range, before headroom.' },
  { value: 'sea', label: 'sea level', hint: 'The sea lies at world height 0; ground below it is negative.' },
  { value: 'survey', label: 'elevation 0', hint: 'Survey elevations are kept.' },
  { value: 'middle-code', label: 'the middle code', hint: 'Code 32768 lies at world height 0.' },
];

export function HeightBench() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  if (!recipe || !plan) return null;
  const { height } = recipe;
  const { document } = plan;
  const target = targetById(recipe.target);
  const centred = target.heights.kind === 'centred';
  const k = recipe.fit.worldScale;
  const fixedScale = scaleOfRange(document.height.high - document.height.low, target);
  return (
    <>
      <BenchHead title="Height">
        {formatNumber(document.height.low, 2)} m to {formatNumber(document.height.high, 2)} m over 65 536 codes:{' '}
        {formatLength(document.height.step)} a step.
      </BenchHead>
      <Group title="The range comes from">
        <Segmented
          label="The range comes from"
          value={height.range}
          onChange={(range) =>
            choose(
              'height',
              range === 'pinned'
                ? { range, low: height.low ?? document.height.low / k, high: height.high ?? document.height.high / k }
                : { range },
            )
          }
          choices={[
            { value: 'source', label: 'Source' },
            { value: 'ground', label: 'Ground' },
            { value: 'pinned', label: 'Pinned' },
          ]}
        />
        <Hint>{RANGES[height.range]}</Hint>
        {height.range === 'pinned' && (
          <>
            <NumberField
              label="Lowest code"
              unit="m"
              value={height.low ?? 0}
              onCommit={(low) => change('height', { low })}
            />
            <NumberField
              label="Highest code"
              unit="m"
              value={height.high ?? 0}
              onCommit={(high) => change('height', { high })}
            />
          </>
        )}
      </Group>
      <Group title="It is used">
        <Segmented
          label="It is used"
          value={height.strategy}
          onChange={(strategy) =>
            choose('height', {
              strategy,
              ...(strategy === 'headroom' ? { below: height.below ?? 5, above: height.above ?? 5 } : {}),
              ...(strategy === 'fixed'
                ? {
                    scale: height.scale ?? (centred ? 100 : Math.ceil(fixedScale)),
                    anchor: height.anchor ?? { at: 'lowest' as const, elevation: document.height.low / k },
                  }
                : {}),
            })
          }
          choices={[
            { value: 'full', label: 'In full' },
            { value: 'headroom', label: 'With room' },
            { value: 'fixed', label: 'At a scale' },
          ]}
        />
        {height.strategy === 'full' && <Hint>Lowest code and highest code are the ends of the range.</Hint>}
        {height.strategy === 'headroom' && (
          <>
            <NumberField
              label="Room below"
              unit="%"
              value={height.below ?? 0}
              min={0}
              max={90}
              hint="Share of the codes kept free for digging."
              onCommit={(below) => change('height', { below })}
            />
            <NumberField
              label="Room above"
              unit="%"
              value={height.above ?? 0}
              min={0}
              max={90}
              hint="Share of the codes kept free for raising."
              onCommit={(above) => change('height', { above })}
            />
          </>
        )}
        {height.strategy === 'fixed' && (
          <>
            <NumberField
              label={centred ? 'Height scale' : 'Height range'}
              {...(centred ? {} : { unit: 'm' })}
              value={height.scale ?? null}
              min={0.001}
              hint={`Spans ${formatShort(document.height.high - document.height.low, 2)} m. What does not fit is clipped.`}
              onCommit={(scale) => change('height', { scale })}
            />
            <div className="flex items-center justify-between gap-3">
              <span>Anchored at the</span>
              <Select
                label="Anchor"
                value={height.anchor?.at ?? 'lowest'}
                options={[
                  { value: 'lowest', label: 'lowest code' },
                  { value: 'middle', label: 'middle code' },
                  { value: 'highest', label: 'highest code' },
                ]}
                onChange={(at) => choose('height', { anchor: { at, elevation: height.anchor?.elevation ?? 0 } })}
              />
            </div>
            <NumberField
              label="which lies at"
              unit="m"
              value={height.anchor?.elevation ?? 0}
              onCommit={(elevation) => change('height', { anchor: { at: height.anchor?.at ?? 'lowest', elevation } })}
            />
          </>
        )}
      </Group>
      <Group title="World height 0 is">
        <Select
          label="World height 0"
          value={height.offset}
          options={OFFSETS}
          onChange={(offset) =>
            editRecipe((r) => ({
              ...r,
              height: {
                ...r.height,
                offset,
                ...(offset === 'sea' && r.height.sea === undefined ? { sea: document.height.low / k } : {}),
              },
            }))
          }
        />
        <Hint>{OFFSETS.find((o) => o.value === height.offset)?.hint}</Hint>
        <NumberField
          label="Sea level"
          unit="m"
          value={height.sea ?? null}
          hint={
            height.sea === undefined
              ? 'Leave empty where there is no sea.'
              : 'Ground at or below it is hatched on the map.'
          }
          onCommit={(sea) => change('height', { sea })}
        />
      </Group>
      <Group title="How fine that is">
        <Hint>
          On a slope of 2 % a terrace is {formatShort(document.height.terraceAt2Percent, 2)} samples wide; even ground
          jitters by {formatShort(document.height.jitterPercent, 2)} %. The map’s view “Steps” shows where.
        </Hint>
      </Group>
    </>
  );
}
