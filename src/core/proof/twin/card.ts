import type { Recipe } from '../../recipe';
import { inWorld, type ExpectedHeights } from './heights';
import { expectedLayout, type ExpectedGrid, type SourceFacts } from './layout';
import { storedBy } from './stored';
import { factsOfTarget, layersOf, type TargetFacts } from './targets';

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
  const given = { recipe, source, grid, heights, target: factsOfTarget(recipe.target) };
  // of files that hold metres nobody types which elevations lie at the ends
  const typed = heights.as === 'metres' ? given.target.rows.filter((r) => !OF_CODES.has(r)) : given.target.rows;
  const rows = typed.flatMap((about) => {
    const make = ROWS[about];
    if (!make) throw new Error(`nothing is known of ${about}`);
    return make(given);
  });
  return rows.map((row) => ({
    ...row,
    metres: metresOf(row, heights, given.target),
    metresSlack: again && row.rests === 'heights' ? heights.fine / 20 : 0,
  }));
}

/** What is only typed where codes or shares are stored. */
const OF_CODES: ReadonlySet<string> = new Set([
  'heightRange',
  'topOfRange',
  'baseElevation',
  'lowestElevation',
  'highestElevation',
]);

/** A row as it is worked out, before it is said in metres. */
type Row = Omit<ExpectedRow, 'metres' | 'metresSlack'>;

/** Lengths in a unit of the target’s own stand in metres too, and a height scale with the range that it spans. */
function metresOf({ id, unit, value }: Row, heights: ExpectedHeights, target: TargetFacts): number | null {
  if (id === 'heightScale') return heights.step * heights.top;
  return target.unit !== 1 && unit === target.unitName ? Number(value) * target.unit : null;
}

const count = (id: string, value: number): Row => ({ id, value, unit: '', slack: 0 });

/** All that a row follows from. */
interface Given {
  readonly recipe: Recipe;
  readonly source: SourceFacts;
  readonly grid: ExpectedGrid;
  readonly heights: ExpectedHeights;
  readonly target: TargetFacts;
}

/** A length in the unit of the target. */
const length = ({ target }: Given, id: string, metres: number, slack: number, rests: 'ground' | 'heights'): Row => ({
  id,
  value: metres / target.unit,
  unit: target.unitName,
  slack: slack / target.unit,
  rests,
});

const groundScale = (given: Given, id: string, spacing: number): Row =>
  length(given, id, spacing, (spacing / Math.max(given.grid.width, given.grid.height)) * given.target.unit, 'ground');

/** Metres of heights, typed to a twentieth of a step of 16 bits or fewer. */
const heightRow = (given: Given, id: string, metres: number): Row => ({
  id,
  value: metres,
  unit: 'm',
  slack: given.heights.fine / 20,
  rests: 'heights',
});

const offsetRow = (given: Given, id: string, metres: number, spacing: number): Row => {
  const { unit } = given.target;
  return length(
    given,
    id,
    metres,
    unit === 1 ? Math.max(0.006, spacing / 50) : Math.max(0.006 * unit, spacing * 2 * unit),
    'ground',
  );
};

/** From end to end of one file. */
const extentOf = ({ grid }: Given, axis: 'X' | 'Y'): number => {
  const [n, spacing] = axis === 'X' ? [grid.tileWidth, grid.spacingX] : [grid.tileHeight, grid.spacingY];
  return spacing * (grid.cells ? n : n - 1);
};

const seaOf = ({ recipe, heights }: Given): number | null =>
  recipe.height.sea === undefined ? null : inWorld(recipe, heights, recipe.height.sea);

/** Layers of the lowest and highest code, and the metres of one. */
function layers({ recipe, heights, target }: Given): { bottom: number; top: number; metres: number } {
  const found = layersOf(target.heights, recipe);
  if (!found) throw new Error('no layers');
  const { bottom, top } = found;
  return { bottom, top, metres: (heights.high - heights.low) / (top - bottom) };
}

