'use client';
import { useEffect, useMemo, useRef, useState } from 'react';
import { asLevelGridError, formatLength, formatNumber, formatShort } from '@/core/base';
import {
  codeRange,
  DATA_SET_IDS,
  DATA_SETS,
  extentOf,
  groundOf,
  HANDED_AS,
  WORLD,
  type Block,
  type DataSet,
  type Extent,
  type HandedAs,
} from '@/core/survey';
import {
  askGround,
  blockKey,
  fetchBlocks,
  groundZip,
  showError,
  takeGround,
  type CameBlock,
  type DeskFault,
  type GroundFacts,
} from '@/state';
import { Button, Fold, NumberField, Select } from '@/ui';
import { download } from '../download';
import { blockName, IndexSheet } from './index-sheet';

const FORMS: Record<HandedAs, string> = {
  png: 'PNG of 16 bits, normalised',
  raw: 'RAW of 16 bits, normalised',
  tiff: 'TIFF of floats, in metres',
  hgt: 'A block of a degree, whole metres',
};

const FAULTS: Record<DeskFault, string> = {
  none: 'none',
  slow: 'slow',
  half: 'breaks off half-way',
  missing: 'some blocks missing',
};

const START = extentOf([
  { column: 2, row: 2 },
  { column: 3, row: 2 },
]);

/** What ground holds, asked anew whenever it changes. */
function useGround(set: DataSet, extent: Extent): GroundFacts | { readonly words: string } | null {
  const [found, setFound] = useState<{ key: string; value: GroundFacts | { readonly words: string } } | null>(null);
  const key = JSON.stringify([set, extent]);
  useEffect(() => {
    const gone = new AbortController();
    askGround(set, extent, gone.signal).then(
      (value) => setFound({ key, value }),
      (reason: unknown) => {
        if (gone.signal.aborted) return;
        const { found: what, remedy } = asLevelGridError(reason, 'asking the survey desk');
        setFound({ key, value: { words: `Found ${what}. ${remedy}` } });
      },
    );
    return () => gone.abort();
  }, [set, extent, key]);
  return found?.key === key ? found.value : null;
}

interface Taking {
  readonly done: number;
  readonly total: number;
  /** Blocks that did not come, once all have been asked for. */
  readonly failed: readonly { readonly block: Block; readonly reason: string }[] | null;
}

/** What is done with ground that came. */
type Where = 'project' | 'zip';

const NOTHING: ReadonlyMap<string, CameBlock> = new Map();

export function Desk() {
  const [set, setSet] = useState<DataSet>('composite');
  const [extent, setExtent] = useState<Extent>(START);
  const [as, setAs] = useState<HandedAs>('png');
  const [stretch, setStretch] = useState(1);
  const [fault, setFault] = useState<DeskFault>('none');
  const [came, setCame] = useState(NOTHING);
  const [taking, setTaking] = useState<Taking | null>(null);
  const [wanted, setWanted] = useState<Where>('project');
  const stop = useRef<AbortController | null>(null);
  const ground = useGround(set, extent);
  const blocks = useMemo(() => blocksOf(set, extent), [set, extent]);
  useEffect(() => () => stop.current?.abort(), []);

  const change = (how: () => void): void => {
    stop.current?.abort();
    setTaking(null);
    how();
  };
  const finish = async (all: ReadonlyMap<string, CameBlock>, where: Where): Promise<void> => {
    const order = { set, extent, as, stretch };
    if (where === 'project') return takeGround(order, all);
    try {
      const zip = await groundZip(order, all);
      download(zip, zip.name);
    } catch (reason) {
      showError(reason, 'writing the zip');
    }
    setTaking(null);
  };
  const take = async (where: Where): Promise<void> => {
    setWanted(where);
    const gone = new AbortController();
    stop.current = gone;
    const all = new Map(came);
    const wanted = blocks.filter((b) => !all.has(blockKey(b)));
    setTaking({ done: blocks.length - wanted.length, total: blocks.length, failed: null });
    const failed = await fetchBlocks(
      set,
      wanted,
      fault,
      (block, data) => {
        all.set(blockKey(block), data);
        setCame(new Map(all));
        setTaking({ done: blocks.filter((b) => all.has(blockKey(b))).length, total: blocks.length, failed: null });
      },
      gone.signal,
    );
    if (gone.signal.aborted) return;
    if (failed.length === 0) await finish(all, where);
    else setTaking({ done: blocks.length - failed.length, total: blocks.length, failed });
  };
  const busy = taking !== null && taking.failed === null;
  const nothing = ground === null || 'words' in ground || ground.low === null;
  return (
    <div className="flex flex-wrap gap-5">
      <div className="flex flex-col gap-2">
        <IndexSheet
          extent={extent}
          came={(block) => came.has(blockKey(block))}
          onExtent={(next) => change(() => setExtent(next))}
        />
        <p className="text-quiet max-w-[444px]">
          A made-up world that ships with Level Grid. Press a block, with Shift for more; or draw an outline across
          them.
        </p>
        <Borders extent={extent} onExtent={(next) => change(() => setExtent(next))} />
      </div>
      <div className="flex flex-col gap-3 grow basis-72 min-w-64">
        <Choice
          label="Data set"
          value={set}
          options={DATA_SET_IDS.map((id) => [id, DATA_SETS[id].name] as const)}
          onChange={(next) =>
            change(() => {
              setSet(next);
              // what came is of the other one
              setCame(NOTHING);
            })
          }
        />
        <Choice
          label="Heights as"
          value={as}
          options={HANDED_AS.map((id) => [id, FORMS[id]] as const)}
          onChange={setAs}
        />
        <NumberField
          label="Vertical stretch"
          value={stretch}
          min={0.1}
          max={20}
          hint="1 is true. Any other is written into the record, and divided out again."
          onCommit={setStretch}
        />
        <Facts ground={ground} set={set} as={as} stretch={stretch} />
        <Fold title="Try a fault of the service">
          <Choice
            label="Fault"
            value={fault}
            options={(Object.keys(FAULTS) as DeskFault[]).map((id) => [id, FAULTS[id]] as const)}
            onChange={setFault}
          />
        </Fold>
        <div aria-live="polite">
          {busy && (
            <p>
              {taking.done} of {taking.total} blocks have come.
            </p>
          )}
          {taking?.failed && <Failed taking={taking} failed={taking.failed} />}
        </div>
        <div className="flex flex-wrap gap-2">
          {busy ? (
            <Button onClick={() => change(() => undefined)}>Stop; what came stays</Button>
          ) : (
            <>
              <Button kind="solid" disabled={nothing} onClick={() => void take(taking?.failed ? wanted : 'project')}>
                {taking?.failed ? 'Try the others again' : 'Take this ground'}
              </Button>
              {!taking?.failed && (
                <Button disabled={nothing} onClick={() => void take('zip')}>
                  Save it as a zip
                </Button>
              )}
            </>
          )}
          {taking?.failed && taking.done > 0 && (
            <Button onClick={() => void finish(came, wanted)}>
              {wanted === 'zip' ? 'Save what came, voids for the rest' : 'Take what came, voids for the rest'}
            </Button>
          )}
        </div>
      </div>
    </div>
  );
}

