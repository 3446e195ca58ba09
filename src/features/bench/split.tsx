'use client';
import { useState } from 'react';
import { withSplit, type Split } from '@/core/edits';
import { doEdit, editRecipe } from '@/state';
import { Button, CheckBox, Mark, NumberField, Segmented } from '@/ui';
import { choose, useCurrentRecipe, useEnteringInfo, usePlan } from '../hooks';
import { FileFields } from './file-fields';
import { BenchHead, Group, Hint } from './parts';
import { TileOffers } from './tile-offers';

const setSplit = (values: Partial<Split>): void => editRecipe((r) => withSplit(r, values));

/** Says where the whole can't be divided as asked, and what would. */
function Refusal() {
  const checks = usePlan()?.document.checks ?? [];
  const refused = checks.find(
    (c) =>
      c.state === 'fault' && ['split-indivisible', 'size-not-on-ladder', 'split-unequal', 'file-name'].includes(c.id),
  );
  if (!refused) return null;
  const { repair } = refused;
  return (
    <div role="alert" className="text-[13px] leading-[17px] text-madder flex gap-2">
      <span className="pt-[3px]">
        <Mark state="fault" />
      </span>
      <span>
        {refused.message}{' '}
        {repair && (
          <Button kind="link" onClick={() => void doEdit(repair)}>
            {repair.label}
          </Button>
        )}
      </span>
    </div>
  );
}

function Pattern({ value }: { value: string }) {
  const [draft, setDraft] = useState<string | null>(null);
  const commit = (): void => {
    if (draft !== null && draft.trim() !== '') choose((r) => withSplit(r, { pattern: draft.trim() }));
    setDraft(null);
  };
  return (
    <label className="flex flex-col gap-1">
      Name pattern
      <input
        className="num text-[13px] h-7 bg-transparent border-b border-strong"
        value={draft ?? value}
        spellCheck={false}
        onChange={(e) => setDraft(e.target.value)}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === 'Enter') commit();
          if (e.key === 'Escape') setDraft(null);
        }}
      />
    </label>
  );
}

export function SplitBench() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const info = useEnteringInfo();
  // square ground begins linked
  const [link, setLink] = useState<boolean | null>(null);
  if (!recipe || !plan) return null;
  const split = recipe.split;
  const { document } = plan;
  const square = info !== null && info.width === info.height;
  const linked = link ?? (square && (split?.across ?? 1) === (split?.down ?? 1));
  const first = document.files[0];
  return (
    <>
      <BenchHead title="Split">
        {document.files.length === 1
          ? `One file of ${document.tiles.width} × ${document.tiles.height} ${document.fit.registration === 'cell' ? 'cells' : 'vertices'}.`
          : `${document.files.length} files of ${document.tiles.width} × ${document.tiles.height}, ${document.fit.width} × ${document.fit.height} in all.`}
      </BenchHead>
      <Group title="Tiles">
        <NumberField
          label="Across"
          value={split?.across ?? 1}
          whole
          min={1}
          max={128}
          onCommit={(across) => setSplit(linked ? { across, down: across } : { across })}
        />
        <NumberField
          label="Down"
          value={split?.down ?? 1}
          whole
          min={1}
          max={128}
          onCommit={(down) => setSplit(linked ? { across: down, down } : { down })}
        />
        <CheckBox label="linked: as many each way" checked={linked} onChange={setLink} />
        <Refusal />
        {split && (
          <>
            <Segmented
              label="Edges are"
              value={split.edges}
              onChange={(edges) => choose((r) => withSplit(r, { edges }))}
              choices={[
                { value: 'shared', label: 'Shared edges' },
                { value: 'abutting', label: 'Abutting' },
              ]}
            />
            <Hint>
              {split.edges === 'shared'
                ? 'Neighbours store the same row of vertices along their edge: no gap.'
                : 'Each vertex is stored once: one quad is missing between neighbours unless the target bridges it.'}
            </Hint>
          </>
        )}
      </Group>
      <TileOffers />
      {split && (
        <Group title="Names" aside={first?.name}>
          <Pattern value={split.pattern} />
          <Hint>{'{name}, {col}, {row}, {index}; {col:2} writes two digits.'}</Hint>
          <Segmented
            label="Rows are numbered from"
            value={split.rows}
            onChange={(rows) => choose((r) => withSplit(r, { rows }))}
            choices={[
              { value: 'north', label: 'Rows from the north' },
              { value: 'south', label: 'From the south' },
            ]}
          />
          <Segmented
            label="First number"
            value={String(split.first) as '0' | '1'}
            onChange={(n) => choose((r) => withSplit(r, { first: n === '0' ? 0 : 1 }))}
            choices={[
              { value: '0', label: 'First is 0' },
              { value: '1', label: 'First is 1' },
            ]}
          />
        </Group>
      )}
      <FileFields />
      {document.placement.length > 1 && (
        <Group title="Placement" aside={document.layout ? 'offsets in components' : 'east, north in m'}>
          <div
            className="max-h-56 overflow-auto border-y border-rule"
            tabIndex={0}
            role="region"
            aria-label="Placement of the tiles"
          >
            <table className="num text-[12px] w-full">
              <tbody>
                {document.placement.map((p) => (
                  <tr key={p.file} className="border-b border-rule last:border-0">
                    <td className="pr-2 text-quiet text-right">{p.order}</td>
                    <td className="truncate max-w-40">{p.file}</td>
                    <td className="text-right">
                      {p.componentsEast === null
                        ? `${p.east.toFixed(1)}, ${p.north.toFixed(1)}`
                        : `${p.componentsEast}, ${p.componentsSouth ?? 0}`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </Group>
      )}
    </>
  );
}
