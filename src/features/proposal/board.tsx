'use client';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { asLevelGridError, formatShort } from '@/core/base';
import { isCompanion, isHeightName } from '@/core/formats';
import type { Arrangement, Cell } from '@/core/mosaic';
import type { SmallPicture } from '@/core/view';
import { decideProposal, layOut, picturesOf, type Proposal } from '@/state';
import { Button, NumberField } from '@/ui';
import { Thumbnail } from '../bench/thumbnail';
import { Terrain } from './terrain';
import { endings } from './endings';

/** Pixels of a picture on the board. */
const PICTURE = 56;
const MOST = 24;

/** Which file lies in each cell, row by row; null where none does. */
type Layout = readonly (string | null)[];

/** The board as it was found, or row by row in the order of the names. */
function firstLayout(names: readonly string[], arrangement: Arrangement | null): { across: number; layout: Layout } {
  if (arrangement) {
    const [xs, ys] = ([0, 1] as const).map((axis) =>
      [...new Set(arrangement.parts.map((p) => p.at[axis]))].sort((a, b) => a - b),
    );
    const layout = Array.from<string | null>({ length: xs!.length * ys!.length }).fill(null);
    for (const { name, at } of arrangement.parts) layout[ys!.indexOf(at[1]) * xs!.length + xs!.indexOf(at[0])] = name;
    return { across: xs!.length, layout };
  }
  const across = Math.ceil(Math.sqrt(names.length));
  const sorted = [...names].sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  const cells = across * Math.ceil(names.length / across);
  return { across, layout: Array.from({ length: cells }, (_, i) => sorted[i] ?? null) };
}

/** The same files on a board of another width; empty rows in the south go. */
function reshaped(layout: Layout, across: number): Layout {
  const files = layout.filter((n) => n !== null);
  return Array.from({ length: across * Math.ceil(files.length / across) }, (_, i) => files[i] ?? null);
}

/** Files laid out by drag and drop, or by keys; what their edges say of it at once. */
export function Board({ proposal }: { proposal: Proposal }) {
  const names = useMemo(
    () => proposal.files.map((f) => f.name).filter((n) => isHeightName(n) && !isCompanion(n)),
    [proposal],
  );
  const [{ across, layout }, setBoard] = useState(() => firstLayout(names, proposal.arrangement));
  const [lifted, setLifted] = useState<string | null>(null);
  const pictures = usePictures(proposal);
  const found = useSeams(proposal, names, layout, across);
  const cells = useRef<(HTMLButtonElement | null)[]>([]);
  const down = layout.length / across;

  /** Two cells change what they hold. */
  const exchange = (from: number, to: number): void => {
    if (from === to || to < 0 || to >= layout.length) return;
    const next = [...layout];
    [next[from], next[to]] = [next[to] ?? null, next[from] ?? null];
    setBoard({ across, layout: next });
  };
  const onKey = (event: KeyboardEvent, at: number): void => {
    const [dx, dy] = STEPS[event.key] ?? [0, 0];
    if (dx === 0 && dy === 0) return;
    const [x, y] = [(at % across) + dx, Math.floor(at / across) + dy];
    event.preventDefault();
    if (x < 0 || x >= across || y < 0 || y >= down) return;
    const to = y * across + x;
    if (lifted !== null && layout[at] === lifted) exchange(at, to);
    cells.current[to]?.focus();
  };
  const labels = new Map(endings(names).map((label, i) => [names[i]!, label]));
  return (
    <div className="flex flex-col gap-3">
      <p className="text-quiet">
        North is up. Drag a file to another place; or press Enter on it, move it with the arrows, and Enter again.
      </p>
      <div className="flex items-end gap-4">
        <div className="w-44">
          <NumberField
            label="Columns"
            value={across}
            min={1}
            max={MOST}
            whole
            onCommit={(n) => setBoard({ across: n, layout: reshaped(layout, n) })}
          />
        </div>
        <Button
          onClick={() => setBoard({ across, layout: [...layout, ...Array.from({ length: across }, () => null)] })}
        >
          Another row
        </Button>
      </div>
      <div
        role="group"
        aria-label="Board"
        className="grid gap-px bg-rule border border-ink w-fit max-w-full overflow-auto"
        style={{ gridTemplateColumns: `repeat(${across}, ${PICTURE + 8}px)` }}
      >
        {layout.map((name, at) => (
          <button
            key={at}
            type="button"
            ref={(element) => {
              cells.current[at] = element;
            }}
            draggable={name !== null}
            aria-label={`Column ${(at % across) + 1}, row ${Math.floor(at / across) + 1}: ${name ?? 'empty'}`}
            aria-pressed={name !== null && lifted === name}
            onClick={() => setLifted(lifted === name ? null : name)}
            onKeyDown={(event) => onKey(event, at)}
            onDragStart={(event) => {
              event.dataTransfer.setData('text/plain', String(at));
              setLifted(null);
            }}
            onDragOver={(event) => event.preventDefault()}
            onDrop={(event) => {
              event.preventDefault();
              // not for the page, which takes files
              event.stopPropagation();
              const from = Number(event.dataTransfer.getData('text/plain'));
              if (Number.isInteger(from)) exchange(from, at);
            }}
            className={`relative bg-panel h-[64px] grid place-items-center p-1 ${name !== null && lifted === name ? 'outline-3 outline-kelp -outline-offset-3' : ''}`}
          >
            {name !== null && pictures?.get(name) && <Thumbnail preview={pictures.get(name)!} />}
            {name !== null && (
              <span className="num absolute bottom-0.5 left-0.5 bg-panel/90 px-0.5 text-[11px] leading-3">
                {labels.get(name)}
              </span>
            )}
          </button>
        ))}
      </div>
      <div aria-live="polite">
        {lifted !== null && <p>{lifted} is lifted: the arrows move it, Enter lays it down.</p>}
        {found && 'words' in found && <p>{found.words}</p>}
        {found && 'arrangement' in found && <Seams arrangement={found.arrangement} />}
      </div>
      {found && 'arrangement' in found && (
        <>
          <Terrain arrangement={found.arrangement} plan={false} />
          <div>
            <Button kind="solid" onClick={() => void decideProposal(found.arrangement)}>
              Put them together so
            </Button>
          </div>
        </>
      )}
    </div>
  );
}

