'use client';
import { formatNumber, formatShort } from '@/core/base';
import { useState } from 'react';
import { holdersOf, type Arrangement } from '@/core/mosaic';
import type { Georeference } from '@/core/raster';
import { Fold, NumberField } from '@/ui';
import { endings } from './endings';

const EDGES: Record<Arrangement['edges'], string> = {
  shared: 'neighbours hold the same edge both',
  abutting: 'edges abut',
  overlapping: 'neighbours overlap',
};

/** How the files were told apart, in words. */
function placedBy({ by, rows, edges }: Arrangement): string {
  const edge = EDGES[edges];
  if (by === 'ground') return `Placed by their coordinates; ${edge}.`;
  if (by === 'hand') return `Laid out by hand; ${edge}.`;
  return `Placed by the numbers in their names, rows counted from the ${rows ?? 'north'}; ${edge}.`;
}

export function seamsOf({ seams, swapped, normalised }: Arrangement): string {
  if (seams.seams === 0) return 'No two of them touch.';
  const across = `Across ${seams.seams} seams values differ by ${formatShort(seams.mean, 2)} on the average, ${formatShort(seams.largest, 2)} at most; neighbours along them by ${formatShort(seams.usual, 2)}.`;
  if (swapped) return `${across} ${swapped[0]} and ${swapped[1]} seem to have each other’s names.`;
  return normalised ? `${across} Each seems to be normalised by itself: that can be put right afterwards.` : across;
}

/** Which of the files holds a place. */
function Holder({ arrangement: { width, height, parts }, ground }: { arrangement: Arrangement; ground: Georeference }) {
  const [east, setEast] = useState(ground.x + (ground.dx * (width - 1)) / 2);
  const [north, setNorth] = useState(ground.y - (ground.dy * (height - 1)) / 2);
  const unit = ground.degrees ? { unit: '°' } : {};
  // a file reaches to the next one east and south, which holds the border as well
  const reach = (axis: 0 | 1, from: number, end: number): number =>
    Math.min(end, ...parts.map((p) => p.at[axis]).filter((v) => v > from)) - from + 1;
  const found = holdersOf(
    parts.map(({ name, at: [x, y] }) => ({
      name,
      width: reach(0, x, width),
      height: reach(1, y, height),
      georeference: { ...ground, x: ground.x + x * ground.dx, y: ground.y - y * ground.dy },
    })),
    east,
    north,
  );
  return (
    <Fold title="Which of them holds a place?">
      <NumberField label="East" {...unit} digits={6} value={east} onCommit={setEast} />
      <NumberField label="North" {...unit} digits={6} value={north} onCommit={setNorth} />
      <p role="status">{found.length === 0 ? 'None of them.' : found.map((f) => f.name).join(', ')}</p>
    </Fold>
  );
}

/** Files that make one terrain, as it was found or laid out. */
export function Terrain({ arrangement: a, plan = true }: { arrangement: Arrangement; plan?: boolean }) {
  const { missing } = a;
  return (
    <div className="flex flex-col gap-2">
      {plan && <Plan arrangement={a} />}
      <p>
        {a.width} × {a.height} samples
        {a.uncovered > 0 ? `, ${formatNumber(a.uncovered, 0)} of them in no file: voids` : ''}. {placedBy(a)}
      </p>
      {missing.length > 0 && (
        <p>
          No file for{' '}
          {missing
            .slice(0, 4)
            .map((m) => `column ${m.column + 1}, row ${m.row + 1}`)
            .join('; ')}
          {missing.length > 4 ? ` and ${missing.length - 4} more places` : ''}, from the north-west.
        </p>
      )}
      <p className="text-quiet">{seamsOf(a)}</p>
      {a.georeference && <Holder arrangement={a} ground={a.georeference} />}
    </div>
  );
}

/** Widest that the plan is drawn, and highest, in pixels. */
const WIDE = 220;
const HIGH = 160;

/** Where each file lies; north is up. */
function Plan({ arrangement: { width, height, parts } }: { arrangement: Arrangement }) {
  const scale = Math.min(WIDE / width, HIGH / height);
  // a file reaches to the next one east and south, or to the end
  const next = (axis: 0 | 1, from: number, end: number): number =>
    Math.min(end, ...parts.map((p) => p.at[axis]).filter((v) => v > from));
  const few = parts.length <= 36;
  const labels = endings(parts.map((p) => p.name));
  return (
    <svg width={width * scale + 2} height={height * scale + 2} role="img" aria-label="Where the files lie, north up">
      {parts.map(({ name, at: [x, y] }, i) => {
        const [w, h] = [next(0, x, width) - x, next(1, y, height) - y];
        return (
          <g key={name}>
            <rect
              x={x * scale + 1}
              y={y * scale + 1}
              width={w * scale}
              height={h * scale}
              className="fill-kelp-wash stroke-ink"
            />
            {few && (
              <text
                x={(x + w / 2) * scale + 1}
                y={(y + h / 2) * scale + 5}
                textAnchor="middle"
                className="num text-[11px] fill-ink"
              >
                {labels[i]}
              </text>
            )}
            <title>{name}</title>
          </g>
        );
      })}
    </svg>
  );
}
