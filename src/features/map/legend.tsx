'use client';
import { useEffect, useRef } from 'react';
import { formatLength, formatShort, formatSigned } from '@/core/base';
import type { Plan } from '@/core/plan';
import { MAP_COLOURS, STEEPEST, swatch } from '@/core/relief';
import { useSession, type Session } from '@/state';
import { usePlan } from '../hooks';

const WIDTH = 132;

/** What the colours of a view stand for: a name, and the values at both ends and in the middle. */
function meaning(
  view: Session['view'],
  { work }: Plan,
  difference: { kind: Session['errorKind']; limit: number } | null,
): { name: string; values: readonly [string, string, string] } | null {
  const { low, high } = work.range;
  switch (view) {
    case 'relief':
    case 'heights': {
      // both halves of the range in three figures
      const digits = Math.max(0, 2 - Math.floor(Math.log10((high - low) / 2 || 1)));
      const m = (v: number): string => formatShort(v, digits);
      return { name: 'Elevation, m', values: [m(low), m((low + high) / 2), m(high)] };
    }
    case 'slope':
      return { name: 'Slope', values: ['0°', `${STEEPEST / 2}°`, `${STEEPEST}° and more`] };
    case 'steps':
      return {
        name: `Width of a step of ${formatLength(work.effectiveStep)} in samples`,
        values: ['0', '½', '1 and more'],
      };
    case 'difference':
      return difference
        ? {
            name: difference.kind === 'encoding' ? 'Encoding error: shown − fitted' : 'Ground error: fitted − source',
            values: [`≤ ${formatSigned(-difference.limit)}`, '0', `≥ ${formatSigned(difference.limit)}`],
          }
        : null;
  }
}

/** Swatches and numbers of the view that the map shows. `limit`: metres that the difference draws strongest. */
export function Legend({ limit }: { limit: number | null }) {
  const view = useSession((s) => s.view);
  const theme = useSession((s) => s.theme);
  const kind = useSession((s) => s.errorKind);
  const plan = usePlan();
  const canvas = useRef<HTMLCanvasElement>(null);
  const told = plan && meaning(view, plan, limit === null ? null : { kind, limit });
  const shown = told !== null;
  useEffect(() => {
    const ctx = canvas.current?.getContext('2d');
    if (!shown || !ctx) return;
    const row = swatch(view, WIDTH, MAP_COLOURS[theme]);
    const image = ctx.createImageData(WIDTH, 1);
    image.data.set(row);
    ctx.putImageData(image, 0, 0);
  }, [view, theme, shown]);
  if (!told) return null;
  return (
    <figure
      aria-label={`Legend: ${told.name}, ${told.values.join(', ')}`}
      className="w-[150px] wide:w-[190px] bg-panel/95 border border-ink px-2 py-1 text-[12px] leading-4"
    >
      <figcaption>{told.name}</figcaption>
      <canvas ref={canvas} width={WIDTH} height={1} aria-hidden="true" className="h-2 w-full border border-ink" />
      <span className="num flex justify-between gap-2" aria-hidden="true">
        {told.values.map((v, i) => (
          <span key={i}>{v}</span>
        ))}
      </span>
    </figure>
  );
}
