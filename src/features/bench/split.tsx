'use client';
import { useState } from 'react';
import { targetById } from '@/core/targets';
import { wholeSide } from '@/core/tiles';
import type { Recipe } from '@/core/recipe';
import { bestSize, editRecipe, useSession } from '@/state';
import { NumberField, Segmented } from '@/ui';
import { change, choose, useCurrentRecipe, usePlan } from '../hooks';
import { BenchHead, Group, Hint } from './parts';

type Split = NonNullable<Recipe['split']>;
const DEFAULT: Split = {
  across: 1,
  down: 1,
  edges: 'shared',
  pattern: '{name}-r{row:2}c{col:2}',
  first: 0,
  rows: 'north',
};

/** Another number of tiles takes the rung that the source fills best with so many; the whole follows. One tile needs no split. */
function setSplit(values: Partial<Split>): void {
  const { facts } = useSession.getState();
  editRecipe((r) => {
    const split = { ...DEFAULT, ...r.split, ...values };
    const samples = facts ? Math.min(facts.info.width, facts.info.height) : 1025;
    const side = bestSize(r.target, Math.floor((samples - 1) / Math.max(split.across, split.down)) + 1);
    const w = wholeSide(side, split.across, split.edges);
    const h = wholeSide(side, split.down, split.edges);
    const { split: _, ...rest } = r;
    const { layout: __, ...others } = r.fit;
    const fit = { ...others, size: w === h ? w : [w, h] };
    return split.across === 1 && split.down === 1 ? { ...rest, fit } : { ...rest, fit, split };
  });
}

function Pattern({ value }: { value: string }) {
  const [draft, setDraft] = useState<string | null>(null);
  const commit = (): void => {
    if (draft !== null && draft.trim() !== '') choose('split', { pattern: draft.trim() });
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
  if (!recipe || !plan) return null;
  const split = recipe.split;
  const { document } = plan;
  const { output } = recipe;
  const target = targetById(recipe.target);
  const side = document.tiles.width;
  const first = document.files[0];
  return (
    <>
      <BenchHead title="Split">
        {document.files.length === 1
          ? `One file of ${document.tiles.width} × ${document.tiles.height} vertices.`
          : `${document.files.length} files of ${document.tiles.width} × ${document.tiles.height}, ${document.fit.width} × ${document.fit.height} in all.`}
      </BenchHead>
      <Group title="Tiles">
        <NumberField
          label="Across"
          value={split?.across ?? 1}
          whole
          min={1}
          max={128}
          onCommit={(across) => setSplit({ across })}
        />
        <NumberField
          label="Down"
          value={split?.down ?? 1}
          whole
          min={1}
          max={128}
          hint={`Each holds ${side} vertices a side; change that in Fit.`}
          onCommit={(down) => setSplit({ down })}
        />
        {split && (
          <>
            <Segmented
              label="Edges are"
              value={split.edges}
              onChange={(edges) => setSplit({ edges })}
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
      {split && (
        <Group title="Names" aside={first?.name}>
          <Pattern value={split.pattern} />
          <Hint>{'{name}, {col}, {row}, {index}; {col:2} writes two digits.'}</Hint>
          <Segmented
            label="Rows are numbered from"
            value={split.rows}
            onChange={(rows) => choose('split', { rows })}
            choices={[
              { value: 'north', label: 'Rows from the north' },
              { value: 'south', label: 'From the south' },
            ]}
          />
          <Segmented
            label="First number"
            value={String(split.first) as '0' | '1'}
            onChange={(n) => choose('split', { first: n === '0' ? 0 : 1 })}
            choices={[
              { value: '0', label: 'First is 0' },
              { value: '1', label: 'First is 1' },
            ]}
          />
        </Group>
      )}
      <Group title="Files">
        <Segmented
          label="Format"
          value={output.format}
          onChange={(format) => choose('output', { format })}
          choices={[
            { value: 'png', label: 'PNG, 16 bits', disabled: !target.formats.includes('png') },
            { value: 'raw', label: 'RAW, 16 bits', disabled: !target.formats.includes('raw') },
          ]}
        />
        {output.format === 'raw' && (
          <>
            <Segmented
              label="Byte order"
              value={output.byteOrder}
              onChange={(byteOrder) => choose('output', { byteOrder })}
              choices={[
                { value: 'little', label: 'Little-endian' },
                { value: 'big', label: 'Big-endian' },
              ]}
            />
            <Hint>Byte order: which half of each 16-bit number comes first; wrong, the terrain is noise.</Hint>
            <Segmented
              label="Rows in the file"
              value={output.rows}
              onChange={(rows) => change('output', { rows })}
              choices={[
                { value: 'north', label: 'North row first' },
                { value: 'south', label: 'South row first' },
              ]}
            />
            <Hint>Wrong, the terrain is mirrored north to south.</Hint>
          </>
        )}
      </Group>
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
