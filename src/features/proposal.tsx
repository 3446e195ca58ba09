'use client';
import { formatNumber, formatShort } from '@/core/base';
import { isHeightName } from '@/core/formats';
import type { Arrangement } from '@/core/mosaic';
import { decideProposal, patchSession, useSession } from '@/state';
import { Button, Sheet } from '@/ui';

/** How the files were told apart, in words. */
function placedBy({ by, rows, edges }: Arrangement): string {
  const edge = edges === 'shared' ? 'neighbours hold the same edge both' : 'edges abut';
  if (by === 'ground') return `Placed by their coordinates; ${edge}.`;
  return `Placed by the numbers in their names, rows counted from the ${rows ?? 'north'}; ${edge}.`;
}

function seamsOf({ seams, swapped, normalised }: Arrangement): string {
  if (seams.seams === 0) return 'No two of them touch.';
  const across = `Across ${seams.seams} seams values differ by ${formatShort(seams.mean, 2)} on the average, ${formatShort(seams.largest, 2)} at most; neighbours along them by ${formatShort(seams.usual, 2)}.`;
  if (swapped) return `${across} ${swapped[0]} and ${swapped[1]} seem to have each other’s names.`;
  return normalised ? `${across} Each seems to be normalised by itself: that can be put right afterwards.` : across;
}

/** Several files that make one terrain: whether they shall. */
export function ProposalSheet() {
  const proposal = useSession((s) => s.proposal);
  const close = (): void => patchSession({ proposal: null });
  const { arrangement: a, files = [] } = proposal ?? {};
  const count = files.filter((f) => isHeightName(f.name)).length;
  return (
    <Sheet open={proposal !== null} title={`${count} files make one terrain`} onClose={close}>
      {a && (
        <div className="flex flex-col gap-2">
          <Plan arrangement={a} />
          <p>
            {a.width} × {a.height} samples
            {a.uncovered > 0 ? `, ${formatNumber(a.uncovered, 0)} of them in no file: voids` : ''}. {placedBy(a)}
          </p>
          <p className="text-quiet">{seamsOf(a)}</p>
          <div className="flex flex-wrap gap-2 mt-2">
            <Button kind="solid" onClick={() => void decideProposal(true)}>
              Put them together
            </Button>
            <Button onClick={() => void decideProposal(false)}>A project each</Button>
            <Button onClick={close}>Leave them</Button>
          </div>
        </div>
      )}
    </Sheet>
  );
}

/** What tells names apart: all of them where they are short, else their ends; else a number each. */
function endings(names: readonly string[]): string[] {
  const stems = names.map((n) => n.replace(/\.[^.]*$/, ''));
  if (stems.every((n) => n.length <= MOST_SIGNS)) return stems;
  const [first = '', ...others] = stems;
  let from = first.length;
  for (const name of others) while (!name.startsWith(first.slice(0, from))) from--;
  // a number is not cut in two
  while (from > 0 && /\d/.test(first[from - 1] ?? '')) from--;
  const ends = stems.map((n) => n.slice(from));
  return ends.every((e) => e.length > 0 && e.length <= MOST_SIGNS) ? ends : names.map((_, i) => String(i + 1));
}
const MOST_SIGNS = 7;

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
