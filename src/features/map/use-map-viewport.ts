import { useCallback, useMemo, useState } from 'react';
import type { Plan } from '@/core/plan';
import type { Session } from '@/state';
import { fitTo, within, zoomAt, type Extent, type Inner, type Viewport } from './viewport';

/** The part of the ground that the map shows, and the ways to change it. A viewport belongs to the extent it was chosen on. */
export function useMapViewport(
  extent: Extent | null,
  source: string | null,
  inner: Inner,
  size: { readonly width: number },
) {
  const [chosen, setChosen] = useState<{ key: string; viewport: Viewport } | null>(null);
  // a viewport that the artist chose stays while the extent does; another extent is shown whole
  const extentKey = extent
    ? `${source ?? ''}/${[extent.left, extent.top, extent.right, extent.bottom].map((n) => n.toFixed(3)).join('/')}`
    : '';
  const viewport = useMemo((): Viewport | null => {
    if (!extent || size.width === 0) return null;
    return chosen?.key === extentKey ? chosen.viewport : fitTo(extent, inner);
  }, [chosen, extent, extentKey, inner, size.width]);
  const setViewport = useCallback(
    // the middle of the map never leaves the ground
    (v: Viewport) => setChosen({ key: extentKey, viewport: extent ? within(v, extent) : v }),
    [extentKey, extent],
  );
  const least = extent ? fitTo(extent, inner).scale / 2 : 0.001;
  /** Around a place of the screen; left out: around the middle. */
  const zoom = (factor: number, at?: { x: number; y: number }): void => {
    if (!viewport) return;
    const { x, y } = at ?? { x: inner.left + inner.width / 2, y: inner.top + inner.height / 2 };
    setViewport(zoomAt(viewport, inner, factor, x, y, least));
  };
  return { viewport, setViewport, showAll: () => setChosen(null), zoom };
}

/** Brings a spot that was asked for to the middle, near enough to see its vertex; once for each time it is asked for. */
export function useGoTo(
  goTo: Session['goTo'],
  plan: Plan | null,
  viewport: Viewport | null,
  setViewport: (v: Viewport) => void,
): void {
  const count = goTo?.count ?? 0;
  const [gone, setGone] = useState(0);
  if (!goTo || count === gone || !plan || !viewport) return;
  setGone(count);
  const spot = goTo.vertex ?? plan.document.spots.find((s) => s.id === goTo.spot);
  if (!spot) return;
  const { sourceStart: start, sourcePerVertex: per } = plan.work.geometry;
  setViewport({
    x: start.x + spot.x * per.x,
    y: start.y + spot.y * per.y,
    scale: Math.max(viewport.scale, 6),
  });
}
