import type { GridRule } from '../targets';
import { ladder, sizesOf, FILLED_UP_TO, type GridBudgets } from './ladder';
import type { ComponentRules } from './layouts';

/** How a new project lays its ground on the grid. */
export interface FirstFit {
  readonly size: number | [number, number];
  readonly method: 'resample' | 'crop' | 'pad';
  /** See `fit.at` of the recipe. */
  readonly at: [number, number];
}

export interface Sides {
  readonly width: number;
  readonly height: number;
}

/** Sides may differ by this share before the ground counts as stretched. */
export const SQUARE_WITHIN = 1e-4;

/** Of choices that keep nearly as much as the best, the one with the fewest components is taken. */
const NEARLY = 0.98;

/**
 * The first fit of a source: never stretched, nothing given away that a target can hold. Square ground is resampled to
 * the default rung. A rectangle keeps its shape where the target takes one, and is cropped or padded in the middle
 * where sides must be equal, whichever gives more ground.
 */
export function firstFit(rule: GridRule, square: boolean, source: Sides, budgets: GridBudgets): FirstFit {
  const { width, height } = source;
  // a single row has no extent that could be resampled
  if (width < 2 || height < 2) return padded(rule, square, source, budgets);
  if (width === height) {
    const size = ladder(rule, width, budgets).find((r) => r.default)?.vertices ?? width;
    return { size, method: 'resample', at: [0, 0] };
  }
  if (!square && rule.kind === 'any') return asItLies(rule, source, budgets) ?? padded(rule, square, source, budgets);
  if (square || rule.kind !== 'components') return squared(rule, source, budgets);
  return rectangle(rule, source, budgets) ?? padded(rule, square, source, budgets);
}

const middle = (outer: number, inner: number): number => Math.floor((outer - inner) / 2);

/** Sizes of a rule that are advised for one import; all of them where none is. */
function advised(rule: GridRule, { verticesAdvised }: GridBudgets): readonly number[] {
  const sizes = sizesOf(rule);
  const within = sizes.filter((s) => s <= verticesAdvised);
  return within.length > 0 ? within : sizes;
}

/** Both sides as they are where every size is taken; shrunk by one factor where they are more than is advised. */
function asItLies(
  rule: Extract<GridRule, { kind: 'any' }>,
  { width, height }: Sides,
  { verticesAdvised }: GridBudgets,
): FirstFit | null {
  const most = Math.min(rule.max, verticesAdvised);
  const share = Math.min(1, (most - 1) / (Math.max(width, height) - 1));
  const side = (n: number): number => Math.round((n - 1) * share) + 1;
  const size: [number, number] = [side(width), side(height)];
  return Math.min(...size) < rule.min ? null : { size, method: 'resample', at: [0, 0] };
}

function squared(rule: GridRule, source: Sides, budgets: GridBudgets): FirstFit {
  const { width, height } = source;
  const sizes = advised(rule, budgets);
  const cropped = sizes.filter((s) => s <= Math.min(width, height)).at(-1);
  const around = sizes.find((s) => s >= Math.max(width, height));
  const area = width * height;
  // share of the ground that a crop keeps against share of a padded grid that is ground
  if (cropped !== undefined && (around === undefined || cropped ** 2 / area >= area / around ** 2))
    return { size: cropped, method: 'crop', at: [middle(width, cropped), middle(height, cropped)] };
  return padded(rule, true, source, budgets);
}

function padded(rule: GridRule, square: boolean, { width, height }: Sides, budgets: GridBudgets): FirstFit {
  const sizes = advised(rule, budgets);
  const last = sizes.at(-1) ?? 2;
  const around = (n: number): number => sizes.find((s) => s >= n) ?? last;
  const w = around(square ? Math.max(width, height) : width);
  const h = square ? w : around(height);
  // sides of a rectangle must come from one family of patches; equal ones always do
  const side = Math.max(w, h);
  return { size: side, method: 'pad', at: [middle(side, width), middle(side, height)] };
}

interface Candidate {
  readonly size: [number, number];
  readonly kept: number;
  readonly components: number;
}

/** Of the candidates that keep nearly the most, the one with the fewest components. */
function thriftiest(candidates: readonly Candidate[]): Candidate | undefined {
  const most = Math.max(...candidates.map((c) => c.kept));
  return candidates
    .filter((c) => c.kept >= most * NEARLY)
    .sort((a, b) => a.components - b.components || b.kept - a.kept)[0];
}

/** Both sides from the same patches: resampled where the shape can be met exactly, else cropped. */
function rectangle(rules: ComponentRules, source: Sides, budgets: GridBudgets): FirstFit | null {
  const tooMany = (x: number, y: number, side: number): boolean =>
    x * y > (budgets.components ?? Infinity) || Math.max(x, y) * side + 1 > budgets.verticesAdvised;
  const across = source.width - 1;
  const down = source.height - 1;
  const resampled: Candidate[] = [];
  const cropped: Candidate[] = [];
  for (const quads of rules.quads) {
    for (const patches of rules.patches) {
      const side = quads * patches;
      for (let x = 1; x <= rules.maxComponents; x++) {
        const share = (x * side) / across;
        const y = Math.round((share * down) / side);
        const stretch = y > 0 ? share / ((y * side) / down) : Infinity;
        if (share > FILLED_UP_TO || y < 1 || y > rules.maxComponents || tooMany(x, y, side)) continue;
        if (Math.abs(stretch - 1) > SQUARE_WITHIN) continue;
        resampled.push({ size: [x * side + 1, y * side + 1], kept: Math.min(1, share), components: x * y });
      }
      const most = Math.min(rules.maxComponents, Math.floor((budgets.verticesAdvised - 1) / side));
      const x = Math.min(most, Math.floor(across / side));
      const y = Math.min(most, Math.floor(down / side));
      if (x < 1 || y < 1 || tooMany(x, y, side)) continue;
      const size: [number, number] = [x * side + 1, y * side + 1];
      cropped.push({ size, kept: (size[0] * size[1]) / (source.width * source.height), components: x * y });
    }
  }
  const whole = thriftiest(resampled);
  const part = thriftiest(cropped);
  // all of the ground a little coarser is better than a part of it
  if (whole && whole.kept >= (part?.kept ?? 0) * 0.9) return { size: whole.size, method: 'resample', at: [0, 0] };
  if (!part) return whole ? { size: whole.size, method: 'resample', at: [0, 0] } : null;
  return {
    size: part.size,
    method: 'crop',
    at: [middle(source.width, part.size[0]), middle(source.height, part.size[1])],
  };
}
