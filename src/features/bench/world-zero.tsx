'use client';
import { withOffset } from '@/core/edits';
import type { Recipe } from '@/core/recipe';
import { Select } from '@/ui';
import { choose, useCurrentRecipe } from '../hooks';
import { Group, Hint } from './parts';

type Height = Recipe['height'];

const OFFSETS: readonly { value: Height['offset']; label: string; hint: string }[] = [
  { value: 'lowest-code', label: 'the lowest code', hint: 'Code 0 lies at world height 0.' },
  { value: 'lowest-ground', label: 'the lowest ground', hint: 'The low end of the range, before headroom.' },
  { value: 'sea', label: 'sea level', hint: 'The sea lies at world height 0; ground below it is negative.' },
  { value: 'survey', label: 'elevation 0', hint: 'Survey elevations are kept.' },
  { value: 'middle-code', label: 'the middle code', hint: 'The code in the middle of all lies at world height 0.' },
];

/** Which elevation lies at world height 0. `lowest`: of the ground, in true metres. */
export function WorldZero({ lowest }: { lowest: number }) {
  const recipe = useCurrentRecipe();
  if (!recipe) return null;
  const { height } = recipe;
  return (
    <Group title="World height 0 is">
      <Select
        label="World height 0"
        value={height.offset}
        options={OFFSETS}
        onChange={(offset) => choose((r) => withOffset(r, offset, lowest))}
      />
      <Hint>{OFFSETS.find((o) => o.value === height.offset)?.hint}</Hint>
    </Group>
  );
}
