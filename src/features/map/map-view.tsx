'use client';
import { Maximize, Minus, Plus } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { shadeDifference, type View } from '@/core/relief';
import type { MapPoint } from '@/core/view';
import { patchSession, useSession, workers } from '@/state';
import { Button, CheckBox, useSize } from '@/ui';
import { useCurrentRecipe, usePlan } from '../hooks';
import { drawLayer, layerOf, type Layer } from './draw-ground';
import { drawCollar, drawFurniture, drawGrid, drawSpots, type Colours } from './draw-sheet';
import { PointerReadout } from './readout';
import { TileCache } from './tile-cache';
import {
  fitTo,
  innerOf,
  toGroundX,
  toGroundY,
  toScreenX,
  toScreenY,
  zoomAt,
  within,
  type Extent,
  type Viewport,
} from './viewport';

const VIEW_LABELS: readonly { id: View | 'difference'; label: string }[] = [
  { id: 'relief', label: 'Relief' },
  { id: 'heights', label: 'Heights' },
  { id: 'slope', label: 'Slope' },
  { id: 'steps', label: 'Steps' },
  { id: 'difference', label: 'Difference' },
];

const COLOURS: Record<'film' | 'night', Colours> = {
  film: { ink: '#18242a', quiet: '#52626a', panel: '#f6f8f4', film: '#e9ede8', rule: '#c3ccc5', kelp: '#0b6a5d' },
  night: { ink: '#e4eae5', quiet: '#9fb0b0', panel: '#1a2327', film: '#12191c', rule: '#33424a', kelp: '#4fb3a1' },
};

/** Before the first measurement nothing is drawn. */
const UNKNOWN = { width: 0, height: 0 };

/** Steps in which the ground is still the source's own. */
const SOURCE_STEPS = new Set(['bring-in', 'clean']);