function blocksOf(set: DataSet, extent: Extent): readonly Block[] {
  try {
    return groundOf(set, extent).blocks;
  } catch {
    return [];
  }
}

function Failed({ taking, failed }: { taking: Taking; failed: NonNullable<Taking['failed']> }) {
  const [first] = failed;
  const names = failed.slice(0, 5).map((f) => blockName(f.block));
  return (
    <p role="status">
      {failed.length} of {taking.total} blocks did not come: {names.join(', ')}
      {failed.length > 5 ? ` and ${failed.length - 5} more` : ''} ({first?.reason}). The others are kept.
    </p>
  );
}

function Borders({ extent, onExtent }: { extent: Extent; onExtent: (extent: Extent) => void }) {
  const field = (label: string, side: keyof Extent, min: number, max: number) => (
    <NumberField
      label={label}
      unit="°"
      digits={6}
      value={extent[side]}
      min={min}
      max={max}
      onCommit={(v) => onExtent({ ...extent, [side]: v })}
    />
  );
  return (
    <div className="grid grid-cols-2 gap-x-6 gap-y-1 w-[444px]">
      {field('West', 'west', WORLD.west, WORLD.east)}
      {field('East', 'east', WORLD.west, WORLD.east)}
      {field('South', 'south', WORLD.south, WORLD.north)}
      {field('North', 'north', WORLD.south, WORLD.north)}
    </div>
  );
}

function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}) {
  return (
    <div className="flex flex-col">
      <span className="text-quiet text-[13px]">{label}</span>
      <Select
        label={label}
        value={value}
        options={options.map(([id, text]) => ({ value: id, label: text }))}
        onChange={onChange}
        className="w-full"
      />
    </div>
  );
}

/** What will be taken, before it is. */
function Facts({
  ground,
  set,
  as,
  stretch,
}: {
  ground: ReturnType<typeof useGround>;
  set: DataSet;
  as: HandedAs;
  stretch: number;
}) {
  if (!ground) return <p className="text-quiet">Asking the desk.</p>;
  if ('words' in ground) return <p role="alert">{ground.words}</p>;
  const { width, height, low, high, voids, blocks } = ground;
  if (low === null || high === null) return <p>The survey saw nothing here: choose other ground.</p>;
  const codes = as === 'png' || as === 'raw' ? codeRange({ low, high, voids }, stretch) : null;
  const rows: (readonly [string, string])[] = [
    ['Samples', `${formatNumber(width, 0)} × ${formatNumber(height, 0)}`],
    ['Apart', `${DATA_SETS[set].seconds} arc-second${DATA_SETS[set].seconds === 1 ? '' : 's'}`],
    ['Blocks', String(blocks)],
    ['True heights', `${formatShort(low, 1)} to ${formatShort(high, 1)} m`],
    ['Voids', formatNumber(voids, 0)],
    ...(codes
      ? ([
          ['Codes stand for', `${formatShort(codes.low, 2)} to ${formatShort(codes.high, 2)} m`],
          ['One code', formatLength(codes.metresPerCode)],
        ] as const)
      : ([['Written as', stretch === 1 ? 'metres' : `metres × ${formatShort(stretch, 3)}`]] as const)),
  ];
  return (
    <dl aria-label="This ground" className="grid grid-cols-[auto_1fr] gap-x-3 border-y border-rule py-2">
      {rows.map(([k, v]) => (
        <div key={k} className="contents">
          <dt className="text-quiet">{k}</dt>
          <dd className="num text-[13px] leading-[19px] text-right">{v}</dd>
        </div>
      ))}
    </dl>
  );
}
