import type { Chain } from '../chain';
import { textureSamples } from '../grid';
import { trueCalibration, type Precision } from '../height';
import type { Encoding, GroundStatistics, RasterInfo, SourceStatistics } from '../raster';
import type { Recipe } from '../recipe';
import type { WrittenTarget } from '../targets';
import type { TileGrid } from '../tiles';
import { layersOf, originOffset, typingBudget } from './card';
import { EDITION, type PlanCheck, type PlanDocument, type PlanFile } from './document';
import type { Entering, SourceFacts } from './facts';
import type { Geometry } from './geometry';
import type { LayoutChoice } from './grid-layout';
import type { Heights } from './heights';
import { baseName } from './names';
import { placeOnMap } from './on-map';
import { placementTable } from './placement';
import { planSpots } from './spots';

/** What a plan has come to, before it is put into words. */
export interface Planned {
  readonly recipe: Recipe;
  readonly target: WrittenTarget;
  readonly source: SourceFacts;
  readonly chain: Chain;
  readonly entering: Entering;
  readonly ground: GroundStatistics | null;
  readonly geometry: Geometry;
  readonly heights: Heights;
  readonly precision: Precision;
  readonly clipped: { readonly low: number | null; readonly high: number | null };
  readonly tiles: TileGrid;
  readonly choice: LayoutChoice;
  readonly card: PlanDocument['card'];
  readonly checks: PlanCheck[];
}

/** The document of a plan: what the pack's pages hold. */
export function documentOf(planned: Planned): PlanDocument {
  const { recipe, target, source, chain, entering, ground, geometry, tiles, choice, card, checks } = planned;
  const origin = originOffset(recipe, geometry);
  const map = placeOnMap(entering.stage, geometry);
  return {
    version: 1,
    edition: EDITION,
    name: recipe.name ?? baseName(source.file),
    target: target.id,
    draft: recipe.draft ?? null,
    recipe,
    source: {
      file: source.file,
      ...rasterWords(source.info, source.stats),
      assumed: recipe.source.assumed ?? [],
    },
    // of files that were fitted to each other no codes enter
    entering: { ...rasterWords({ ...entering.info, own: undefined }, entering.stats), spacing: entering.spacing },
    steps: stepReports(recipe, chain, entering),
    fit: {
      width: geometry.width,
      height: geometry.height,
      spacing: geometry.spacing,
      extent: geometry.extent,
      method: recipe.fit.method,
      worldScale: recipe.fit.worldScale,
      registration: target.registration,
      ...(target.halfTurn ? { turn: 180 as const } : {}),
    },
    layout: choice.layout,
    layoutText: layoutWords(choice.layout),
    layoutReason: choice.reason,
    height: heightWords(planned),
    typing: { budget: typingBudget(card, target) },
    tiles: {
      across: tiles.across,
      down: tiles.down,
      edges: tiles.edges,
      width: tiles.tileWidth,
      height: tiles.tileHeight,
      rows: recipe.split?.rows ?? 'north',
    },
    card,
    files: tiles.tiles.map((t) => planFile(t, recipe, target.encoding)),
    spots: ground ? planSpots({ ground, heights: planned.heights, target, geometry, origin, tiles }) : [],
    placement: placementTable(tiles, geometry, target, choice.layout, origin),
    ...(map ? { map } : {}),
    checks,
    cost: costOf(planned),
  };
}

const layoutWords = (layout: LayoutChoice['layout']): string | null =>
  layout &&
  `${layout.componentsX} × ${layout.componentsY} components, each ${layout.patches} × ${layout.patches} ${layout.patches === 1 ? 'patch' : 'patches'} of ${layout.quads} quads`;

function heightWords({ recipe, target, heights, precision, ground, clipped }: Planned): PlanDocument['height'] {
  const { range, zero, shown } = heights;
  const layers = layersOf({ recipe, target, range });
  const elevation = (value: number): number => shown.offset + shown.unit * value;
  return {
    low: range.low,
    high: range.high,
    step: precision.step,
    sourceStep: precision.sourceStep,
    effectiveStep: precision.effectiveStep,
    exaggeration: recipe.height.exaggeration,
    zero,
    groundLow: ground ? elevation(ground.datum + ground.min) : null,
    groundHigh: ground ? elevation(ground.datum + ground.max) : null,
    clipped,
    terraceAt2Percent: precision.terraceAt2Percent,
    jitterPercent: precision.jitterPercent,
    ...(layers
      ? {
          layers: layers.top - layers.bottom + 1,
          bottomLayer: layers.bottom,
          topLayer: layers.top,
          metresPerLayer: layers.metres,
        }
      : {}),
  };
}

function costOf({ target, geometry, tiles, choice: { layout } }: Planned): PlanDocument['cost'] {
  const vertices = geometry.width * geometry.height;
  const count = tiles.tiles.length;
  return {
    vertices,
    components: layout ? layout.componentsX * layout.componentsY * count : null,
    fileBytes: (target.encoding.bits / 8) * count * tiles.tileWidth * tiles.tileHeight,
    textureBytes: layout ? 2 * textureSamples(layout) * count : null,
    diskBytes: [vertices * 2 * target.diskFactor[0], vertices * 2 * target.diskFactor[1]],
  };
}

const rasterWords = (
  { width, height, own, bitDepth, sampleType }: Omit<RasterInfo, 'own'> & { own?: RasterInfo['own'] | undefined },
  stats: SourceStatistics | null,
): Omit<PlanDocument['source'], 'file' | 'assumed'> => ({
  width,
  height,
  ...(own ?? { bitDepth, sampleType }),
  min: stats?.min ?? null,
  max: stats?.max ?? null,
});

/** What each step changed, in true metres. */
function stepReports(recipe: Recipe, chain: Chain, { changes }: Entering): PlanDocument['steps'] {
  return recipe.steps.map(({ op, off }, index) => {
    if (off) return { op, off };
    const found = changes?.find((c) => c.index === index);
    const before = chain.steps.find((s) => s.index === index)?.before;
    const unit = before ? trueCalibration(recipe.source.heights, before.ends).unit : 1;
    const metres = (stored: number | null | undefined): number | null => (stored == null ? null : stored * unit);
    return { op, samples: found?.samples ?? null, largest: metres(found?.largest), mean: metres(found?.mean) };
  });
}

function planFile(tile: TileGrid['tiles'][number], recipe: Recipe, encoding: Encoding): PlanFile {
  const { format, byteOrder, rows } = recipe.output;
  return {
    name: tile.name,
    role: 'heights',
    format,
    width: tile.window.width,
    height: tile.window.height,
    bitDepth: encoding.bits,
    sampleType: encoding.sampleType,
    // a single byte has no order
    byteOrder: format === 'raw' && encoding.bits > 8 ? byteOrder : null,
    rows: format === 'raw' ? rows : 'north',
    column: tile.column,
    row: tile.row,
    window: tile.window,
  };
}
