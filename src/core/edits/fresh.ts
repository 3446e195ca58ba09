import type { RawGuess, RawLayout } from '../formats';
import { firstFit } from '../grid';
import type { RasterInfo } from '../raster';
import { parseRecipe, RECIPE_VERSION, type Assumable, type Recipe } from '../recipe';
import { targetById } from '../targets';

/** Where elevations start that nobody has said yet, and how far they reach. */
const PLACEHOLDER = { low: 0, high: 500, spacing: 1 } as const;

/** What a file says of itself, and how it was read where it doesn't. */
interface FreshSource {
  readonly info: RasterInfo;
  readonly raw?: RawLayout;
  /** Left out where the layout was stated. */
  readonly guess?: RawGuess;
}

/**
 * A recipe for a file that nobody has said anything about yet: placeholders, each marked as such. A layout that was
 * stated is a choice; one that was guessed is none until it has been confirmed.
 */
export function freshRecipe({ info, raw, guess }: FreshSource, name: string, targetId = 'component-grid'): Recipe {
  const target = targetById(targetId);
  const metres = info.sampleType === 'float';
  const { low, high, spacing } = PLACEHOLDER;
  const assumed: Assumable[] = metres ? ['spacing'] : ['low', 'high', 'spacing'];
  return parseRecipe({
    version: RECIPE_VERSION,
    name: name.slice(0, 80),
    source: { ...(metres ? {} : { low, high }), spacing, assumed, ...(raw && !guess ? { raw } : {}) },
    target: target.id,
    fit: firstFit(target.grid, target.square, info, target.budgets.components),
    height: { range: metres ? 'ground' : 'source' },
    output: { format: target.formats[0] },
  });
}
