'use client';
import { formatLength } from '@/core/base';
import { flatteningFactor, withHeight, withRange, withStrategy } from '@/core/edits';
import { holdsCodes, scaleOfRange } from '@/core/height';
import { elevationsOfCodes, type Plan } from '@/core/plan';
import type { Recipe } from '@/core/recipe';
import type { WrittenTarget } from '@/core/targets';
import { editRecipe } from '@/state';
import { NumberField, Segmented } from '@/ui';
import { choose } from '../hooks';
import { FixedScale } from './fixed-scale';
import { Group, Hint } from './parts';

const RANGES: Record<Recipe['height']['range'], string> = {
  source: 'From the lowest to the highest code that occurs in the source. Stays the same at every size.',
  ground: 'From the lowest to the highest vertex of the fitted ground. Uses every code.',
  codes: 'Code 0 and the highest code of the source as they are: a re-export keeps every sample and value.',
  pinned: 'Typed. For tiles made at different times, and for later updates.',
};

/** An elevation of the written world as the recipe names it: in true metres. */
const trueOf =
  ({ height, fit }: Recipe, { work: { range } }: Plan) =>
  (elevation: number): number =>
    (range.pivot + (elevation - range.pivot) / height.exaggeration) / fit.worldScale;

/** The lowest and highest ground, in true metres. */
export function trueGroundOf(recipe: Recipe, plan: Plan): { low: number; high: number } {
  const back = trueOf(recipe, plan);
  const { range } = plan.work;
  const { groundLow, groundHigh } = plan.document.height;
  return { low: back(groundLow ?? range.groundLow), high: back(groundHigh ?? range.groundHigh) };
}

/** Over which elevations codes or shares run, and how much of them the ground takes. */
export function RangeFields({ recipe, plan, target }: { recipe: Recipe; plan: Plan; target: WrittenTarget }) {
  const { height } = recipe;
  const { document } = plan;
  const back = trueOf(recipe, plan);
  const trueGround = trueGroundOf(recipe, plan);
  const ends = { low: back(document.height.low), high: back(document.height.high) };
  const fixedScale = scaleOfRange(document.height.high - document.height.low, target);
  const { ends: type } = plan.work.entering.stage;
  const codes = holdsCodes(recipe.source.heights, type);
  const centred = target.heights.kind === 'centred';
  const shares = target.encoding.stores === 'shares';
  const factor = flatteningFactor(recipe, trueGround);
  return (
    <>
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
              label={shares ? 'Stored as 0' : 'Lowest code'}
              unit="m"
              value={height.low ?? 0}
              onCommit={(low) => editRecipe((r) => withHeight(r, { low }))}
            />
            <NumberField
              label={shares ? 'Stored as 1' : 'Highest code'}
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
          {height.strategy === 'full' && (
            <Hint>
              {shares ? 'What is stored as 0 and as 1 are' : 'Lowest code and highest code are'} the ends of the range.
            </Hint>
          )}
          {height.strategy === 'headroom' && (
            <>
              <NumberField
                label="Room below"
                unit="%"
                value={height.below ?? 0}
                min={0}
                max={90}
                hint="Share of the range kept free for digging."
                onCommit={(below) => editRecipe((r) => withHeight(r, { below }))}
              />
              <NumberField
                label="Room above"
                unit="%"
                value={height.above ?? 0}
                min={0}
                max={90}
                hint="Share of the range kept free for raising."
                onCommit={(above) => editRecipe((r) => withHeight(r, { above }))}
              />
            </>
          )}
          {height.strategy === 'fixed' && <FixedScale centred={centred} factor={factor} trueGround={trueGround} />}
        </Group>
      )}
    </>
  );
}
