import type { MapPoint } from '@/core/view';
import type { SectionLine } from '@/state';
import { useEnteringInfo } from '../hooks';
import { OVER_GROUND } from '../palette';
import { toScreenX, toScreenY, type Inner, type Viewport } from './viewport';

/** The two ends of the section line, to be moved by pointer or keys. */
export function SectionEnds({
  section,
  onMove,
  viewport,
  inner,
  ground,
}: {
  section: SectionLine;
  onMove: (line: SectionLine) => void;
  viewport: Viewport;
  inner: Inner;
  /** The place of the ground under a pointer. */
  ground: (e: { clientX: number; clientY: number }) => MapPoint | null;
}) {
  const info = useEnteringInfo();
  const moveEnd = (end: 'a' | 'b', to: MapPoint): void => {
    if (!info) return;
    const hold = (n: number, most: number): number => Math.max(0, Math.min(most - 1, n));
    onMove({ ...section, [end]: { x: hold(to.x, info.width), y: hold(to.y, info.height) } });
  };

  return (['a', 'b'] as const).map((end) => {
    const x = toScreenX(viewport, inner, section[end].x);
    const y = toScreenY(viewport, inner, section[end].y);
    if (x < inner.left || y < inner.top || x > inner.left + inner.width || y > inner.top + inner.height) return null;
    return (
      <button
        key={end}
        type="button"
        aria-label={`End ${end.toUpperCase()} of the section line. Arrow keys move it.`}
        className="absolute size-5 -ml-2.5 -mt-2.5 rounded-full text-white border-2 text-[11px] leading-none font-semibold cursor-grab touch-none grid place-items-center pb-px"
        style={{ left: x, top: y, background: OVER_GROUND.line, borderColor: OVER_GROUND.light }}
        onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
        onPointerMove={(e) => {
          const to = e.currentTarget.hasPointerCapture(e.pointerId) ? ground(e) : null;
          if (to) moveEnd(end, to);
        }}
        onKeyDown={(e) => {
          const far = (e.shiftKey ? 40 : 8) / viewport.scale;
          const move = { ArrowLeft: [-far, 0], ArrowRight: [far, 0], ArrowUp: [0, -far], ArrowDown: [0, far] }[e.key];
          if (!move) return;
          e.preventDefault();
          moveEnd(end, { x: section[end].x + (move[0] ?? 0), y: section[end].y + (move[1] ?? 0) });
        }}
      >
        {end.toUpperCase()}
      </button>
    );
  });
}