const STEPS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** How well the layout fits, and where it fits least. */
function Seams({ arrangement: { seams, between } }: { arrangement: Arrangement }) {
  const worst = [...between].sort((a, b) => b.largest - a.largest)[0];
  if (!worst || seams.seams === 0) return <p>No two of them touch.</p>;
  const fits = seams.mean <= 1.5 * seams.usual;
  return (
    <p>
      {fits ? 'The edges fit.' : 'The edges do not fit.'} The largest difference, {formatShort(worst.largest, 2)}, lies
      between {worst.parts[0]} and {worst.parts[1]}.
    </p>
  );
}

function usePictures(proposal: Proposal): ReadonlyMap<string, SmallPicture> | null {
  const [pictures, setPictures] = useState<ReadonlyMap<string, SmallPicture> | null>(null);
  useEffect(() => {
    let wanted = true;
    picturesOf(proposal, PICTURE).then(
      (found) => {
        if (wanted) setPictures(found);
      },
      // without pictures the names are left
      () => undefined,
    );
    return () => {
      wanted = false;
    };
  }, [proposal]);
  return pictures;
}

/** What the edges say of a layout: nothing yet, why it can't be, or how well it fits. */
function useSeams(
  proposal: Proposal,
  names: readonly string[],
  layout: Layout,
  across: number,
): { readonly arrangement: Arrangement } | { readonly words: string } | null {
  const [found, setFound] = useState<ReturnType<typeof useSeams>>(null);
  useEffect(() => {
    let wanted = true;
    const cells = new Map(
      names.map((name): [string, Cell] => {
        const at = layout.indexOf(name);
        return [name, { column: at % across, row: Math.floor(at / across) }];
      }),
    );
    layOut(proposal, cells).then(
      (arrangement) => {
        if (wanted) setFound({ arrangement });
      },
      (reason: unknown) => {
        const { file, found: what, expected, remedy } = asLevelGridError(reason, 'laying the files out');
        if (wanted) setFound({ words: `${file ?? ''}: found ${what}; expected ${expected}. ${remedy}` });
      },
    );
    return () => {
      wanted = false;
    };
  }, [proposal, names, layout, across]);
  return found;
}
