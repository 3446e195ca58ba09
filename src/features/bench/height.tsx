'use client';
import { formatLength, formatNumber, formatShort } from '@/core/base';
import { withHeight } from '@/core/edits';
import type { Plan } from '@/core/plan';
import type { WrittenTarget } from '@/core/targets';
import { editRecipe } from '@/state';
import { NumberField } from '@/ui';
import { useCurrentRecipe, usePlan } from '../hooks';
import { RangeFields, trueGroundOf } from './height-range';
import { InPlace } from './in-place';
import { Layers } from './layers';
import { BenchHead, Group, Hint } from './parts';
import { Sea } from './sea';
import { WorldZero } from './world-zero';

/** What a step of the written heights is, and over which range they run. */
function headWords({ document: { height } }: Plan, { encoding: { stores }, highestCode }: WrittenTarget): string {
  const own =
    height.effectiveStep > height.step * 1.001
      ? `, the source’s own (the file could hold ${formatLength(height.step)})`
      : '';
  const fine = `${formatLength(height.effectiveStep)} a step${own}.`;
  if (stores === 'metres') return `The file holds elevations in metres, as they are: ${fine}`;
  const ends = `${formatNumber(height.low, 2)} m to ${formatNumber(height.high, 2)} m`;
  return stores === 'codes'
    ? `${ends} over ${formatNumber(highestCode + 1, 0)} codes: ${fine}`
    : `${ends} as 0 to 1: ${fine}`;
}

export function HeightBench() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  if (!recipe || !plan) return null;
  const { height } = recipe;
  const { document } = plan;
  const { target } = plan.work;
  const { range } = plan.work;
  const trueGround = trueGroundOf(recipe, plan);
  return (
    <>
      <BenchHead title="Height">{headWords(plan, target)}</BenchHead>
      {target.encoding.stores !== 'metres' && <RangeFields recipe={recipe} plan={plan} target={target} />}
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
      {target.zero === 'chosen' && <WorldZero lowest={trueGround.low} />}
      <Sea ground={trueGround} />
      <Group title="How fine that is">
        <Hint>
          One written step is {formatLength(document.height.step)}
          {document.height.sourceStep !== null && `, one of the source ${formatLength(document.height.sourceStep)}`};
          the larger counts. On a slope of 2 % a terrace is {formatShort(document.height.terraceAt2Percent, 2)} samples
          wide; even ground jitters by {formatShort(document.height.jitterPercent, 2)} %. The map’s view “Steps” shows
          where.
        </Hint>
      </Group>
      <InPlace target={target} />
    </>
  );
}
