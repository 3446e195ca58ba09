'use client';
import { useShallow } from 'zustand/react/shallow';
import { useEffect, useMemo, useRef, useState } from 'react';
import { northOf } from '@/core/chain';
import type { Stage } from '@/core/operations';
import type { MapPoint } from '@/core/view';
import { goToStep, useSession, workers } from '@/state';
import { Button, useSize } from '@/ui';
import { useCurrentRecipe, useEnteringInfo, usePlan } from '../hooks';
import { CropWindow } from './crop-window';
import { useDifferencePicture } from './difference';
import { Legend } from './legend';
import { MapBar } from './map-bar';
import { MapCanvas } from './map-canvas';
import { MapPainter } from './map-painter';
import { shownOf, type MapScene } from './paint-map';
import type { Layer } from './draw-ground';
import { pointAt } from './pointer';
import { PointerReadout } from './readout';
import { SectionEnds } from './section-ends';
import { useSectionLine } from '../section/line';
import { useGoTo, useMapViewport } from './use-map-viewport';
import { usePickSpot } from './use-pick-spot';
import { extentOf, innerOf, toGroundX, toGroundY } from './viewport';
import { Wipe } from './wipe';
import { ZoomButtons } from './zoom-buttons';

/** Before the first measurement nothing is drawn. */
const UNKNOWN = { width: 0, height: 0 };

/** Which way north lies on the map; up until something turns it. */
function northWords(stage: Stage | undefined): string {
  const { x, y } = stage ? northOf(stage) : { x: 0, y: -1 };
  return x === 0 ? (y < 0 ? 'up' : 'down') : x > 0 ? 'right' : 'left';
}

/** Steps in which the ground is still the source's own. */
const SOURCE_STEPS = new Set(['bring-in', 'clean']);

export function MapView() {
  const shown = useSession(useShallow(shownOf));
  const { sourceKey, view, goTo } = shown;
  const [section, moveSection] = useSectionLine();
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

  const info = useEnteringInfo();
  const inner = useMemo(() => innerOf(size.width, size.height), [size]);
  // what is still being read can only be shown as it comes
  const which: Layer['which'] = SOURCE_STEPS.has(step) || shown.arrived !== null ? 'source' : 'result';
  const geometry = plan?.work.geometry;
  // where the window is chosen, what it is chosen from is seen around it
  const around = which === 'result' && step === 'fit' && recipe?.fit.method === 'crop';
  const extent = useMemo(
    () => info && extentOf(info, which === 'source' ? null : (geometry ?? null), around),
    [info, geometry, which, around],
  );
  const { viewport, setViewport, showAll, zoom } = useMapViewport(extent, sourceKey, inner, size);
  const difference = useDifferencePicture();

  useGoTo(goTo, plan, viewport, setViewport);
  const pick = usePickSpot();

  const wiped = compare && which === 'result' ? wipe : null;
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

  const ground = (e: { clientX: number; clientY: number }): MapPoint | null => {
    const box = frame?.getBoundingClientRect();
    if (!box || !viewport) return null;
    return { x: toGroundX(viewport, inner, e.clientX - box.left), y: toGroundY(viewport, inner, e.clientY - box.top) };
  };

  return (
    <section aria-label="Map" className={`flex-1 min-h-0 flex flex-col ${under ? 'max-wide:short:hidden' : ''}`}>
      <MapBar source={which === 'source'} />
      <div ref={setFrame} className="relative flex-1 min-h-0 m-3 mb-2">
        <MapCanvas
          canvas={canvas}
          viewport={viewport}
          north={northWords(plan?.work.entering.stage)}
          onMove={setViewport}
          onZoom={zoom}
          onShowAll={showAll}
          onPick={pick && ((e) => pick(ground(e)))}
          onPoint={(e) => pointAt(e && ground(e))}
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
          <SectionEnds section={section} onMove={moveSection} viewport={viewport} inner={inner} ground={ground} />
        )}
        {view !== 'difference' && <ZoomButtons zoom={zoom} showAll={showAll} />}
        {/* in the corner that the scale and the names of tiles leave free */}
        <div className="absolute right-[34px] bottom-[30px] flex flex-col items-end gap-1 pointer-events-none">
          <PointerReadout />
          <Legend limit={difference?.limit ?? null} />
        </div>
      </div>
    </section>
  );
}
