'use client';
import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { BLOCK, BLOCKS, MAP_SIDE, WORLD, type Block, type Extent } from '@/core/survey';

/** Pixels of a block on the sheet. */
const WIDE = 74;
const HIGH = 74;

/** Of a whole number of tenths of a degree, without the last bits. */
const tidy = (degrees: number): number => Math.round(degrees * 1e6) / 1e6;

/** The index sheet: blocks are chosen one by one, or by an outline drawn across them. */
export function IndexSheet({
  extent,
  came,
  onExtent,
}: {
  extent: Extent;
  /** Blocks that have come. */
  came: (block: Block) => boolean;
  onExtent: (extent: Extent) => void;
}) {
  const [drawn, setDrawn] = useState<{ from: [number, number]; to: [number, number] } | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const place = (event: PointerEvent): [number, number] => {
    const box = frame.current!.getBoundingClientRect();
    const share = (v: number, size: number): number => Math.max(0, Math.min(1, v / size));
    return [
      WORLD.west + share(event.clientX - box.left, box.width) * BLOCKS.across * BLOCK,
      WORLD.north - share(event.clientY - box.top, box.height) * BLOCKS.down * BLOCK,
    ];
  };
  const ends = drawn && {
    west: Math.min(drawn.from[0], drawn.to[0]),
    east: Math.max(drawn.from[0], drawn.to[0]),
    south: Math.min(drawn.from[1], drawn.to[1]),
    north: Math.max(drawn.from[1], drawn.to[1]),
  };
  const shown = ends ?? extent;
  const left = ((shown.west - WORLD.west) / BLOCK) * WIDE;
  const top = ((WORLD.north - shown.north) / BLOCK) * HIGH;
  return (
    <div
      ref={frame}
      role="group"
      aria-label="Index sheet"
      className="relative border border-ink touch-none select-none w-fit"
      style={{ width: BLOCKS.across * WIDE, height: BLOCKS.down * HIGH }}
      onPointerDown={(event) => {
        const at = place(event);
        setDrawn({ from: at, to: at });
      }}
      onPointerMove={(event) => {
        if (drawn && event.buttons === 1) setDrawn({ ...drawn, to: place(event) });
      }}
      onPointerUp={() => {
        // a press without a way is a block, which its button takes
        const long = ends !== null && Math.max(ends.east - ends.west, ends.north - ends.south) > BLOCK / 12;
        if (ends && long)
          onExtent({ west: tidy(ends.west), south: tidy(ends.south), east: tidy(ends.east), north: tidy(ends.north) });
        setDrawn(null);
      }}
      onPointerLeave={() => setDrawn(null)}
    >
      {Array.from({ length: BLOCKS.across * BLOCKS.down }, (_, i) => {
        const block = { column: i % BLOCKS.across, row: Math.floor(i / BLOCKS.across) };
        return <BlockButton key={i} block={block} extent={extent} here={came(block)} onExtent={onExtent} />;
      })}
      <div
        aria-hidden="true"
        className="absolute border-2 border-ink outline-1 outline-panel pointer-events-none"
        style={{
          left,
          top,
          width: Math.max(2, ((shown.east - shown.west) / BLOCK) * WIDE),
          height: Math.max(2, ((shown.north - shown.south) / BLOCK) * HIGH),
        }}
      />
    </div>
  );
}

/** Names of blocks: a letter from the west, a number from the north. */
export const blockName = ({ column, row }: Block): string => `${'ABCDEF'[column] ?? '?'}${row + 1}`;

function BlockButton({
  block,
  extent,
  here,
  onExtent,
}: {
  block: Block;
  extent: Extent;
  here: boolean;
  onExtent: (extent: Extent) => void;
}) {
  const own = {
    west: tidy(WORLD.west + block.column * BLOCK),
    east: tidy(WORLD.west + (block.column + 1) * BLOCK),
    north: tidy(WORLD.north - block.row * BLOCK),
    south: tidy(WORLD.north - (block.row + 1) * BLOCK),
  };
  const middle = [(own.west + own.east) / 2, (own.south + own.north) / 2] as const;
  const chosen =
    middle[0] > extent.west && middle[0] < extent.east && middle[1] > extent.south && middle[1] < extent.north;
  return (
    <button
      type="button"
      aria-pressed={chosen}
      aria-label={`Block ${blockName(block)}${here ? ', has come' : ''}`}
      className="absolute overflow-hidden border-r border-b border-ink/30"
      style={{ left: block.column * WIDE, top: block.row * HIGH, width: WIDE, height: HIGH }}
      onClick={(event) =>
        // with Shift the ground grows to hold this block too
        onExtent(
          event.shiftKey
            ? {
                west: Math.min(own.west, extent.west),
                east: Math.max(own.east, extent.east),
                south: Math.min(own.south, extent.south),
                north: Math.max(own.north, extent.north),
              }
            : own,
        )
      }
    >
      <BlockPicture block={block} />
      <span className="num absolute left-0.5 top-0.5 bg-panel/85 px-0.5 text-[11px] leading-3">
        {blockName(block)}
        {here ? ' ✓' : ''}
      </span>
    </button>
  );
}

/** The plain map of a block, as the desk has it. */
function BlockPicture({ block: { column, row } }: { block: Block }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const gone = new AbortController();
    void fetch(`/api/survey/map?set=coarse&column=${column}&row=${row}`, { signal: gone.signal })
      .then((answer) => (answer.ok ? answer.arrayBuffer() : null))
      .then((bytes) => {
        const ctx = canvas.current?.getContext('2d');
        if (!ctx || bytes?.byteLength !== 3 * MAP_SIDE * MAP_SIDE) return;
        const from = new Uint8Array(bytes);
        const image = ctx.createImageData(MAP_SIDE, MAP_SIDE);
        for (let i = 0; i < MAP_SIDE * MAP_SIDE; i++)
          image.data.set([from[3 * i]!, from[3 * i + 1]!, from[3 * i + 2]!, 255], 4 * i);
        ctx.putImageData(image, 0, 0);
      })
      // a sheet without a picture is still a sheet
      .catch(() => undefined);
    return () => gone.abort();
  }, [column, row]);
  return (
    <canvas ref={canvas} width={MAP_SIDE} height={MAP_SIDE} aria-hidden="true" style={{ width: WIDE, height: HIGH }} />
  );
}
