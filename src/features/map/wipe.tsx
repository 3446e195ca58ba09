import type { Inner } from './viewport';

const hold = (at: number): number => Math.max(0, Math.min(1, at));

/** The line between source and result, which can be moved. `at`: 0..1 across the map. */
export function Wipe({ at, onMove, inner }: { at: number; onMove: (at: number) => void; inner: Inner }) {
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Wipe between source and result"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(at * 100)}
      className="absolute w-4 -ml-2 cursor-col-resize grid justify-center touch-none"
      style={{ left: inner.left + inner.width * at, top: inner.top, height: inner.height }}
      onKeyDown={(e) => {
        const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[e.key];
        if (by === undefined) return;
        e.preventDefault();
        onMove(hold(at + by));
      }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        const box = e.currentTarget.parentElement?.getBoundingClientRect();
        if (!box || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
        onMove(hold((e.clientX - box.left - inner.left) / inner.width));
      }}
    >
      <span className="w-[3px] bg-panel border-x border-ink h-full" />
      <span className="absolute top-2 right-4 bg-panel border border-ink px-1 text-[12px] leading-4">source</span>
      <span className="absolute top-2 left-4 bg-panel border border-ink px-1 text-[12px] leading-4">result</span>
    </div>
  );
}
