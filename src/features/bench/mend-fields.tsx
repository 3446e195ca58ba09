'use client';
import { withStepChanged } from '@/core/edits';
import type { Step, StepOf } from '@/core/recipe';
import { Button, NumberField, Segmented, Select } from '@/ui';
import { choose } from '../hooks';
import { AreaFields, LakeFields, RiverFields } from './drawn';
import { useEnds, type Fields } from './fields';
import { CropFields, PadFields, RotateFields, WarpFields } from './frame-fields';

const METHODS = [
  { value: 'membrane', label: 'Smoothly, from its edges', hint: 'As a skin that is held by the ground around it.' },
  { value: 'distance', label: 'By distance', hint: 'Nearer edges count more, by the square of how near they are.' },
  {
    value: 'lowest',
    label: 'Its lowest edge',
    hint: 'Each void becomes flat, as deep as the lowest sample beside it.',
  },
  { value: 'elevation', label: 'An elevation', hint: 'All voids get the same.' },
] as const;

function VoidFields({ step, change }: Fields<StepOf<'fill-voids'>>) {
  const { low } = useEnds();
  const { elevation: _, ...rest } = step;
  return (
    <>
      <Select
        label="Each void is filled"
        value={step.method}
        options={METHODS}
        onChange={(method) =>
          change(method === 'elevation' ? { ...rest, method, elevation: low } : { ...rest, method })
        }
      />
      {step.elevation !== undefined && (
        <NumberField
          label="Elevation"
          unit="m"
          value={step.elevation}
          onCommit={(elevation) => change({ ...step, elevation })}
        />
      )}
    </>
  );
}

function SpikeFields({ step, change }: Fields<StepOf<'despike'>>) {
  return (
    <NumberField
      label="Higher or lower by more than"
      unit="m"
      value={step.threshold}
      min={0}
      hint="Than the middle one of the nine samples around it. Only such samples change: they become that middle one."
      onCommit={(threshold) => change({ ...step, threshold })}
    />
  );
}

function SmoothFields({ step, change }: Fields<StepOf<'smooth'>>) {
  return (
    <>
      <NumberField
        label="Radius"
        unit="m"
        value={step.radius}
        min={1e-3}
        hint="Bumps much smaller than this go, hills much larger than it stay."
        onCommit={(radius) => change({ ...step, radius })}
      />
      <NumberField
        label="Strength"
        unit="%"
        value={step.strength * 100}
        min={0}
        max={100}
        onCommit={(percent) => change({ ...step, strength: percent / 100 })}
      />
    </>
  );
}

type Sea = StepOf<'sea'>;
const whereOf = ({ select }: Sea): 'all' | 'border' | 'spot' => (typeof select === 'string' ? select : 'spot');

function SeaFields({ step, change }: Fields<Sea>) {
  const { tolerance: _tolerance, maxSlope: _slope, ...rest } = step;
  const where = whereOf(step);
  const spot = typeof step.select === 'string' ? null : step.select.spot;
  return (
    <>
      <NumberField label="Level" unit="m" value={step.level} onCommit={(level) => change({ ...step, level })} />
      <Segmented
        label="Which heights are water"
        value={step.tolerance === undefined ? 'below' : 'at'}
        onChange={(kind) => change(kind === 'below' ? { ...rest, ...slopeOf(step) } : { ...step, tolerance: 0.01 })}
        choices={[
          { value: 'below', label: 'Level and below' },
          { value: 'at', label: 'This level alone' },
        ]}
      />
      {step.tolerance !== undefined && (
        <NumberField
          label="give or take"
          unit="m"
          value={step.tolerance}
          min={0}
          onCommit={(tolerance) => change({ ...step, tolerance })}
        />
      )}
      <Select
        label="Where"
        value={where}
        options={WHERE}
        onChange={(to) => change({ ...step, select: to === 'spot' ? { spot: [0, 0] } : to })}
      />
      {spot && (
        <>
          <NumberField
            label="East of the north-west corner"
            unit="m"
            value={spot[0]}
            onCommit={(e) => change({ ...step, select: { spot: [e, spot[1]] } })}
          />
          <NumberField
            label="South of the north-west corner"
            unit="m"
            value={spot[1]}
            onCommit={(s) => change({ ...step, select: { spot: [spot[0], s] } })}
          />
        </>
      )}
      <NumberField
        label="Only where slopes stay below"
        unit="%"
        value={step.maxSlope === undefined ? null : step.maxSlope * 100}
        min={0}
        hint="Left empty, slopes don’t matter. A small slope keeps snowfields and shores out."
        onCommit={(percent) => change({ ...step, maxSlope: percent / 100 })}
        onClear={() => change({ ...rest, ...toleranceOf(step) })}
      />
      <BedFields step={step} change={change} />
    </>
  );
}

const slopeOf = ({ maxSlope }: Sea) => (maxSlope === undefined ? {} : { maxSlope });
const toleranceOf = ({ tolerance }: Sea) => (tolerance === undefined ? {} : { tolerance });
const WHERE = [
  { value: 'border', label: 'What reaches the border', hint: 'The sea: inner lakes of the same height stay.' },
  { value: 'all', label: 'Everywhere', hint: 'Lakes and sea alike.' },
  { value: 'spot', label: 'Around a spot', hint: 'One lake, or one arm of the sea.' },
] as const;

