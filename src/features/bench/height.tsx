'use client';
import { formatLength, formatNumber, formatShort } from '@/core/base';
import { flatteningFactor, withHeight, withRange, withStrategy } from '@/core/edits';
import { holdsCodes, scaleOfRange } from '@/core/height';
import { elevationsOfCodes } from '@/core/plan';
import type { Recipe } from '@/core/recipe';
import { targetOf } from '@/core/targets';
import { editRecipe } from '@/state';
import { NumberField, Segmented } from '@/ui';
import { choose, useCurrentRecipe, usePlan } from '../hooks';
import { FixedScale } from './fixed-scale';
import { Layers } from './layers';
import { BenchHead, Group, Hint } from './parts';
import { WorldZero } from './world-zero';

type Height = Recipe['height'];

const RANGES: Record<Height['range'], string> = {
  source: 'From the lowest to the highest code that occurs in the source. Stays the same at every size.',
  ground: 'From the lowest to the highest vertex of the fitted ground. Uses every code.',
  codes: 'Code 0 and the highest code of the source as they are: a re-export keeps every sample and value.',
  pinned: 'Typed. For tiles made at different times, and for later updates.',
};

export function HeightBench() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  if (!recipe || !plan) return null;
  const { height } = recipe;
  const { document } = plan;
  const target = targetOf(recipe.target);
  const centred = target.heights.kind === 'centred';
  const k = recipe.fit.worldScale;
  const { range } = plan.work;
  // elevations of the ground as the recipe names them: true metres
  const back = (elevation: number): number => (range.pivot + (elevation - range.pivot) / height.exaggeration) / k;
  const trueGround = {
    low: back(document.height.groundLow ?? range.groundLow),
    high: back(document.height.groundHigh ?? range.groundHigh),
  };
  const ends = { low: back(document.height.low), high: back(document.height.high) };
  const fixedScale = scaleOfRange(document.height.high - document.height.low, target);
  const { ends: type } = plan.work.entering.stage;
  const codes = holdsCodes(recipe.source.heights, type);
  const factor = flatteningFactor(recipe, trueGround);
  return (
    <>
      <BenchHead title="Height">
        {formatNumber(document.height.low, 2)} m to {formatNumber(document.height.high, 2)} m over{' '}
        {formatNumber(target.highestCode + 1, 0)} codes: {formatLength(document.height.effectiveStep)} a step
        {document.height.effectiveStep > document.height.step * 1.001 &&
          `, the source’s own (the file could hold ${formatLength(document.height.step)})`}
        .
      </BenchHead>
      <Group title="The range comes from">
        <Segmented
          label="The range comes from"
          value={height.range}
          onChange={(value) => choose((r) => withRange(r, value, elevationsOfCodes(type, r) ?? ends))}
          choices={[
            { value: 'source', label: 'Source' },
            { value: 'ground', label: 'Ground' },
            { value: 'codes', label: 'Codes', disabled: !codes },
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
              onCommit={(low) => editRecipe((r) => withHeight(r, { low }))}
            />
            <NumberField
              label="Highest code"
              unit="m"
              value={height.high ?? 0}
              onCommit={(high) => editRecipe((r) => withHeight(r, { high }))}
            />
          </>
        )}
      </Group>
      {target.heights.kind === 'fixed-step' ? (
        <Group title="It is used">
          <Hint>
            Each code of this map is {formatLength(target.heights.step)}: heights reach{' '}
            {formatLength(document.height.high - document.height.low)} above the lowest ground, and no further.
          </Hint>
        </Group>
      ) : (
        <Group title="It is used">
          <Segmented
            label="It is used"
            value={height.strategy}
            onChange={(strategy) =>
              choose((r) => withStrategy(r, strategy, { scale: centred ? 100 : Math.ceil(fixedScale), low: ends.low }))
            }
            choices={[
              { value: 'full', label: 'Full range' },
              { value: 'headroom', label: 'Headroom' },
              { value: 'fixed', label: 'Fixed scale' },
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
                onCommit={(below) => editRecipe((r) => withHeight(r, { below }))}
              />
              <NumberField
                label="Room above"
                unit="%"
                value={height.above ?? 0}
                min={0}
                max={90}
                hint="Share of the codes kept free for raising."
                onCommit={(above) => editRecipe((r) => withHeight(r, { above }))}
              />
            </>
          )}
          {height.strategy === 'fixed' && <FixedScale centred={centred} factor={factor} trueGround={trueGround} />}
        </Group>
      )}
      {document.height.layers !== undefined && <Layers height={document.height} />}
      <Group title="Exaggeration">
        <NumberField
          label="Heights are multiplied by"
          value={height.exaggeration}
          min={0.001}
          max={1000}
          hint={
            height.exaggeration === 1
              ? 'True heights.'
              : `About ${formatNumber(range.pivot, 2)} m, the low end of the range; the ground across stays, so slopes are ${height.exaggeration > 1 ? 'steeper' : 'gentler'}.`
          }
          onCommit={(exaggeration) => editRecipe((r) => withHeight(r, { exaggeration }))}
        />
      </Group>
      <WorldZero lowest={trueGround.low} chosen={target.zero === 'chosen'} />
      <Group title="How fine that is">
        <Hint>
          One written step is {formatLength(document.height.step)}
          {document.height.sourceStep !== null && `, one of the source ${formatLength(document.height.sourceStep)}`};
          the larger counts. On a slope of 2 % a terrace is {formatShort(document.height.terraceAt2Percent, 2)} samples
          wide; even ground jitters by {formatShort(document.height.jitterPercent, 2)} %. The map’s view “Steps” shows
          where.
        </Hint>
      </Group>
    </>
  );
}
