import { LevelGridError } from '../base';
import { fewestComponents, rectangleLayouts, sizesOf, type RectangleLayout } from '../grid';
import type { Recipe } from '../recipe';
import type { Target } from '../targets';

export interface LayoutChoice {
  readonly layout: RectangleLayout | null;
  /** All layouts of the tile's size. */
  readonly options: readonly RectangleLayout[];
  /** Why the layout was taken; null where there is none. */
  readonly reason: string | null;
  readonly refusal: LevelGridError | null;
}

/** The component layout of one tile, or why the target refuses its size. */
export function chooseLayout(
  recipe: Recipe,
  target: Target,
  tile: { width: number; height: number },
  tiled: boolean,
): LayoutChoice {
  const rule = target.grid;
  const refuse = (refusal: LevelGridError): LayoutChoice => ({ layout: null, options: [], reason: null, refusal });
  if (target.square && tile.width !== tile.height) {
    return refuse(
      new LevelGridError('split-unequal', {
        found: `${tiled ? 'tiles' : 'a grid'} of ${tile.width} × ${tile.height} vertices`,
        expected: `equal sides for the ${target.name.toLowerCase()}`,
        remedy: 'Choose equal sides.',
      }),
    );
  }
  const sizes = sizesOf(rule);
  for (const side of [tile.width, tile.height]) {
    if (!sizes.includes(side)) return refuse(offLadder(side, sizes, target, tiled));
  }
  if (rule.kind !== 'components') return { layout: null, options: [], reason: null, refusal: null };
  const options = rectangleLayouts(tile.width, tile.height, rule);
  if (options.length === 0) {
    return refuse(
      new LevelGridError('size-not-on-ladder', {
        found: `${tile.width} × ${tile.height} vertices, whose sides share no patch size`,
        expected: 'sides built from the same patches',
        remedy: 'Choose equal sides, or sides of the same family.',
      }),
    );
  }
  const wanted = recipe.fit.layout;
  if (!wanted) {
    const first = fewestComponents(options);
    const reason =
      options.length === 1
        ? 'the only layout of this size'
        : `the fewest components of the ${options.length} layouts of this size`;
    return { layout: first ?? null, options, reason: first ? reason : null, refusal: null };
  }
  const layout = options.find((o) => o.quads === wanted.quads && o.patches === wanted.patches);
  if (layout) return { layout, options, reason: 'as the recipe says', refusal: null };
  return {
    layout: null,
    options,
    reason: null,
    refusal: new LevelGridError('size-not-on-ladder', {
      found: `a layout of ${wanted.quads} quads and ${wanted.patches} × ${wanted.patches} patches for ${tile.width} vertices`,
      expected: options.map((o) => `${o.quads} quads with ${o.patches} × ${o.patches} patches`).join(' or '),
      remedy: 'Choose one of these layouts, or leave the layout out.',
    }),
  };
}

function offLadder(side: number, sizes: readonly number[], target: Target, tiled: boolean): LevelGridError {
  const below = [...sizes].reverse().find((s) => s < side);
  const above = sizes.find((s) => s > side);
  const nearest = [below, above].filter((s) => s !== undefined).join(' or ');
  const powerOfTwo = Number.isInteger(Math.log2(side)) && target.grid.kind === 'power-of-two-plus-one';
  return new LevelGridError('size-not-on-ladder', {
    found: `${side} vertices per side${tiled ? ' of a tile' : ''}${powerOfTwo ? ', a power of two without the one vertex more' : ''}`,
    expected: `a size that the ${target.name.toLowerCase()} accepts`,
    remedy: nearest === '' ? 'Choose a size of the ladder.' : `The nearest are ${nearest}.`,
  });
}
