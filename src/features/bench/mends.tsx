'use client';
import { formatShort } from '@/core/base';
import { withStep } from '@/core/edits';
import type { Step } from '@/core/recipe';
import { Button } from '@/ui';
import { usePlan, useStepEdit } from '../hooks';
import { Group, Hint } from './parts';

/** A length that is easy to read, near to the one that was worked out. */
const round = (value: number): number => Number(value.toPrecision(2));

/** Voids become ground in a step of their own. */
export function FillVoids() {
  const edit = useStepEdit();
  return (
    <>
      <div>
        <Button onClick={() => edit((r, source) => withStep(r, { op: 'fill-voids', method: 'membrane' }, source))}>
          Fill from the edges
        </Button>
      </div>
      <Hint>
        Places without a height become ground that goes on from what lies around them. Other ways stand in the list
        afterwards.
      </Hint>
    </>
  );
}

/** Everything that can be done to heights: each comes into the list above with choices that change little. */
export function Mends() {
  const edit = useStepEdit();
  const plan = usePlan();
  if (!plan) return null;
  const { entering, trueEnds } = plan.work;
  const { low, high } = trueEnds;
  const { stage, spacing } = entering;
  const [wide, tall] = [(stage.info.width - 1) * spacing, (stage.info.height - 1) * spacing];
  const relief = Math.max(high - low, 1);
  const corner = (e: number, s: number): [[number, number], [number, number]] => [
    [round(e), round(s)],
    [round(e), round(s)],
  ];
  const ways: readonly { readonly label: string; readonly step: Step }[] = [
    {
      label: 'Water',
      step: { op: 'sea', level: low, select: 'border', become: { slope: 0.1, depth: round(relief / 20) } },
    },
    { label: 'Spikes and pits', step: { op: 'despike', threshold: round(relief / 10) } },
    { label: 'Stairs to slopes', step: { op: 'heal-steps' } },
    { label: 'Smooth', step: { op: 'smooth', radius: round(2 * spacing), strength: 1 } },
    {
      label: 'Levels',
      step: {
        op: 'levels',
        points: [
          [low, low],
          [high > low ? high : low + 1, high > low ? high : low + 1],
        ],
      },
    },
    { label: 'Range', step: { op: 'range', low, high: low + relief } },
    { label: 'Crop', step: { op: 'crop', at: [0, 0], size: [Math.max(wide, spacing), Math.max(tall, spacing)] } },
    {
      label: 'Pad',
      step: {
        op: 'pad',
        by: { north: 10 * spacing, east: 10 * spacing, south: 10 * spacing, west: 10 * spacing },
        with: 'mirror',
      },
    },
    { label: 'Turn by an angle', step: { op: 'rotate', degrees: 1, about: [round(wide / 2), round(tall / 2)] } },
    { label: 'Onto control points', step: { op: 'warp', points: [corner(0, 0), corner(wide, 0), corner(0, tall)] } },
  ];
  return (
    <Group title="Mend heights" aside={`${formatShort(low, 1)} to ${formatShort(high, 1)} m`}>
      <div className="grid grid-cols-2 gap-2">
        {ways.map(({ label, step }) => (
          <Button key={label} onClick={() => edit((r, source) => withStep(r, step, source))}>
            {label}
          </Button>
        ))}
      </div>
      <Hint>
        Each is added to the list above with choices that change little, and says what it changed. Metres count east and
        south of the north-west corner of the ground, before turns.
      </Hint>
    </Group>
  );
}