/** Rows by what they are about. */
const ROWS: Readonly<Record<string, (given: Given) => readonly Row[]>> = {
  layout: ({ recipe, grid }) => {
    const layout = expectedLayout(recipe, grid);
    return layout
      ? [
          count('quads', layout.quads),
          count('patches', layout.patches),
          count('componentsX', layout.componentsX),
          count('componentsY', layout.componentsY),
        ]
      : [];
  },
  verticesX: ({ grid }) => [count('verticesX', grid.tileWidth)],
  verticesY: ({ grid }) => [count('verticesY', grid.tileHeight)],
  vertices: ({ grid }) => [count('vertices', grid.tileWidth)],
  samples: ({ grid }) => [count('samples', grid.tileWidth)],
  samplesX: ({ grid }) => [count('samplesX', grid.tileWidth)],
  samplesY: ({ grid }) => [count('samplesY', grid.tileHeight)],
  groundScaleX: (given) => [groundScale(given, 'groundScaleX', given.grid.spacingX)],
  groundScaleY: (given) => [groundScale(given, 'groundScaleY', given.grid.spacingY)],
  extentX: (given) => [length(given, 'extentX', extentOf(given, 'X'), given.grid.spacingX / 50, 'ground')],
  extentY: (given) => [length(given, 'extentY', extentOf(given, 'Y'), given.grid.spacingY / 50, 'ground')],
  metresPerSample: ({ grid }) => [
    {
      id: 'metresPerSample',
      value: grid.spacingX,
      unit: 'm',
      slack: grid.spacingX / Math.max(grid.width, grid.height),
      rests: 'ground',
    },
  ],
  storedTileSide: ({ recipe, grid, target }) => {
    const { tiles } = target;
    if (!tiles) return [];
    const fits = (side: number): boolean =>
      [grid.tileWidth, grid.tileHeight].every((n) => n % side === 0 || n % side === 1);
    let side = tiles.most;
    while (side > tiles.least && !fits(side)) side /= 2;
    return [count('storedTileSide', recipe.fit.tileSide ?? side)];
  },
  heightScale: ({ heights, target: { heights: kind, unit } }) =>
    kind.kind === 'centred'
      ? [
          {
            id: 'heightScale',
            value: (heights.step * kind.perUnit) / unit,
            unit: '',
            slack: heights.step / 20 / ((kind.middle / kind.perUnit) * unit),
            rests: 'heights',
          },
        ]
      : [],
  // so many codes above the lowest lies the middle code, and there the offset
  heightOffset: (given) => {
    const { heights, target } = given;
    const middle = target.heights.kind === 'centred' ? target.heights.middle : 0;
    return [
      length(given, 'heightOffset', heights.low - heights.zero + middle * heights.step, heights.step / 20, 'heights'),
    ];
  },
  heightRange: (given) => [heightRow(given, 'heightRange', given.heights.high - given.heights.low)],
  topOfRange: (given) => [heightRow(given, 'topOfRange', given.heights.high - given.heights.low)],
  baseElevation: (given) => [heightRow(given, 'baseElevation', given.heights.low - given.heights.zero)],
  lowestElevation: (given) => [heightRow(given, 'lowestElevation', given.heights.low)],
  highestElevation: (given) => [heightRow(given, 'highestElevation', given.heights.high)],
  seaLevel: (given) => {
    const sea = seaOf(given);
    return sea === null ? [] : [heightRow(given, 'seaLevel', sea - given.heights.zero)];
  },
  bottomLayer: (given) => [count('bottomLayer', layers(given).bottom)],
  topLayer: (given) => [count('topLayer', layers(given).top)],
  waterLayer: (given) => {
    const sea = seaOf(given);
    if (sea === null) return [];
    const { bottom, metres } = layers(given);
    return [{ ...count('waterLayer', Math.round(bottom + (sea - given.heights.low) / metres)), rests: 'heights' }];
  },
  metresPerLayer: (given) => [
    { id: 'metresPerLayer', value: layers(given).metres, unit: 'm', slack: 1e-6, rests: 'heights' },
  ],
  eastOffset: (given) => [offsetRow(given, 'eastOffset', given.grid.east, given.grid.spacingX)],
  northOffset: (given) => [offsetRow(given, 'northOffset', given.grid.north, given.grid.spacingY)],
  companions: ({ recipe, source, grid }) => companionRows(recipe, source, grid),
  reading: ({ recipe, grid }) => readingRows(recipe, grid),
};

/** A mask made for the whole source begins elsewhere than ground that was cut out of it or laid into something larger. */
function companionRows(recipe: Recipe, source: SourceFacts, grid: ExpectedGrid): Row[] {
  const side = Math.max(grid.width, grid.height);
  const rows = [count('companionQuads', side - 1), count('companionVertices', side)];
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
  return rows;
}

/** How the file must be read. */
function readingRows(recipe: Recipe, grid: ExpectedGrid): Row[] {
  const { format, byteOrder, rows } = recipe.output;
  const { bits } = storedBy(recipe);
  if (format !== 'raw') return [count('bitDepth', bits)];
  return [
    count('bitDepth', bits),
    ...(bits > 8 ? [{ id: 'byteOrder', value: byteOrder, unit: '', slack: 0 }] : []),
    { id: 'rowOrder', value: rows, unit: '', slack: 0 },
    count('fileSize', (grid.tileWidth * grid.tileHeight * bits) / 8),
  ];
}
