import { levelSize, MAP_TILE } from '@/core/view';
import type { Geometry, Work } from '@/core/plan';
import type { Recipe } from '@/core/recipe';
import type { View } from '@/core/relief';
import type { TileRequest } from '@/workers/protocol';
import type { TileCache, WantedTile } from './tile-cache';
import { toGroundX, toGroundY, toScreenX, toScreenY, type Inner, type Viewport } from './viewport';

/** One raster to draw, source or result, in source samples. */
export interface Layer {
  readonly which: 'source' | 'result';
  readonly width: number;
  readonly height: number;
  /** Source sample of vertex 0 and source samples per vertex. */
  readonly startX: number;
  readonly startY: number;
  readonly perX: number;
  readonly perY: number;
  /** Changes whenever the pixels of the tiles would. */
  readonly revision: string;
}

export interface LayerInput {
  readonly id: string;
  readonly recipe: Recipe;
  readonly work: Work;
  readonly view: View;
  readonly dark: boolean;
  readonly size: { readonly width: number; readonly height: number };
  /** Key of the stage that is drawn; null: the source as it lies. */
  readonly stage: string | null;
}

export function layerOf(which: Layer['which'], { id, recipe, work, view, dark, size, stage }: LayerInput): Layer {
  const g: Geometry = work.geometry;
  const tint = JSON.stringify([
    id,
    stage,
    view,
    dark,
    work.range.low,
    work.range.high,
    recipe.source,
    work.sea,
    work.effectiveStep,
    work.calibration,
    recipe.fit.worldScale,
  ]);
  if (which === 'source') {
    return {
      which,
      width: size.width,
      height: size.height,
      startX: 0,
      startY: 0,
      perX: 1,
      perY: 1,
      revision: `s${tint}`,
    };
  }
  return {
    which,
    width: g.width,
    height: g.height,
    startX: g.sourceStart.x,
    startY: g.sourceStart.y,
    perX: g.sourcePerVertex.x,
    perY: g.sourcePerVertex.y,
    revision: `r${tint}${JSON.stringify([g.width, g.height, g.sourceStart, g.sourcePerVertex, work.fit, work.rim])}`,
  };
}

/**
 * Draws a layer from the tiles at hand, coarse under fine, and returns those that are missing, most important first.
 * Of a source that is being read, so many rows are known at each level: tiles that have more to show by now are asked
 * for again.
 */
export function drawLayer(
  ctx: CanvasRenderingContext2D,
  layer: Layer,
  viewport: Viewport,
  inner: Inner,
  cache: TileCache,
  ratio: number,
  known: (level: number) => number,
  /** How a tile is asked for; null: only what is there is drawn. */
  request: ((level: number, column: number, row: number) => TileRequest) | null,
): WantedTile[] {
  const missing: WantedTile[] = [];
  const coarsest = Math.max(0, Math.ceil(Math.log2(Math.max(layer.width, layer.height) / MAP_TILE)));
  const texel = Math.min(layer.perX, layer.perY) * viewport.scale * ratio;
  const finest = Math.max(0, Math.min(coarsest, Math.floor(Math.log2(1 / texel) + 0.25)));
  const x0 = (toGroundX(viewport, inner, inner.left) - layer.startX) / layer.perX;
  const x1 = (toGroundX(viewport, inner, inner.left + inner.width) - layer.startX) / layer.perX;
  const y0 = (toGroundY(viewport, inner, inner.top) - layer.startY) / layer.perY;
  const y1 = (toGroundY(viewport, inner, inner.top + inner.height) - layer.startY) / layer.perY;
  for (let level = coarsest; level >= finest; level--) {
    // between the coarsest and the wanted level only what happens to be there is drawn
    const wanted = level === coarsest || level === finest;
    const scale = 2 ** level;
    const side = MAP_TILE * scale;
    const columns = Math.ceil(levelSize(layer.width, level) / MAP_TILE);
    const rows = Math.ceil(levelSize(layer.height, level) / MAP_TILE);
    ctx.imageSmoothingEnabled = texel * scale < 4;
    for (let row = Math.max(0, Math.floor((y0 + 0.5) / side)); row < rows && row * side - 0.5 <= y1; row++) {
      for (
        let column = Math.max(0, Math.floor((x0 + 0.5) / side));
        column < columns && column * side - 0.5 <= x1;
        column++
      ) {
        const key = `${layer.revision}/${level}/${column}/${row}`;
        // rows that the tile can show by now, one sample of its level below it included
        const rowsNow = Math.min(known(level), layer.height, (row + 1) * side + scale);
        const tile = cache.get(key);
        if (request && wanted && rowsNow > row * side && cache.rowsOf(key) < rowsNow)
          missing.push({ key, rows: rowsNow, request: request(level, column, row) });
        if (!tile) continue;
        const left = toScreenX(viewport, inner, layer.startX + (column * side - 0.5) * layer.perX);
        const top = toScreenY(viewport, inner, layer.startY + (row * side - 0.5) * layer.perY);
        ctx.drawImage(
          tile,
          left,
          top,
          tile.width * scale * layer.perX * viewport.scale,
          tile.height * scale * layer.perY * viewport.scale,
        );
      }
    }
  }
  return missing;
}
