import type { Repair } from '../base';
import { applyEdit, withBestFit, withSize, withSplit, withTileSide } from '../edits';
import { componentsOf, defaultRung, FILLED_UP_TO, keepingRung, ladder, type Rung, type Sides } from '../grid';
import type { Recipe } from '../recipe';
import type { Target } from '../targets';
import { wholeSide } from '../tiles';

/* What one click can put right: edits by their names, with all that they need. */

const size = (width: number, height: number): Recipe['fit']['size'] => (width === height ? width : [width, height]);

const side = (s: Recipe['fit']['size']): string => (typeof s === 'number' ? String(s) : `${s[0]} × ${s[1]}`);

/** Another size, and the way in which the ground lies on it. */
const fitRepair = (label: string, { fit: { size: vertices, method, at } }: Recipe): Repair => ({
  label,
  edit: 'size',
  args: { size: vertices, method, at },
});

const tilesOf = (recipe: Recipe): { across: number; down: number; edges: 'shared' | 'abutting' } =>
  recipe.split ?? { across: 1, down: 1, edges: 'shared' };

const budgetOf = (target: Target, recipe: Recipe): number | null => {
  const { across, down } = tilesOf(recipe);
  return target.budgets.components === null ? null : target.budgets.components / (across * down);
};

/** Sizes of tiles as rungs whose `upsampling` is that of the whole. */
function wholes(recipe: Recipe, target: Target, source: Sides): { whole: number; upsampling: number; tile: number }[] {
  const { across, edges } = tilesOf(recipe);
  const rungs = ladder(target.grid, source.width);
  const affordable = rungs.filter(within(recipe, target));
  return (affordable.length > 0 ? affordable : rungs)
    .map(({ vertices: tile }) => ({ tile, whole: wholeSide(tile, across, edges) }))
    .map((w) => ({ ...w, upsampling: source.width > 1 ? (w.whole - 1) / (source.width - 1) : w.whole - 1 }));
}

const isSquare = (recipe: Recipe, source: Sides): boolean =>
  source.width === source.height && tilesOf(recipe).across === tilesOf(recipe).down;

/** Most vertices per side of one import: the artist's own ceiling, or what is advised for the target. */
export const ceilingOf = ({ fit }: Recipe, { budgets }: Target): number =>
  Math.min(fit.atMost ?? Infinity, budgets.verticesAdvised);

/** Whether a size is within the budgets: vertices of one import, and components over all tiles. */
function within(recipe: Recipe, target: Target): (rung: Rung) => boolean {
  const [most, components] = [ceilingOf(recipe, target), budgetOf(target, recipe) ?? Infinity];
  return (rung) => rung.vertices <= most && componentsOf(rung) <= components;
}

/** The largest size below the artist's own ceiling; null where the target has none. */
export function sizeBelowCeiling(recipe: Recipe, target: Target, source: Sides): Repair | null {
  if (recipe.split || !isSquare(recipe, source)) return null;
  const rung = ladder(target.grid, source.width).filter(within(recipe, target)).at(-1);
  return rung ? fitRepair(`take ${rung.vertices}`, withTileSide(recipe, rung.vertices, source)) : null;
}

/** A size that invents nothing; null where there is none. */
export function fillingSize(recipe: Recipe, target: Target, source: Sides): Repair | null {
  if (!isSquare(recipe, source)) return squareFit(recipe, source);
  if (!recipe.split) {
    const rung = defaultRung(ladder(target.grid, source.width), source.width, target.budgets);
    return rung && rung.upsampling <= FILLED_UP_TO && rung.vertices <= (recipe.fit.atMost ?? Infinity)
      ? fitRepair(`take ${rung.vertices}`, withSize(recipe, rung.vertices))
      : null;
  }
  const filled = wholes(recipe, target, source).filter((w) => w.upsampling <= FILLED_UP_TO);
  const last = filled.at(-1);
  return last ? fitRepair(`take ${last.whole} in all`, withSize(recipe, last.whole)) : null;
}