export function MapView() {
  const session = useSession();
  const {
    sourceKey,
    arrived,
    facts,
    held,
    step,
    view,
    overlays,
    compare,
    section,
    goTo,
    theme,
    proof,
    errorKind,
    sectionAt,
  } = session;
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const { frame, setFrame, size: measured } = useSize<HTMLDivElement>();
  const size = measured ?? UNKNOWN;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [chosen, setChosen] = useState<{ key: string; viewport: Viewport } | null>(null);
  const [pointer, setPointer] = useState<MapPoint | null>(null);
  const [wipe, setWipe] = useState(0.5);
  const [tick, setTick] = useState(0);
  const [cache] = useState(
    () =>
      new TileCache(
        (r) => workers().tile(r),
        () => setTick((n) => n + 1),
      ),
  );

  // tiles of another source are never wanted again
  useEffect(() => cache.clear(), [cache, sourceKey]);
  const inner = useMemo(() => innerOf(size.width, size.height), [size]);
  // what is still being read can only be shown as it comes
  const which: Layer['which'] = SOURCE_STEPS.has(step) || arrived !== null ? 'source' : 'result';
  const geometry = plan?.work.geometry;
  const extent = useMemo((): Extent | null => {
    if (!facts) return null;
    const { width, height } = facts.info;
    const source = { left: 0, top: 0, right: width - 1, bottom: height - 1 };
    if (which === 'source' || !geometry) return source;
    const right = geometry.sourceStart.x + (geometry.width - 1) * geometry.sourcePerVertex.x;
    const bottom = geometry.sourceStart.y + (geometry.height - 1) * geometry.sourcePerVertex.y;
    return { left: geometry.sourceStart.x, top: geometry.sourceStart.y, right, bottom };
  }, [facts, geometry, which]);
  // a viewport that the artist chose stays while the extent does; another extent is shown whole
  const extentKey = extent
    ? `${sourceKey ?? ''}/${[extent.left, extent.top, extent.right, extent.bottom].map((n) => n.toFixed(3)).join('/')}`
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

  const differencePicture = useMemo(() => {
    if (!proof?.maps || typeof document === 'undefined') return null;
    const { maps } = proof;
    const picture = document.createElement('canvas');
    picture.width = maps.columns;
    picture.height = maps.rows;
    const pixels = new Uint8ClampedArray(maps.columns * maps.rows * 4);
    const { budget } = proof.proof.encodingError;
    const limit =
      errorKind === 'encoding'
        ? 2 * (budget.halfStep + budget.typing + budget.arithmetic)
        : Math.max(proof.proof.groundError?.rms ?? 0, 1e-9) * 6;
    shadeDifference(pixels, maps[errorKind], limit, theme === 'night' ? [26, 35, 39] : [246, 248, 244]);
    picture.getContext('2d')?.putImageData(new ImageData(pixels, maps.columns, maps.rows), 0, 0);
    return { picture, limit };
  }, [proof, errorKind, theme]);

  // a spot that was asked for comes to the middle, near enough to see its vertex
  const goKey = goTo ? `${goTo.spot}/${goTo.count}` : '';
  const [gone, setGone] = useState('');
  if (goTo && goKey !== gone && plan && extent && viewport) {
    const spot = plan.document.spots.find((s) => s.id === goTo.spot);
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

  useEffect(() => {
    const ctx = canvas.current?.getContext('2d');
    if (!ctx || !canvas.current || !viewport || !plan || !recipe || !facts || sourceKey === null || size.width === 0)
      return;
    const ratio = window.devicePixelRatio || 1;
    const c = COLOURS[theme];
    if (canvas.current.width !== size.width * ratio || canvas.current.height !== size.height * ratio) {
      canvas.current.width = size.width * ratio;
      canvas.current.height = size.height * ratio;
    }
    ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
    ctx.fillStyle = c.film;
    ctx.fillRect(0, 0, size.width, size.height);
    const metres = recipe.source.spacing * recipe.fit.worldScale;
    const dark = theme === 'night';
    const { work } = plan;
    const shown: View = view === 'difference' ? 'relief' : view;
    const input = { id: sourceKey, recipe, work, view: shown, dark, size: facts.info };
    const water = recipe.height.sea === undefined ? null : recipe.height.sea * recipe.fit.worldScale;
    ctx.save();
    ctx.beginPath();
    ctx.rect(inner.left, inner.top, inner.width, inner.height);
    ctx.clip();
    if (held) {
      const draw = (layerOfWhich: Layer['which']) => {
        const layer = layerOf(layerOfWhich, input);
        return drawLayer(ctx, layer, viewport, inner, cache, ratio, arrived ?? Infinity, (level, column, row) => ({
          id: sourceKey,
          which: layerOfWhich,
          level,
          column,
          row,
          view: shown,
          recipe,
          work,
          low: work.range.low,
          high: work.range.high,
          water,
          dark,
        }));
      };
      const missing = draw(which);
      if (compare && which === 'result') {
        ctx.save();
        ctx.beginPath();
        ctx.rect(inner.left, inner.top, inner.width * wipe, inner.height);
        ctx.clip();
        ctx.fillStyle = c.film;
        ctx.fillRect(inner.left, inner.top, inner.width, inner.height);
        missing.push(...draw('source'));
        ctx.restore();
      }
      cache.want(missing);
    }
    if (view === 'difference') {
      const g = work.geometry;
      ctx.fillStyle = c.film;
      ctx.fillRect(inner.left, inner.top, inner.width, inner.height);
      if (differencePicture) {
        ctx.imageSmoothingEnabled = false;
        const left = toScreenX(viewport, inner, g.sourceStart.x);
        const top = toScreenY(viewport, inner, g.sourceStart.y);
        ctx.drawImage(
          differencePicture.picture,
          left,
          top,
          (g.width - 1) * g.sourcePerVertex.x * viewport.scale,
          (g.height - 1) * g.sourcePerVertex.y * viewport.scale,
        );
      }
    }
    if (which === 'result') {
      drawGrid(ctx, plan, overlays, viewport, inner, c);
      drawSpots(ctx, plan, viewport, inner, c, goTo?.spot ?? null);
    }
    if (section) {
      const ax = toScreenX(viewport, inner, section.a.x);
      const ay = toScreenY(viewport, inner, section.a.y);
      const bx = toScreenX(viewport, inner, section.b.x);
      const by = toScreenY(viewport, inner, section.b.y);
      for (const [width, colour] of [
        [4, '#f6f8f4'],
        [2, '#0b6a5d'],
      ] as const) {
        ctx.lineWidth = width;
        ctx.strokeStyle = colour;
        ctx.beginPath();
        ctx.moveTo(ax, ay);
        ctx.lineTo(bx, by);
        ctx.stroke();
      }
      if (sectionAt !== null) {
        ctx.fillStyle = '#0b6a5d';
        ctx.strokeStyle = '#f6f8f4';
        ctx.lineWidth = 2;
        ctx.beginPath();
        ctx.arc(ax + (bx - ax) * sectionAt, ay + (by - ay) * sectionAt, 5, 0, 2 * Math.PI);
        ctx.fill();
        ctx.stroke();
      }
    }
    drawFurniture(ctx, metres, viewport, inner, c);
    ctx.restore();
    drawCollar(ctx, plan, metres, viewport, inner, size, c);
  }, [
    viewport,
    plan,
    recipe,
    facts,
    sourceKey,
    arrived,
    size,
    theme,
    view,
    held,
    which,
    compare,
    wipe,
    overlays,
    goTo,
    section,
    sectionAt,
    inner,
    cache,
    tick,
    differencePicture,
  ]);

  const drag = useRef<{ x: number; y: number; viewport: Viewport } | null>(null);
  const ground = (e: { clientX: number; clientY: number }): MapPoint | null => {
    const box = frame?.getBoundingClientRect();
    if (!box || !viewport) return null;
    return { x: toGroundX(viewport, inner, e.clientX - box.left), y: toGroundY(viewport, inner, e.clientY - box.top) };
  };
  const zoom = (factor: number, at?: { x: number; y: number }): void => {
    if (viewport)
      setViewport(
        zoomAt(
          viewport,
          inner,
          factor,
          at?.x ?? inner.left + inner.width / 2,
          at?.y ?? inner.top + inner.height / 2,
          least,
        ),
      );
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

  const pan = (dx: number, dy: number): void => {
    if (viewport)
      setViewport({ ...viewport, x: viewport.x + dx / viewport.scale, y: viewport.y + dy / viewport.scale });
  };
  const moveEnd = (end: 'a' | 'b', to: MapPoint): void => {
    if (!section || !facts) return;
    const hold = (n: number, most: number): number => Math.max(0, Math.min(most - 1, n));
    patchSession({
      section: { ...section, [end]: { x: hold(to.x, facts.info.width), y: hold(to.y, facts.info.height) } },
    });
  };

  return (
    <section aria-label="Map" className="flex-1 min-h-0 flex flex-col">
      <div className="flex items-center gap-4 h-9 px-4 border-b border-rule shrink-0 overflow-hidden">
        <div className="flex gap-4" role="tablist" aria-label="View">
          {VIEW_LABELS.map((v) => (
            <button
              key={v.id}
              type="button"
              role="tab"
              aria-selected={view === v.id}
              onClick={() => patchSession({ view: v.id })}
              className={`h-9 border-b-2 focus-visible:outline-offset-[-3px] ${view === v.id ? 'border-ink font-semibold' : 'border-transparent text-quiet hover:text-ink'}`}
            >
              {v.label}
            </button>
          ))}
        </div>
        <div className="ml-auto flex items-center gap-3 whitespace-nowrap">
          {plan && plan.document.files.length > 1 && (
            <CheckBox
              label="tiles"
              checked={overlays.tiles}
              onChange={(tiles) => patchSession({ overlays: { ...overlays, tiles } })}
            />
          )}
          {plan?.document.layout && (
            <CheckBox
              label="components"
              checked={overlays.components}
              onChange={(components) => patchSession({ overlays: { ...overlays, components } })}
            />
          )}
          {plan?.document.layout && plan.document.layout.patches > 1 && (
            <CheckBox
              label="patches"
              checked={overlays.patches}
              onChange={(patches) => patchSession({ overlays: { ...overlays, patches } })}
            />
          )}
          <Button
            aria-pressed={compare}
            disabled={which === 'source' || view === 'difference'}
            className={compare ? '!bg-ink !text-panel' : ''}
            onClick={() => patchSession({ compare: !compare })}
          >
            Source | result
          </Button>
        </div>
      </div>
      <div ref={setFrame} className="relative flex-1 min-h-0 m-3 mb-2">
        <canvas
          ref={canvas}
          tabIndex={0}
          role="application"
          aria-label="Terrain map. Arrow keys move, plus and minus zoom, 0 shows all."
          aria-busy={held && tick >= 0 && !cache.idle}
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
            setPointer(ground(e));
          }}
          onPointerUp={() => {
            drag.current = null;
          }}
          onPointerLeave={() => setPointer(null)}
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
            else if (e.key === '0') setChosen(null);
            else return;
            e.preventDefault();
          }}
        />
        {view === 'difference' && !proof && (
          <div className="absolute inset-0 grid place-items-center pointer-events-none">
            <p className="bg-panel border border-ink px-4 py-3 pointer-events-auto">
              Nothing has been proved yet.{' '}
              <Button kind="link" onClick={() => patchSession({ step: 'proof' })}>
                Go to Proof
              </Button>
            </p>
          </div>
        )}
        {view === 'difference' && differencePicture && (
          <p className="absolute left-[54px] top-[30px] bg-panel/95 border border-ink px-2 py-0.5 text-[13px]">
            {errorKind === 'encoding' ? 'Encoding error' : 'Ground error'}: paper 0, ochre{' '}
            {legendLength(differencePicture.limit / 2)}, madder {legendLength(differencePicture.limit)} and above
          </p>
        )}
        {compare && which === 'result' && view !== 'difference' && (
          <div
            role="slider"
            tabIndex={0}
            aria-label="Wipe between source and result"
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuenow={Math.round(wipe * 100)}
            className="absolute w-4 -ml-2 cursor-col-resize grid justify-center touch-none"
            style={{ left: inner.left + inner.width * wipe, top: inner.top, height: inner.height }}
            onKeyDown={(e) => {
              const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[e.key];
              if (by === undefined) return;
              e.preventDefault();
              setWipe(Math.max(0, Math.min(1, wipe + by)));
            }}
            onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
            onPointerMove={(e) => {
              const box = canvas.current?.getBoundingClientRect();
              if (!box || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
              setWipe(Math.max(0, Math.min(1, (e.clientX - box.left - inner.left) / inner.width)));
            }}
          >
            <span className="w-[3px] bg-panel border-x border-ink h-full" />
            <span className="absolute top-2 right-4 bg-panel border border-ink px-1 text-[12px] leading-4">source</span>
            <span className="absolute top-2 left-4 bg-panel border border-ink px-1 text-[12px] leading-4">result</span>
          </div>
        )}
        {section &&
          viewport &&
          size.width > 0 &&
          (['a', 'b'] as const).map((end) => {
            const x = toScreenX(viewport, inner, section[end].x);
            const y = toScreenY(viewport, inner, section[end].y);
            if (x < inner.left || y < inner.top || x > inner.left + inner.width || y > inner.top + inner.height)
              return null;
            return (
              <button
                key={end}
                type="button"
                aria-label={`End ${end.toUpperCase()} of the section line. Arrow keys move it.`}
                className="absolute size-5 -ml-2.5 -mt-2.5 rounded-full bg-[#0b6a5d] text-white border-2 border-[#f6f8f4] text-[11px] leading-none font-semibold cursor-grab touch-none grid place-items-center pb-px"
                style={{ left: x, top: y }}
                onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
                onPointerMove={(e) => {
                  const to = e.currentTarget.hasPointerCapture(e.pointerId) ? ground(e) : null;
                  if (to) moveEnd(end, to);
                }}
                onKeyDown={(e) => {
                  const far = (e.shiftKey ? 40 : 8) / viewport.scale;
                  const move = { ArrowLeft: [-far, 0], ArrowRight: [far, 0], ArrowUp: [0, -far], ArrowDown: [0, far] }[
                    e.key
                  ];
                  if (!move) return;
                  e.preventDefault();
                  moveEnd(end, { x: section[end].x + (move[0] ?? 0), y: section[end].y + (move[1] ?? 0) });
                }}
              >
                {end.toUpperCase()}
              </button>
            );
          })}
        <div
          className="absolute left-[54px] top-[30px] flex flex-col border border-ink bg-panel"
          hidden={view === 'difference'}
        >
          {(
            [
              ['Zoom in', Plus, () => zoom(1.5)],
              ['Zoom out', Minus, () => zoom(1 / 1.5)],
              ['Show all', Maximize, () => setChosen(null)],
            ] as const
          ).map(([name, Icon, act]) => (
            <button
              key={name}
              type="button"
              aria-label={name}
              title={name}
              onClick={act}
              className="size-7 grid place-items-center border-b border-rule last:border-0 hover:bg-kelp-wash"
            >
              <Icon size={15} aria-hidden="true" />
            </button>
          ))}
        </div>
        <PointerReadout at={pointer} />
      </div>
    </section>
  );
}

function legendLength(metres: number): string {
  return metres >= 1
    ? `${metres.toFixed(2)} m`
    : metres >= 0.1
      ? `${(metres * 100).toFixed(1)} cm`
      : `${(metres * 1000).toFixed(1)} mm`;
}
