'use client';
import type { StepOf } from '@/core/recipe';
import { controlPointsBeside } from '@/core/operations';
import { formatShort } from '@/core/base';
import { Button, NumberField, Segmented } from '@/ui';
import { useEnds, type Fields } from './fields';

export function CropFields({ step, change }: Fields<StepOf<'crop'>>) {
  const { at, size } = step;
  return (
    <>
      <NumberField
        label="Begins east by"
        unit="m"
        value={at[0]}
        min={0}
        onCommit={(e) => change({ ...step, at: [e, at[1]] })}
      />
      <NumberField
        label="and south by"
        unit="m"
        value={at[1]}
        min={0}
        onCommit={(s) => change({ ...step, at: [at[0], s] })}
      />
      <NumberField
        label="Wide"
        unit="m"
        value={size[0]}
        min={1e-3}
        onCommit={(e) => change({ ...step, size: [e, size[1]] })}
      />
      <NumberField
        label="Tall"
        unit="m"
        value={size[1]}
        min={1e-3}
        onCommit={(s) => change({ ...step, size: [size[0], s] })}
      />
    </>
  );
}

const SIDES = ['north', 'east', 'south', 'west'] as const;
export function PadFields({ step, change }: Fields<StepOf<'pad'>>) {
  const { low } = useEnds();
  return (
    <>
      {SIDES.map((side) => (
        <NumberField
          key={side}
          label={`In the ${side}`}
          unit="m"
          value={step.by[side]}
          min={0}
          onCommit={(metres) => change({ ...step, by: { ...step.by, [side]: metres } })}
        />
      ))}
      <Segmented
        label="What is added"
        value={typeof step.with === 'number' ? 'metres' : step.with}
        onChange={(to) => change({ ...step, with: to === 'metres' ? low : to })}
        choices={[
          { value: 'edge', label: 'Its edge' },
          { value: 'mirror', label: 'Mirrored' },
          { value: 'metres', label: 'An elevation' },
        ]}
      />
      {typeof step.with === 'number' && (
        <NumberField
          label="Elevation"
          unit="m"
          value={step.with}
          onCommit={(metres) => change({ ...step, with: metres })}
        />
      )}
    </>
  );
}

/** A place on the ground, typed. */
function PlaceFields({
  of,
  at,
  onChange,
}: {
  readonly of: string;
  readonly at: readonly [number, number];
  readonly onChange: (to: [number, number]) => void;
}) {
  return (
    <>
      <NumberField label={`${of}: east`} unit="m" value={at[0]} onCommit={(e) => onChange([e, at[1]])} />
      <NumberField label={`${of}: south`} unit="m" value={at[1]} onCommit={(s) => onChange([at[0], s])} />
    </>
  );
}

export function RotateFields({ step, change }: Fields<StepOf<'rotate'>>) {
  return (
    <>
      <NumberField
        label="Clockwise by"
        unit="°"
        value={step.degrees}
        min={-360}
        max={360}
        hint="The frame stays as it is: what comes in at its corners is void. Crop, or give voids an elevation in Fit."
        onCommit={(degrees) => change({ ...step, degrees })}
      />
      <PlaceFields of="About" at={step.about} onChange={(about) => change({ ...step, about })} />
    </>
  );
}

export function WarpFields({ step, change }: Fields<StepOf<'warp'>>) {
  const { points } = step;
  const beside = controlPointsBeside(points);
  type Point = (typeof points)[number];
  const put = (i: number, point: Point): void =>
    change({ ...step, points: points.map((p, k) => (k === i ? point : p)) });
  const more = (): void => {
    const [from, to] = points.at(-1)!;
    change({
      ...step,
      points: [
        ...points,
        [
          [from[0] + 10, from[1]],
          [to[0] + 10, to[1]],
        ],
      ],
    });
  };
  return (
    <>
      {points.map(([from, to], i) => (
        <div key={i} className="flex flex-col gap-1 border-l-2 border-rule pl-2">
          <PlaceFields of={`Point ${i + 1}`} at={from} onChange={(at) => put(i, [at, to])} />
          <PlaceFields of="belongs at" at={to} onChange={(at) => put(i, [from, at])} />
          {beside && points.length > 3 && (
            <span className="text-quiet">{formatShort(beside[i] ?? 0, 2)} m beside it afterwards</span>
          )}
        </div>
      ))}
      <div className="flex gap-3">
        <Button kind="link" onClick={more}>
          one more point
        </Button>
        {points.length > 3 && (
          <Button kind="link" onClick={() => change({ ...step, points: points.slice(0, -1) })}>
            without the last
          </Button>
        )}
      </div>
    </>
  );
}
