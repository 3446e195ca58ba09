import { northOf, ontoStage } from '@/core/chain';
import { AS_IT_LIES, type Stage } from '@/core/operations';
import type { Plan } from '@/core/plan';
import type { Recipe } from '@/core/recipe';
import type { View } from '@/core/relief';
import type { SectionLine, Session } from '@/state';
import { drawLayer, layerOf, type Layer } from './draw-ground';
import type { DifferencePicture } from './difference';
import {
  drawCollar,
  drawExtremes,
  drawFurniture,
  drawGrid,
  drawKnownSpots,
  drawSpots,
  drawTileNames,
  drawRoofs,
  drawWorst,
} from './draw-sheet';
import { OVER_GROUND, PALETTE } from '../palette';
import type { TileCache } from './tile-cache';
import { toScreenX, toScreenY, type Inner, type Viewport } from './viewport';

/** One and the same, so that nothing is drawn anew for it. */
const NO_SPOTS: Session['knownSpots'] = [];

/** What the map shows of the session. */
export const shownOf = (s: Session) => ({
  sourceKey: s.sourceKey,
  arrived: s.arrived,
  wholeFrom: s.wholeFrom,
  facts: s.facts,
  extremes: s.extremes,
  stage: s.stage,
  held: s.held,
  view: s.view,
  overlays: s.overlays,
  goTo: s.goTo,
  section: s.section,
  sectionAt: s.sectionAt,
  theme: s.theme,
  knownSpots: s.step === 'bring-in' ? s.knownSpots : NO_SPOTS,
});

const NORTH_UP = { x: 0, y: -1 };

/** A line of the ground as it lies on a stage. */
export const sectionOn = (stage: Stage, { a, b }: SectionLine): SectionLine => ({
  a: ontoStage(stage, a),
  b: ontoStage(stage, b),
});

/** Everything that one picture of the map depends on. */
export interface MapScene {
  readonly shown: ReturnType<typeof shownOf>;
  readonly plan: Plan;
  readonly recipe: Recipe;
  readonly viewport: Viewport;
  readonly inner: Inner;
  readonly size: { readonly width: number; readonly height: number };
  readonly which: Layer['which'];
  /** West of this part of the width the source is shown instead of the result; null without comparison. */
  readonly wipe: number | null;
  readonly difference: Pick<DifferencePicture, 'picture' | 'worst'> | null;
  /** All of the source, veiled, around the result. */
  readonly around: boolean;
}

/** The layers that were last complete, and the source they are of: they stay beneath while a change is on its way. */
export interface DrawnLayers {
  sourceKey: string;
  source: Layer | null;
  result: Layer | null;
}

