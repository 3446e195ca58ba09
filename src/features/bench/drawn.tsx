'use client';
import { withStep } from '@/core/edits';
import type { Step, StepOf } from '@/core/recipe';
import { useSession } from '@/state';
import { Button, CheckBox, NumberField, Segmented } from '@/ui';
import { usePlan, useStepEdit } from '../hooks';
import { Group, Hint } from './parts';

type Metres = [east: number, south: number];

/** The ends of the section line in metres of the ground before turns; null where drawn things can't follow it. */
function useDrawnLine(): { readonly a: Metres; readonly b: Metres } | null {
  const section = useSession((s) => s.section);
  const entering = usePlan()?.work.entering;
  if (!section || !entering || entering.stage.metric || entering.stage.deferred) return null;
  const { width, height } = entering.stage.info;
  const held = (v: number, last: number): number =>
    Math.round(Math.max(0, Math.min(last, v)) * entering.spacing * 100) / 100;
  const at = ({ x, y }: { readonly x: number; readonly y: number }): Metres => [
    held(x, width - 1),
    held(y, height - 1),
  ];
  return { a: at(section.a), b: at(section.b) };
}

const ringOf = ({ a, b }: { readonly a: Metres; readonly b: Metres }): Metres[] => [a, [b[0], a[1]], b, [a[0], b[1]]];

/** What is drawn on the ground with the two ends of the section line, which are moved by mouse or keys. */
export function Drawn() {
  const edit = useStepEdit();
  const line = useDrawnLine();
  const spacing = usePlan()?.work.entering.spacing ?? 1;
  const add = (step: Step): void => edit((r, source) => withStep(r, step, source));
  if (!line) return null;
  const { a, b } = line;
  const wide = Math.max(4 * spacing, 1);
  return (
    <Group title="With the line A–B">
      <div className="grid grid-cols-2 gap-2">
        <Button onClick={() => add({ op: 'river', line: [a, b], mode: 'deepen', depth: 3, width: wide, banks: wide })}>
          A bed along it
        </Button>
        <Button onClick={() => add({ op: 'lake', spot: a, depth: 5, banks: 5 * wide })}>A lake at A</Button>
        <Button onClick={() => add({ op: 'area', ring: ringOf(line), mode: 'raise', by: 1, border: wide })}>
          An area
        </Button>
        <Button
          onClick={() =>
            add({
              op: 'crop',
              at: [Math.min(a[0], b[0]), Math.min(a[1], b[1])],
              size: [Math.max(spacing, Math.abs(a[0] - b[0])), Math.max(spacing, Math.abs(a[1] - b[1]))],
            })
          }
        >
          Crop to it
        </Button>
      </div>
      <Hint>
        Move A and B on the map, by mouse or arrow keys. An area and a crop are the rectangle with A and B at two of its
        corners. What is drawn keeps its place when the line is moved on.
      </Hint>
    </Group>
  );
}

interface Fields<S extends Step> {
  readonly step: S;
  readonly change: (to: S) => void;
}

const flag = <K extends string>(key: K, on: boolean): Partial<Record<K, true>> =>
  on ? ({ [key]: true } as Record<K, true>) : {};

export function RiverFields({ step, change }: Fields<StepOf<'river'>>) {
  const drawn = useDrawnLine();
  const { snap, throughBorder, uphill, ...rest } = step;
  const flags = {
    ...flag('snap', snap === true),
    ...flag('throughBorder', throughBorder === true),
    ...flag('uphill', uphill === true),
  };
  const turn = (key: 'snap' | 'throughBorder' | 'uphill', on: boolean): void => {
    const { [key]: _, ...others } = flags;
    change({ ...rest, ...others, ...flag(key, on) });
  };
  const field = (key: 'depth' | 'width' | 'banks', label: string, hint?: string) => (
    <NumberField
      label={label}
      unit="m"
      value={step[key]}
      min={key === 'banks' ? 0 : 1e-3}
      {...(hint ? { hint } : {})}
      onCommit={(value) => change({ ...step, [key]: value })}
    />
  );
  return (
    <>
      <Segmented
        label="Along the line"
        value={step.mode}
        onChange={(mode) => change({ ...step, mode })}
        choices={[
          { value: 'deepen', label: 'A bed' },
          { value: 'raise', label: 'A dam' },
        ]}
      />
      {field('depth', step.mode === 'deepen' ? 'Deep' : 'High', 'Measured from the ground under the line.')}
      {field('width', 'Wide')}
      {field('banks', 'Back to the ground over', 'To either side of its width.')}
      <CheckBox label="find the valley floor" checked={snap === true} onChange={(on) => turn('snap', on)} />
      <CheckBox
        label="on through the border"
        checked={throughBorder === true}
        onChange={(on) => turn('throughBorder', on)}
      />
      <CheckBox label="may run uphill" checked={uphill === true} onChange={(on) => turn('uphill', on)} />
      {drawn && (
        <div className="flex gap-3">
          <Button kind="link" onClick={() => change({ ...step, line: [drawn.a, drawn.b] })}>
            take A–B
          </Button>
          <Button kind="link" onClick={() => change({ ...step, line: [...step.line, drawn.b] })}>
            go on to B
          </Button>
        </div>
      )}
    </>
  );
}

export function LakeFields({ step, change }: Fields<StepOf<'lake'>>) {
  const drawn = useDrawnLine();
  return (
    <>
      <NumberField
        label="Deep"
        unit="m"
        value={step.depth}
        min={1e-3}
        onCommit={(depth) => change({ ...step, depth })}
      />
      <NumberField
        label="Reached over"
        unit="m"
        value={step.banks}
        min={0}
        hint="From the shore of the flat water around the spot."
        onCommit={(banks) => change({ ...step, banks })}
      />
      {drawn && (
        <div>
          <Button kind="link" onClick={() => change({ ...step, spot: drawn.a })}>
            take A
          </Button>
        </div>
      )}
    </>
  );
}

const BY = { level: 'Elevation', raise: 'Raised by', smooth: 'Over' } as const;

export function AreaFields({ step, change }: Fields<StepOf<'area'>>) {
  const drawn = useDrawnLine();
  const low = usePlan()?.work.trueEnds.low ?? 0;
  const begin = { level: low, raise: 1, smooth: 10 } as const;
  return (
    <>
      <Segmented
        label="What is done to the area"
        value={step.mode}
        onChange={(mode) => change({ ...step, mode, by: begin[mode] })}
        choices={[
          { value: 'level', label: 'Level' },
          { value: 'raise', label: 'Raise' },
          { value: 'smooth', label: 'Smooth' },
        ]}
      />
      <NumberField
        label={BY[step.mode]}
        unit="m"
        value={step.by}
        {...(step.mode === 'smooth' ? { min: 1e-3 } : {})}
        {...(step.mode === 'raise' ? { hint: 'Below zero it is lowered.' } : {})}
        onCommit={(by) => change({ ...step, by })}
      />
      <NumberField
        label="Soft border"
        unit="m"
        value={step.border}
        min={0}
        onCommit={(border) => change({ ...step, border })}
      />
      {drawn && (
        <div>
          <Button kind="link" onClick={() => change({ ...step, ring: ringOf(drawn) })}>
            take A–B
          </Button>
        </div>
      )}
    </>
  );
}
