'use client';
import { useEffect, useRef, type RefObject } from 'react';
import type { Viewport } from './viewport';

/** How far a key moves the map, in CSS pixels. */
const STEP = 50;
const FAR = 200;
/** Moved less than this, in CSS pixels, a press is a click. */
const CLICK_WITHIN = 4;
const MOVES: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

interface Props {
  readonly canvas: RefObject<HTMLCanvasElement | null>;
  readonly viewport: Viewport | null;
  /** Which way north lies, in a word. */
  readonly north: string;
  readonly onMove: (to: Viewport) => void;
  /** By a factor, around a place of the canvas; left out: around its middle. */
  readonly onZoom: (factor: number, at?: { x: number; y: number }) => void;
  readonly onShowAll: () => void;
  /** A place was clicked, or Enter taken in the middle. */
  readonly onPick: ((at: { clientX: number; clientY: number }) => void) | null;
  /** Where the pointer is on the page; null when it leaves. */
  readonly onPoint: (at: { clientX: number; clientY: number } | null) => void;
}

/** The sheet the map is painted on: moved by dragging and by keys, zoomed by wheel, double click and keys. */
export function MapCanvas({ canvas, viewport, north, onMove, onZoom, onShowAll, onPick, onPoint }: Props) {
  const drag = useRef<{ x: number; y: number; viewport: Viewport } | null>(null);
  // React listens to the wheel passively; the map must keep the page from scrolling
  const zoomRef = useRef(onZoom);
  useEffect(() => {
    zoomRef.current = onZoom;
  });
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const onWheel = (e: WheelEvent): void => {
      e.preventDefault();
      const box = element.getBoundingClientRect();
      zoomRef.current(Math.exp(-e.deltaY * (e.ctrlKey ? 0.01 : 0.0018)), {
        x: e.clientX - box.left,
        y: e.clientY - box.top,
      });
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [canvas]);
  /** `from` with the ground moved by so many CSS pixels. */
  const moved = (from: Viewport, dx: number, dy: number): Viewport => ({
    ...from,
    x: from.x + dx / from.scale,
    y: from.y + dy / from.scale,
  });
  return (
    <canvas
      ref={canvas}
      tabIndex={0}
      role="application"
      aria-label={`Terrain map, north is ${north}. Arrow keys move, plus and minus zoom, 0 shows all.${onPick ? ' Enter takes the place in the middle.' : ''}`}
      className="absolute inset-0 w-full h-full touch-none cursor-crosshair"
      onPointerDown={(e) => {
        if (!viewport || e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        drag.current = { x: e.clientX, y: e.clientY, viewport };
      }}
      onPointerMove={(e) => {
        const d = drag.current;
        if (d) onMove(moved(d.viewport, d.x - e.clientX, d.y - e.clientY));
        onPoint(e);
      }}
      onPointerUp={(e) => {
        const d = drag.current;
        drag.current = null;
        if (d && Math.hypot(d.x - e.clientX, d.y - e.clientY) < CLICK_WITHIN) onPick?.(e);
      }}
      onPointerLeave={() => onPoint(null)}
      onDoubleClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        onZoom(2, { x: e.clientX - box.left, y: e.clientY - box.top });
      }}
      onKeyDown={(e) => {
        const far = e.shiftKey ? FAR : STEP;
        const move = MOVES[e.key];
        if (move && viewport) onMove(moved(viewport, move[0] * far, move[1] * far));
        else if (e.key === '+' || e.key === '=') onZoom(1.5);
        else if (e.key === '-') onZoom(1 / 1.5);
        else if (e.key === '0') onShowAll();
        else if (e.key === 'Enter' && onPick) {
          const box = e.currentTarget.getBoundingClientRect();
          onPick({ clientX: box.left + box.width / 2, clientY: box.top + box.height / 2 });
        } else return;
        e.preventDefault();
      }}
    />
  );
}