/** Draws the map; tiles that are missing are asked for, and drawn when they arrive. */
export function paintMap(
  ctx: CanvasRenderingContext2D,
  ratio: number,
  { shown, plan, recipe, viewport, inner, size, which, wipe, difference, around }: MapScene,
  cache: TileCache,
  drawn: DrawnLayers,
): void {
  const { sourceKey, facts, theme, view, overlays, section } = shown;
  if (sourceKey === null || !facts) return;
  const c = PALETTE[theme];
  ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
  ctx.fillStyle = c.film;
  ctx.fillRect(0, 0, size.width, size.height);
  const arriving = shown.arrived !== null;
  const { entering } = plan.work;
  const stage = arriving ? null : entering.stage;
  const metres = (arriving ? recipe.source.spacing : entering.spacing) * recipe.fit.worldScale;
  const dark = theme === 'night';
  const { work } = plan;
  const shading: View = view === 'difference' ? 'relief' : view;
  const input = {
    id: sourceKey,
    recipe,
    work,
    view: shading,
    dark,
    size: arriving ? facts.info : entering.info,
    stage: arriving ? null : entering.key,
  };
  const water = work.sea;
  ctx.save();
  ctx.beginPath();
  ctx.rect(inner.left, inner.top, inner.width, inner.height);
  ctx.clip();
  if (shown.held) {
    const known = shown.arrived ?? Infinity;
    const there = (level: number): number => (level >= (shown.wholeFrom ?? Infinity) ? Infinity : known);
    const draw = (layerOfWhich: Layer['which']) => {
      const layer = layerOf(layerOfWhich, input);
      const before = drawn[layerOfWhich];
      if (before && before.revision !== layer.revision) {
        ctx.save();
        clipTo(ctx, layer, viewport, inner);
        drawLayer(ctx, before, viewport, inner, cache, ratio, there, null);
        ctx.restore();
      }
      const wanted = drawLayer(ctx, layer, viewport, inner, cache, ratio, there, (level, column, row) => ({
        id: sourceKey,
        which: layerOfWhich,
        asItLies: arriving,
        level,
        column,
        row,
        view: shading,
        recipe,
        work,
        low: work.range.low,
        high: work.range.high,
        water,
        dark,
      }));
      if (wanted.length === 0) drawn[layerOfWhich] = layer;
      return wanted;
    };
    const missing = around ? draw('source') : [];
    if (around) {
      ctx.globalAlpha = 0.55;
      ctx.fillStyle = c.film;
      ctx.fillRect(inner.left, inner.top, inner.width, inner.height);
      ctx.globalAlpha = 1;
    }
    missing.push(...draw(which));
    if (wipe !== null) {
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
    if (difference) {
      ctx.imageSmoothingEnabled = false;
      const left = toScreenX(viewport, inner, g.sourceStart.x);
      const top = toScreenY(viewport, inner, g.sourceStart.y);
      ctx.drawImage(
        difference.picture,
        left,
        top,
        (g.width - 1) * g.sourcePerVertex.x * viewport.scale,
        (g.height - 1) * g.sourcePerVertex.y * viewport.scale,
      );
    }
  }
  if (which === 'result') drawGrid(ctx, plan, overlays, viewport, inner);
  if (section) drawSection(ctx, stage ? sectionOn(stage, section) : section, shown.sectionAt, viewport, inner);
  // names stay readable where the section passes
  if (which === 'result' && overlays.tiles) drawTileNames(ctx, plan, viewport, inner, c);
  if (which === 'result') drawSpots(ctx, plan, viewport, inner, c, shown.goTo?.spot ?? null);
  if (which === 'source') {
    if (!stage || stage.orientation === AS_IT_LIES) drawRoofs(ctx, facts.info.mesh?.roofs ?? [], viewport, inner);
    const extremes = arriving || entering.key === '' ? shown.extremes : shown.stage?.extremes;
    if (extremes && (arriving || entering.stats)) drawExtremes(ctx, extremes, work.sourceEnds, viewport, inner, c);
    const spots = shown.knownSpots.map(({ column, row }) => {
      const { x, y } = stage ? ontoStage(stage, { x: column, y: row }) : { x: column, y: row };
      return { column: x, row: y };
    });
    drawKnownSpots(ctx, spots, viewport, inner, c);
  }
  if (view === 'difference' && difference) drawWorst(ctx, plan, difference.worst, viewport, inner, c);
  drawFurniture(ctx, metres, stage ? northOf(stage) : NORTH_UP, viewport, inner, c);
  ctx.restore();
  drawCollar(ctx, plan, metres, viewport, inner, size, c);
}

/** Nothing is drawn beyond the ground of a layer. */
function clipTo(ctx: CanvasRenderingContext2D, layer: Layer, viewport: Viewport, inner: Inner): void {
  const left = toScreenX(viewport, inner, layer.startX - 0.5 * layer.perX);
  const top = toScreenY(viewport, inner, layer.startY - 0.5 * layer.perY);
  ctx.beginPath();
  ctx.rect(left, top, layer.width * layer.perX * viewport.scale, layer.height * layer.perY * viewport.scale);
  ctx.clip();
}

function drawSection(
  ctx: CanvasRenderingContext2D,
  section: SectionLine,
  sectionAt: number | null,
  viewport: Viewport,
  inner: Inner,
): void {
  const ax = toScreenX(viewport, inner, section.a.x);
  const ay = toScreenY(viewport, inner, section.a.y);
  const bx = toScreenX(viewport, inner, section.b.x);
  const by = toScreenY(viewport, inner, section.b.y);
  for (const [width, colour] of [
    [4, OVER_GROUND.light],
    [2, OVER_GROUND.line],
  ] as const) {
    ctx.lineWidth = width;
    ctx.strokeStyle = colour;
    ctx.beginPath();
    ctx.moveTo(ax, ay);
    ctx.lineTo(bx, by);
    ctx.stroke();
  }
  if (sectionAt !== null) {
    ctx.fillStyle = OVER_GROUND.line;
    ctx.strokeStyle = OVER_GROUND.light;
    ctx.lineWidth = 2;
    ctx.beginPath();
    ctx.arc(ax + (bx - ax) * sectionAt, ay + (by - ay) * sectionAt, 5, 0, 2 * Math.PI);
    ctx.fill();
    ctx.stroke();
  }
}
