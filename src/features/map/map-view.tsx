'use client';
import { useShallow } from 'zustand/react/shallow';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { MapPoint } from '@/core/view';
import { goToStep, useSession, workers } from '@/state';
import { Button, useSize } from '@/ui';
import { useCurrentRecipe, usePlan } from '../hooks';
import { CropWindow } from './crop-window';
import { useDifferencePicture } from './difference';
import { Legend } from './legend';
import { MapBar } from './map-bar';
import { MapPainter } from './map-painter';
import { shownOf, type MapScene } from './paint-map';
import type { Layer } from './draw-ground';
import { pointAt } from './pointer';
import { PointerReadout } from './readout';
import { SectionEnds } from './section-ends';
import { useMapViewport } from './use-map-viewport';
import { innerOf, toGroundX, toGroundY, type Extent, type Viewport } from './viewport';
import { Wipe } from './wipe';
import { ZoomButtons } from './zoom-buttons';

/** Before the first measurement nothing is drawn. */
const UNKNOWN = { width: 0, height: 0 };

/** Steps in which the ground is still the source's own. */
const SOURCE_STEPS = new Set(['bring-in', 'clean']);

export function MapView() {
  const shown = useSession(useShallow(shownOf));
  const { sourceKey, facts, view, goTo, section } = shown;
  const step = useSession((s) => s.step);
  const compare = useSession((s) => s.compare);
  const under = useSession((s) => s.pane === 'section');
  const proved = useSession((s) => s.proof !== null);
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const { frame, setFrame, size: measured } = useSize<HTMLDivElement>();
  const size = measured ?? UNKNOWN;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [wipe, setWipe] = useState(0.5);
  const [painter] = useState(() => new MapPainter((r) => workers().tile(r)));

  const inner = useMemo(() => innerOf(size.width, size.height), [size]);
  // what is still being read can only be shown as it comes
  const which: Layer['which'] = SOURCE_STEPS.has(step) || shown.arrived !== null ? 'source' : 'result';
  const geometry = plan?.work.geometry;
  // where the window is chosen, what it is chosen from is seen around it
  const around = which === 'result' && step === 'fit' && recipe?.fit.method === 'crop';
  const extent = useMemo((): Extent | null => {
    if (!facts) return null;
    const { width, height } = facts.info;
    const source = { left: 0, top: 0, right: width - 1, bottom: height - 1 };
    if (which === 'source' || !geometry) return source;
    const right = geometry.sourceStart.x + (geometry.width - 1) * geometry.sourcePerVertex.x;
    const bottom = geometry.sourceStart.y + (geometry.height - 1) * geometry.sourcePerVertex.y;
    const { x: left, y: top } = geometry.sourceStart;
    if (!around) return { left, top, right, bottom };
    return {
      left: Math.min(0, left),
      top: Math.min(0, top),
      right: Math.max(width - 1, right),
      bottom: Math.max(height - 1, bottom),
    };
  }, [facts, geometry, which, around]);
  const { viewport, setViewport, showAll, zoom, pan } = useMapViewport(extent, sourceKey, inner, size);
  const differencePicture = useDifferencePicture();

  // a spot that was asked for comes to the middle, near enough to see its vertex
  const goKey = goTo ? String(goTo.count) : '';
  const [gone, setGone] = useState('');
  if (goTo && goKey !== gone && plan && extent && viewport) {
    const spot = goTo.vertex ?? plan.document.spots.find((s) => s.id === goTo.spot);
    setGone(goKey);
    if (spot) {
      const g = plan.work.geometry;
      setViewport({
        x: g.sourceStart.x + spot.x * g.sourcePerVertex.x,
        y: g.sourceStart.y + spot.y * g.sourcePerVertex.y,
        scale: Math.max(viewport.scale, 6),
      });
    }
  }

  const wiped = compare && which === 'result' ? wipe : null;
  const difference = differencePicture;
  const scene = useMemo(
    (): MapScene | null =>
      viewport && plan && recipe && size.width > 0
        ? { shown, plan, recipe, viewport, inner, size, which, wipe: wiped, difference, around }
        : null,
    [shown, plan, recipe, viewport, inner, size, which, wiped, difference, around],
  );
  useEffect(() => {
    if (canvas.current && scene) painter.show(canvas.current, scene);
  }, [painter, scene]);
  useEffect(() => () => painter.rest(), [painter]);

  const drag = useRef<{ x: number; y: number; viewport: Viewport } | null>(null);
  const ground = (e: { clientX: number; clientY: number }): MapPoint | null => {
    const box = frame?.getBoundingClientRect();
    if (!box || !viewport) return null;
    return { x: toGroundX(viewport, inner, e.clientX - box.left), y: toGroundY(viewport, inner, e.clientY - box.top) };
  };
  // React listens to wheel passively; the map must keep the page from scrolling
  const zoomRef = useRef(zoom);
  useEffect(() => {
    zoomRef.current = zoom;
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
  }, [frame]);

  return (
    <section aria-label="Map" className={`flex-1 min-h-0 flex flex-col ${under ? 'max-wide:short:hidden' : ''}`}>
      <MapBar source={which === 'source'} />
      <div ref={setFrame} className="relative flex-1 min-h-0 m-3 mb-2">
        <canvas
          ref={canvas}
          tabIndex={0}
          role="application"
          aria-label="Terrain map. Arrow keys move, plus and minus zoom, 0 shows all."
          className="absolute inset-0 w-full h-full touch-none cursor-crosshair"
          onPointerDown={(e) => {
            if (!viewport || e.button !== 0) return;
            e.currentTarget.setPointerCapture(e.pointerId);
            drag.current = { x: e.clientX, y: e.clientY, viewport };
          }}
          onPointerMove={(e) => {
            const d = drag.current;
            if (d)
              setViewport({
                ...d.viewport,
                x: d.viewport.x - (e.clientX - d.x) / d.viewport.scale,
                y: d.viewport.y - (e.clientY - d.y) / d.viewport.scale,
              });
            pointAt(ground(e));
          }}
          onPointerUp={() => {
            drag.current = null;
          }}
          onPointerLeave={() => pointAt(null)}
          onDoubleClick={(e) => {
            const box = e.currentTarget.getBoundingClientRect();
            zoom(2, { x: e.clientX - box.left, y: e.clientY - box.top });
          }}
          onKeyDown={(e) => {
            const far = e.shiftKey ? 200 : 50;
            const move = { ArrowLeft: [-far, 0], ArrowRight: [far, 0], ArrowUp: [0, -far], ArrowDown: [0, far] }[e.key];
            if (move) pan(move[0] ?? 0, move[1] ?? 0);
            else if (e.key === '+' || e.key === '=') zoom(1.5);
            else if (e.key === '-') zoom(1 / 1.5);
            else if (e.key === '0') showAll();
            else return;
            e.preventDefault();
          }}
        />
        {view === 'difference' && !proved && (
          <div className="absolute inset-0 grid place-items-center pointer-events-none">
            <p className="bg-panel border border-ink px-4 py-3 pointer-events-auto">
              Nothing has been proved yet.{' '}
              <Button kind="link" onClick={() => goToStep('proof')}>
                Go to Proof
              </Button>
            </p>
          </div>
        )}
        {compare && which === 'result' && view !== 'difference' && <Wipe at={wipe} onMove={setWipe} inner={inner} />}
        {around && geometry && viewport && view !== 'difference' && (
          <CropWindow geometry={geometry} viewport={viewport} inner={inner} />
        )}
        {section && viewport && size.width > 0 && (
          <SectionEnds section={section} viewport={viewport} inner={inner} ground={ground} />
        )}
        {view !== 'difference' && <ZoomButtons zoom={zoom} showAll={showAll} />}
        {/* in the corner that the scale and the names of tiles leave free */}
        <div className="absolute right-[34px] bottom-[30px] flex flex-col items-end gap-1 pointer-events-none">
          <PointerReadout />
          <Legend limit={differencePicture?.limit ?? null} />
        </div>
      </div>
    </section>
  );
}