/** A size, or tiles, on which the source keeps nearly all its samples; null where there is none. */
export function keepingSize(recipe: Recipe, target: Target, source: Sides): Repair | null {
  if (!isSquare(recipe, source)) return null;
  if (!recipe.split) {
    const rung = keepingRung(ladder(target.grid, source.width).filter(within(recipe, target)));
    if (rung) return fitRepair(`take ${rung.vertices}`, withSize(recipe, rung.vertices));
    return tiledRepair(recipe, target, source);
  }
  const kept = wholes(recipe, target, source).find((w) => w.upsampling >= 1 / FILLED_UP_TO);
  return kept ? fitRepair(`take ${kept.whole} in all`, withSize(recipe, kept.whole)) : null;
}

/** As few tiles with shared edges as hold nearly all of the source within what is advised for one import. */
export function tiledRepair(recipe: Recipe, target: Target, source: Sides): Repair | null {
  for (let n = 2; n <= 16; n++) {
    const tiled = withSplit(recipe, { across: n, down: n });
    const fitting = wholes(tiled, target, source).filter(
      (w) => w.tile <= ceilingOf(tiled, target) && w.upsampling <= FILLED_UP_TO && w.upsampling >= 1 / FILLED_UP_TO,
    );
    const best = fitting.at(-1);
    if (best)
      return {
        label: `${n} × ${n} tiles of ${best.tile}`,
        edit: 'tiles',
        args: { across: n, down: n, size: best.whole },
      };
  }
  return null;
}

/** Square quads again: the first fit of such a source. */
export function squareFit(recipe: Recipe, source: Sides): Repair | null {
  const { across, down } = tilesOf(recipe);
  if (across !== 1 || down !== 1) return null;
  const next = withBestFit(recipe, source);
  const words = { resample: 'resample to', crop: 'crop to', pad: 'pad to' }[next.fit.method];
  return fitRepair(`${words} ${side(next.fit.size)}`, next);
}

/** The largest crop in the middle of the source; null where the target takes nothing so small. */
export function croppedFit(recipe: Recipe, target: Target, source: Sides): Repair | null {
  if (recipe.split) return null;
  const rung = ladder(target.grid, source.width)
    .filter((r) => r.vertices <= Math.min(source.width, source.height) && within(recipe, target)(r))
    .at(-1)?.vertices;
  if (rung === undefined) return null;
  const at: [number, number] = [Math.floor((source.width - rung) / 2), Math.floor((source.height - rung) / 2)];
  return fitRepair(`crop to ${rung}`, withSize(recipe, rung, { method: 'crop', at }));
}

/** Another size within the budget of components. */
export function affordableSize(recipe: Recipe, target: Target, source: Sides): Repair | null {
  const budget = budgetOf(target, recipe);
  if (budget === null || !isSquare(recipe, source)) return null;
  const rungs = ladder(target.grid, source.width).filter(within(recipe, target));
  const { across, edges } = tilesOf(recipe);
  const best = rungs
    .map((r) => wholeSide(r.vertices, across, edges))
    .filter((w) => (w - 1) / Math.max(1, source.width - 1) <= FILLED_UP_TO)
    .at(-1);
  return best === undefined ? null : fitRepair(`take ${best}`, withSize(recipe, best));
}

/** The total nearest to the present one that so many tiles can make. */
export function divisibleSize(recipe: Recipe, target: Target, source: Sides, present: number): Repair | null {
  const { across, down, edges } = tilesOf(recipe);
  const nearest = wholes(recipe, target, source).sort(
    (a, b) => Math.abs(a.whole - present) - Math.abs(b.whole - present),
  )[0];
  if (!nearest) return null;
  const s = size(nearest.whole, wholeSide(nearest.tile, down, edges));
  return fitRepair(across * down > 1 ? `take ${side(s)} in all` : `take ${side(s)}`, withSize(recipe, s));
}

/** A repair that changes something; null where the recipe would stay as it is. */
export const changing = (recipe: Recipe, repair: Repair | null): Repair | null =>
  repair && JSON.stringify(applyEdit(recipe, repair)) !== JSON.stringify(recipe) ? repair : null;
