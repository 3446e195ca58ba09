import type { Recipe } from '../../recipe';
import type { ExpectedHeights } from './heights';
import { expectedLayout, type ExpectedGrid, type SourceFacts } from './layout';

/** What a row of the card must say. */
export interface ExpectedRow {
  readonly id: string;
  readonly value: number | string;
  readonly unit: string;
  /** The same in metres, where the card says it in words; null where it does not. */
  readonly metres: number | null;
  /** How far that may lie from it, besides its rounding: what heights differ by that were worked out in two ways. */
  readonly metresSlack: number;
  /** How far a typed value may lie from it: so much that nothing is off by a tenth of a step or a fiftieth of a quad. */
  readonly slack: number;
  /** What it rests on, besides the recipe. */
  readonly rests?: 'ground' | 'heights';
}

/**
 * Every row that the card of a pack must have, in order, from the recipe and the source alone. `again`: the heights were
 * worked out from the source a second time, and not taken from the page.
 */
export function expectedCard(
  recipe: Recipe,
  source: SourceFacts,
  grid: ExpectedGrid,
  heights: ExpectedHeights,
  again = false,
): ExpectedRow[] {
  const rows =
    recipe.target === 'component-grid' ? componentCard(recipe, source, grid, heights) : oddCard(recipe, grid, heights);
  return rows.map((row) => ({
    ...row,
    metres: metresOf(row, heights),
    metresSlack: again && row.rests === 'heights' ? heights.step / 20 : 0,
  }));
}

/** A row as it is worked out, before it is said in metres. */
type Row = Omit<ExpectedRow, 'metres' | 'metresSlack'>;

/** Lengths in centimetres stand in metres too, and a height scale with the range that it spans. */
function metresOf({ id, unit, value }: Row, heights: ExpectedHeights): number | null {
  if (id === 'heightScale') return heights.step * 65535;
  return unit === 'cm' ? Number(value) / 100 : null;
}

const count = (id: string, value: number): Row => ({ id, value, unit: '', slack: 0 });

function componentCard(recipe: Recipe, source: SourceFacts, grid: ExpectedGrid, heights: ExpectedHeights): Row[] {
  const layout = expectedLayout(recipe, grid);
  const twentieth = heights.step / 20;
  const ground = (id: string, spacing: number, n: number): Row => ({
    id,
    value: spacing * 100,
    unit: 'cm',
    slack: spacing / n,
    rests: 'ground',
  });
  const side = Math.max(grid.width, grid.height);
  const rows: Row[] = [
    ...(layout
      ? [
          count('quads', layout.quads),
          count('patches', layout.patches),
          count('componentsX', layout.componentsX),
          count('componentsY', layout.componentsY),
        ]
      : []),
    count('verticesX', grid.tileWidth),
    count('verticesY', grid.tileHeight),
    ground('groundScaleX', grid.spacingX, side),
    ground('groundScaleY', grid.spacingY, side),
    { id: 'heightScale', value: heights.step * 12800, unit: '', slack: twentieth / 2.56, rests: 'heights' },
    {
      id: 'heightOffset',
      // 32768 codes above the lowest lies the middle code, and there the offset
      value: (heights.low - heights.zero + 32768 * heights.step) * 100,
      unit: 'cm',
      slack: twentieth * 100,
      rests: 'heights',
    },
    {
      id: 'eastOffset',
      value: grid.east * 100,
      unit: 'cm',
      slack: Math.max(0.006, grid.spacingX * 2),
      rests: 'ground',
    },
    {
      id: 'northOffset',
      value: grid.north * 100,
      unit: 'cm',
      slack: Math.max(0.006, grid.spacingY * 2),
      rests: 'ground',
    },
    count('companionQuads', side - 1),
    count('companionVertices', side),
  ];
  // a mask made for the whole source begins elsewhere than ground that was cut out of it or laid into something larger
  const ends = [
    grid.startX,
    grid.startY,
    source.width - grid.width - grid.startX,
    source.height - grid.height - grid.startY,
  ];
  if (recipe.fit.method !== 'resample' && ends.some((end) => end !== 0))
    rows.push(
      count('companionSource', Math.max(source.width, source.height) - 1),
      count('companionSourceEast', 0 - grid.startX),
      count('companionSourceSouth', 0 - grid.startY),
    );
  return [...rows, ...readingRows(recipe, grid)];
}

function oddCard(recipe: Recipe, grid: ExpectedGrid, heights: ExpectedHeights): Row[] {
  const twentieth = heights.step / 20;
  const metres = (id: string, value: number, slack: number, rests: 'ground' | 'heights' = 'ground'): Row => ({
    id,
    value,
    unit: 'm',
    slack,
    rests,
  });
  return [
    count('vertices', grid.tileWidth),
    metres('extentX', grid.spacingX * (grid.tileWidth - 1), grid.spacingX / 50),
    metres('extentY', grid.spacingY * (grid.tileHeight - 1), grid.spacingY / 50),
    metres('heightRange', heights.high - heights.low, twentieth, 'heights'),
    metres('baseElevation', heights.low - heights.zero, twentieth, 'heights'),
    metres('eastOffset', grid.east, Math.max(0.006, grid.spacingX / 50)),
    metres('northOffset', grid.north, Math.max(0.006, grid.spacingY / 50)),
    ...readingRows(recipe, grid),
  ];
}

/** How the file must be read. */
function readingRows(recipe: Recipe, grid: ExpectedGrid): Row[] {
  const { format, byteOrder, rows } = recipe.output;
  if (format === 'png') return [count('bitDepth', 16)];
  return [
    count('bitDepth', 16),
    { id: 'byteOrder', value: byteOrder, unit: '', slack: 0 },
    { id: 'rowOrder', value: rows, unit: '', slack: 0 },
    count('fileSize', grid.tileWidth * grid.tileHeight * 2),
  ];
}
