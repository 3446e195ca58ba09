'use client';
import { useState } from 'react';
import { formatNumber } from '@/core/base';
import { endsOf } from '@/core/chain';
import { confirmed, heightsGivenAs, stepOf, withHeights, withUnit } from '@/core/edits';
import type { SourceFacts } from '@/core/plan';
import { HEIGHT_UNITS, highestStored, type HeightUnit } from '@/core/raster';
import type { Assumable, Recipe, SourceHeights } from '@/core/recipe';
import { editRecipe, useSession } from '@/state';
import { Button, NumberField, Segmented, Select } from '@/ui';
import { choose, useCurrentRecipe } from '../hooks';
import { confirmOf } from './confirm';
import { Group, Hint } from './parts';
import { UNIT_WORDS } from './unit-words';

/** How the second number of the heights is given. */
type Given = 'high' | 'range' | 'code';

type Ends = Extract<SourceHeights, { as: 'ends' }>;
type Step = Extract<SourceHeights, { as: 'step' }>;
type Elevations = Extract<SourceHeights, { as: 'elevations' }>;

/** Typed values are placeholders no longer; a value that only moved along stays one. */
const setHeights = (heights: SourceHeights, typed: readonly Assumable[]): void =>
  editRecipe((r) => withHeights(r, heights, typed));

/** What the numbers of the source stand for. */
export function Calibration() {
  const recipe = useCurrentRecipe();
  const facts = useSession((s) => s.facts);
  if (!recipe || !facts) return null;
  const { heights } = recipe.source;
  if (heights.as === 'elevations') return <AreElevations recipe={recipe} facts={facts} heights={heights} />;
  return <AreCodes recipe={recipe} facts={facts} heights={heights} />;
}

function AreElevations({ recipe, facts, heights }: { recipe: Recipe; facts: SourceFacts; heights: Elevations }) {
  const { info } = facts;
  const float = info.sampleType === 'float';
  const open = recipe.source.assumed?.includes('unit') ?? false;
  return (
    <Group title="Heights" aside="elevations">
      <div className="flex items-baseline justify-between gap-2">
        <span>Measured in</span>
        <Select
          label="Heights are measured in"
          value={heights.unit ?? 'metre'}
          options={HEIGHT_UNITS.map((unit) => ({ value: unit, label: UNIT_WORDS[unit] }))}
          onChange={(unit: HeightUnit) => choose((r) => withUnit(r, unit))}
          className="min-w-36"
        />
      </div>
      {open ? (
        <p className="text-ochre text-[13px] leading-[17px]">
          Whole numbers with a sign are metres by custom; this file does not say so.{' '}
          <Button kind="link" onClick={() => choose((r) => confirmed(r, ['unit']))}>
            They are {UNIT_WORDS[heights.unit ?? 'metre']}
          </Button>
        </p>
      ) : (
        <Hint>
          {float
            ? 'The file holds numbers with a fraction; they are taken as elevations.'
            : 'Each whole number is an elevation.'}
        </Hint>
      )}
      <div>
        <Button kind="link" onClick={() => choose((r) => heightsGivenAs(r, info, 'ends'))}>
          {float ? 'They run from 0 to 1 instead' : 'They are codes with a low and a high instead'}
        </Button>
      </div>
    </Group>
  );
}

function AreCodes({ recipe, facts, heights }: { recipe: Recipe; facts: SourceFacts; heights: Ends | Step }) {
  const [second, setSecond] = useState<'high' | 'range'>('high');
  const ends = endsOf(facts.info);
  const float = ends.sampleType === 'float';
  const top = highestStored(ends);
  const given: Given = heights.as === 'step' ? 'code' : second;
  const give = (as: Given): void => {
    if (as !== 'code') setSecond(as);
    choose((r) => heightsGivenAs(r, ends, as === 'code' ? 'step' : 'ends'));
  };
  const curved = stepOf(recipe, 'linearise') !== undefined;
  return (
    <Group title="Heights" aside={codesAside(float, curved && !float, top)}>
      <Segmented
        label="Heights are given as"
        value={given}
        onChange={give}
        choices={[
          { value: 'high', label: 'Low, high' },
          { value: 'range', label: 'Low, range' },
          { value: 'code', label: float ? 'Metres per 1' : 'Metres per code', disabled: curved },
        ]}
      />
      {heights.as === 'ends' ? (
        <EndFields recipe={recipe} heights={heights} given={second} top={top} />
      ) : (
        <StepFields recipe={recipe} heights={heights} />
      )}
      {!curved && (
        <div>
          <Button kind="link" onClick={() => choose((r) => heightsGivenAs(r, ends, 'elevations'))}>
            {float ? 'They are metres already' : 'The codes are elevations already'}
          </Button>
        </div>
      )}
    </Group>
  );
}

function codesAside(float: boolean, straightened: boolean, top: number): string {
  if (straightened) return 'black is 0, white is 1';
  return float ? 'values normalised 0 to 1' : `codes 0 to ${formatNumber(top, 0)}`;
}

function EndFields({
  recipe,
  heights,
  given,
  top,
}: {
  recipe: Recipe;
  heights: Ends;
  given: 'high' | 'range';
  top: number;
}) {
  const { low, high } = heights;
  return (
    <>
      <NumberField
        label="Code 0 stands for"
        unit="m"
        value={low}
        hint="Elevation of black, whether or not it occurs."
        {...confirmOf(recipe, ['low'])}
        onCommit={(v) =>
          setHeights({ ...heights, low: v, high: given === 'high' && high > v ? high : v + high - low }, ['low'])
        }
      />
      {given === 'high' ? (
        <NumberField
          label={`Code ${top} stands for`}
          unit="m"
          value={high}
          hint="Elevation of white. A service’s “highest elevation” is this, not the range."
          {...confirmOf(recipe, ['high'])}
          onCommit={(v) => setHeights({ ...heights, high: v }, ['high'])}
        />
      ) : (
        <NumberField
          label="Range"
          unit="m"
          value={high - low}
          min={1e-6}
          hint={`From code 0 to code ${top}.`}
          {...confirmOf(recipe, ['high'])}
          onCommit={(v) => setHeights({ ...heights, high: low + v }, ['high'])}
        />
      )}
    </>
  );
}

function StepFields({ recipe, heights }: { recipe: Recipe; heights: Step }) {
  return (
    <>
      <NumberField
        label="One code is"
        unit="m"
        digits={9}
        value={heights.step}
        hint="Metres from one code to the next."
        {...confirmOf(recipe, ['high'])}
        onCommit={(step) => setHeights({ ...heights, step }, ['high'])}
      />
      <NumberField
        label="Code 0 stands for"
        unit="m"
        value={heights.base}
        hint="Elevation of black, whether or not it occurs."
        {...confirmOf(recipe, ['low'])}
        onCommit={(base) => setHeights({ ...heights, base }, ['low'])}
      />
    </>
  );
}
