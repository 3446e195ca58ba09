'use client';
import { formatShort } from '@/core/base';
import { withStep, withStepChanged } from '@/core/edits';
import type { Recipe } from '@/core/recipe';
import { useSession } from '@/state';
import { Button, NumberField, Segmented } from '@/ui';
import { choose, useCurrentRecipe, useStepEdit } from '../hooks';
import { Group, Hint } from './parts';

type Values = Extract<Recipe['steps'][number], { op: 'values' }>;

/** The choices of a step that replaces stored values. */
export function ValuesFields({ step, index }: { step: Values; index: number }) {
  const lowest = useSession((s) => s.facts?.stats?.min ?? 0);
  const change = (to: Partial<Values>): void => {
    const changed = { ...step, ...to };
    choose((r) => withStepChanged(r, index, changed));
  };
  /** A first value beyond the last leaves one alone. */
  const begin = (from: number): void => {
    const { to, ...single } = step;
    const changed = to !== undefined && to < from ? { ...single, from } : { ...step, from };
    choose((r) => withStepChanged(r, index, changed));
  };
  return (
    <div className="flex flex-col gap-1.5">
      <NumberField
        label="From stored value"
        value={step.from}
        hint="As it stands in the file, before any unit or curve."
        onCommit={begin}
      />
      <NumberField
        label="to, included"
        value={step.to ?? step.from}
        min={step.from}
        onCommit={(to) => change({ to })}
      />
      <Segmented
        label="These samples become"
        value={step.become === 'void' ? 'void' : 'metres'}
        onChange={(kind) => change({ become: kind === 'void' ? 'void' : lowest })}
        choices={[
          { value: 'void', label: 'No height' },
          { value: 'metres', label: 'An elevation' },
        ]}
      />
      {step.become !== 'void' && (
        <NumberField
          label="Elevation"
          unit="m"
          value={step.become}
          hint="In true metres, as the source stands for them."
          onCommit={(become) => change({ become })}
        />
      )}
    </div>
  );
}

/** A value that stands for no ground (a sea stored as white, a mark for “nothing here”) is taken out of the heights. */
export function AddValues() {
  const edit = useStepEdit();
  const recipe = useCurrentRecipe();
  const stats = useSession((s) => s.facts?.stats ?? null);
  if (!recipe || !stats || stats.min === null || stats.max === null) return null;
  const add = (value: number): void =>
    edit((r, source) => withStep(r, { op: 'values', from: value, become: 'void' }, source));
  const { min, max } = stats;
  return (
    <Group title="A value that is no height">
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => add(max)}>Take out the highest, {formatShort(max)}</Button>
        {min !== max && <Button onClick={() => add(min)}>Take out the lowest, {formatShort(min)}</Button>}
      </div>
      <Hint>
        A sea that was stored as white, or a mark such as −9999 or 0 for “nothing here”. It is chosen by the value in
        the file, before samples are mixed, so that no slope is invented beside it; the value can be changed in the list
        afterwards.
      </Hint>
    </Group>
  );
}