function BedFields({ step, change }: Fields<Sea>) {
  const { become } = step;
  const bed = typeof become === 'number' ? null : become;
  return (
    <>
      <Segmented
        label="What the water becomes"
        value={bed ? 'bed' : 'metres'}
        onChange={(kind) => change({ ...step, become: kind === 'bed' ? { slope: 0.1, depth: 10 } : step.level })}
        choices={[
          { value: 'metres', label: 'An elevation' },
          { value: 'bed', label: 'A bed under it' },
        ]}
      />
      {typeof become === 'number' && (
        <NumberField label="Elevation" unit="m" value={become} onCommit={(to) => change({ ...step, become: to })} />
      )}
      {bed && (
        <>
          <NumberField
            label="Falls from the shore by"
            unit="%"
            value={bed.slope * 100}
            min={0.1}
            onCommit={(percent) => change({ ...step, become: { ...bed, slope: percent / 100 } })}
          />
          <NumberField
            label="down to a depth of"
            unit="m"
            value={bed.depth}
            min={1e-3}
            onCommit={(depth) => change({ ...step, become: { ...bed, depth } })}
          />
        </>
      )}
    </>
  );
}

function LevelFields({ step, change }: Fields<StepOf<'levels'>>) {
  const { points } = step;
  const put = (i: number, k: 0 | 1, value: number): void =>
    change({
      ...step,
      points: points.map(([from, to], j) => (j !== i ? [from, to] : k === 0 ? [value, to] : [from, value])),
    });
  const more = (): void => {
    const [from, to] = points.at(-1)!;
    change({ ...step, points: [...points, [from + 10, to + 10]] });
  };
  return (
    <>
      {points.map(([from, to], i) => (
        <div key={i} className="flex flex-col gap-1 border-l-2 border-rule pl-2">
          <NumberField label={`Point ${i + 1}: elevation`} unit="m" value={from} onCommit={(v) => put(i, 0, v)} />
          <NumberField label="becomes" unit="m" value={to} onCommit={(v) => put(i, 1, v)} />
        </div>
      ))}
      <div className="flex gap-3">
        <Button kind="link" onClick={more}>
          one more point
        </Button>
        {points.length > 1 && (
          <Button kind="link" onClick={() => change({ ...step, points: points.slice(0, -1) })}>
            without the last
          </Button>
        )}
      </div>
    </>
  );
}

function RangeFields({ step, change }: Fields<StepOf<'range'>>) {
  const without = (key: 'low' | 'high' | 'base' | 'factor'): void => {
    const { [key]: _, ...rest } = step;
    change(rest);
  };
  const field = (key: 'low' | 'high' | 'base', label: string) => (
    <NumberField
      label={label}
      unit="m"
      value={step[key] ?? null}
      onCommit={(value) => change({ ...step, [key]: value })}
      onClear={() => without(key)}
    />
  );
  return (
    <>
      {field('low', 'Nothing below')}
      {field('high', 'Nothing above')}
      {field('base', 'Heights count from')}
      <NumberField
        label="Heights times"
        value={step.factor ?? null}
        min={1e-4}
        hint="In this order: ends cut off, counted from another base, multiplied. An empty field leaves its part out."
        onCommit={(factor) => change({ ...step, factor })}
        onClear={() => without('factor')}
      />
    </>
  );
}

function HealFields({ step, change }: Fields<StepOf<'heal-steps'>>) {
  const { step: _step, ring: _ring, ...rest } = step;
  const ring = step.ring ? { ring: step.ring } : {};
  return (
    <>
      <NumberField
        label="Height of a stair"
        unit="m"
        value={step.step ?? null}
        min={1e-4}
        hint="Left empty, it is found from the heights that occur."
        onCommit={(metres) => change({ ...step, step: metres })}
        onClear={() => change({ ...rest, ...ring })}
      />
      <Segmented
        label="Heights between two stairs were"
        value={step.stored ?? 'rounded'}
        onChange={(stored) => change({ ...step, stored })}
        choices={[
          { value: 'rounded', label: 'Rounded' },
          { value: 'cut', label: 'Cut off' },
        ]}
      />
      {step.ring && (
        <Button
          kind="link"
          onClick={() => change({ ...rest, ...(step.step === undefined ? {} : { step: step.step }) })}
        >
          everywhere, not within an outline
        </Button>
      )}
    </>
  );
}

/** The choices of a step that mends the ground; nothing for others. */
export function MendFields({ step, index }: { readonly step: Step; readonly index: number }) {
  const change = (to: Step): void => choose((r) => withStepChanged(r, index, to));
  // eslint-disable-next-line @typescript-eslint/switch-exhaustiveness-check -- other steps have fields of their own, or none
  switch (step.op) {
    case 'fill-voids':
      return <VoidFields step={step} change={change} />;
    case 'despike':
      return <SpikeFields step={step} change={change} />;
    case 'smooth':
      return <SmoothFields step={step} change={change} />;
    case 'sea':
      return <SeaFields step={step} change={change} />;
    case 'levels':
      return <LevelFields step={step} change={change} />;
    case 'range':
      return <RangeFields step={step} change={change} />;
    case 'heal-steps':
      return <HealFields step={step} change={change} />;
    case 'rotate':
      return <RotateFields step={step} change={change} />;
    case 'warp':
      return <WarpFields step={step} change={change} />;
    case 'crop':
      return <CropFields step={step} change={change} />;
    case 'pad':
      return <PadFields step={step} change={change} />;
    case 'river':
      return <RiverFields step={step} change={change} />;
    case 'lake':
      return <LakeFields step={step} change={change} />;
    case 'area':
      return <AreaFields step={step} change={change} />;
    default:
      return null;
  }
}
