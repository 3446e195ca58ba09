'use client';
import { Move } from 'lucide-react';
import { useState } from 'react';
import { formatNumber } from '@/core/base';
import { withWindowAt } from '@/core/edits';
import type { Geometry } from '@/core/plan';
import { useSession } from '@/state';
import { choose, useCurrentRecipe } from '../hooks';
import { OVER_GROUND } from '../palette';
import { toScreenX, toScreenY, type Inner, type Viewport } from './viewport';

/** The cropped window over the whole source, to be dragged or moved by keys. It is taken when it is let go. */
export function CropWindow({
  geometry: { sourceStart, width, height },
  viewport,
  inner,
}: {
  geometry: Geometry;
  viewport: Viewport;
  inner: Inner;
}) {
  const facts = useSession((s) => s.facts);
  const [dragged, setDragged] = useState<{ x: number; y: number; from: { x: number; y: number } } | null>(null);
  const recipe = useCurrentRecipe();
  if (!facts || !recipe) return null;
  const { info } = facts;
  const [x, y] = [sourceStart.x + (dragged?.x ?? 0), sourceStart.y + (dragged?.y ?? 0)];
  const [column, row] = withWindowAt(recipe, x, y, info).fit.at;
  const left = toScreenX(viewport, inner, column);
  const top = toScreenY(viewport, inner, row);
  const right = toScreenX(viewport, inner, column + width - 1);
  const bottom = toScreenY(viewport, inner, row + height - 1);
  const take = (c: number, r: number): void => choose((open) => withWindowAt(open, c, r, info));
  // the handle stays on the map, wherever the window is
  const within = (at: number, from: number, size: number): number =>
    Math.max(from + 20, Math.min(from + size - 20, at));
  return (
    <>
      <div className="absolute overflow-hidden pointer-events-none" style={inner}>
        <div
          className="absolute border-2 border-dashed outline outline-1"
          style={{
            left: left - inner.left,
            top: top - inner.top,
            width: right - left,
            height: bottom - top,
            borderColor: OVER_GROUND.light,
            outlineColor: OVER_GROUND.dark,
          }}
        />
      </div>
      <button
        type="button"
        aria-label={`Cropped window from column ${column}, row ${row}. Drag it, or move it with the arrow keys.`}
        className="absolute h-7 -translate-x-1/2 -translate-y-1/2 px-1.5 flex items-center gap-1.5 bg-panel border border-ink cursor-grab active:cursor-grabbing touch-none whitespace-nowrap text-[12px]"
        style={{
          left: within((left + right) / 2, inner.left, inner.width),
          top: within((top + bottom) / 2, inner.top, inner.height),
        }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          setDragged({ x: 0, y: 0, from: { x: e.clientX, y: e.clientY } });
        }}
        onPointerMove={(e) => {
          if (!dragged || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
          const { from } = dragged;
          setDragged({
            x: (e.clientX - from.x) / viewport.scale,
            y: (e.clientY - from.y) / viewport.scale,
            from,
          });
        }}
        onPointerUp={() => {
          if (dragged && (dragged.x !== 0 || dragged.y !== 0)) take(column, row);
          setDragged(null);
        }}
        onPointerCancel={() => setDragged(null)}
        onKeyDown={(e) => {
          const far = e.shiftKey ? 10 : 1;
          const move = { ArrowLeft: [-far, 0], ArrowRight: [far, 0], ArrowUp: [0, -far], ArrowDown: [0, far] }[e.key];
          if (!move) return;
          e.preventDefault();
          take(column + (move[0] ?? 0), row + (move[1] ?? 0));
        }}
      >
        <Move size={15} aria-hidden="true" />
        <span className="num" aria-hidden="true">
          {formatNumber(column, 0)}, {formatNumber(row, 0)}
        </span>
      </button>
    </>
  );
}
