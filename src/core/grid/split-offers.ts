import type { GridRule } from '../targets';
import { ladder, NO_BUDGETS, upsamplingOf, type GridBudgets, type Rung } from './ladder';
import type { Sides } from './first-fit';
import { fewestComponents } from './layouts';

export interface SplitQuestion {
  readonly across: number;
  readonly down: number;
  readonly edges: 'shared' | 'abutting';
}

/** A size of tile that a target accepts, and what so many of them make of the source. */
export interface SplitOffer {
  /** Vertices per side of one tile. */
  readonly tile: number;
  /** Vertices of the whole. */
  readonly width: number;
  readonly height: number;
  /** Vertices for each interval of the source, along the side that is enlarged most. */
  readonly upsampling: number;
  /** Components of all tiles together; null where the target has none. */
  readonly components: number | null;
  /** Files to import. */
  readonly imports: number;
  /** Components for both sides of one tile, as the default layout has them. */
  readonly layout: Rung['layouts'][number] | null;
}

/**
 * The sizes of tiles that come nearest to what the source holds, smallest first. `ground` counts the source's samples
 * that the tiles share; where it is resampled, all of them. What is above a budget is not offered.
 */
export function splitOffers(
  rule: GridRule,
  ground: Sides,
  question: SplitQuestion,
  budgets: GridBudgets = NO_BUDGETS,
  count = 5,
): SplitOffer[] {
  const { across, down, edges } = question;
  const total = (tile: number, n: number): number => (edges === 'shared' ? n * (tile - 1) + 1 : n * tile);
  return ladder(rule, Math.max(ground.width, ground.height))
    .map(({ vertices: tile, layouts }): SplitOffer => {
      const width = total(tile, across);
      const height = total(tile, down);
      const layout = fewestComponents(layouts) ?? null;
      return {
        tile,
        width,
        height,
        upsampling: Math.max(upsamplingOf(width, ground.width), upsamplingOf(height, ground.height)),
        components: layout ? layout.components ** 2 * across * down : null,
        imports: across * down,
        layout,
      };
    })
    .filter((o) => o.tile <= budgets.verticesAdvised && (o.components ?? 0) <= (budgets.components ?? Infinity))
    .sort((a, b) => Math.abs(Math.log(a.upsampling)) - Math.abs(Math.log(b.upsampling)))
    .slice(0, count)
    .sort((a, b) => a.tile - b.tile);
}
