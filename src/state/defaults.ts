import { bestRungs, ladder } from '../core/grid';
import type { SourceFacts } from '../core/plan';
import { RECIPE_VERSION, parseRecipe, type Recipe } from '../core/recipe';
import { targetById } from '../core/targets';

/** The size of the ladder that a source fills best. */
export function bestSize(target: string, samples: number): number {
  return bestRungs(ladder(targetById(target).grid, samples), 1)[0]?.vertices ?? 505;
}

/** A recipe for a file that nobody has said anything about yet: placeholders, marked as such. */
export function freshRecipe(facts: SourceFacts, name: string, target = 'component-grid'): Recipe {
  const { info } = facts;
  const metres = info.sampleType === 'float';
  return parseRecipe({
    version: RECIPE_VERSION,
    name,
    source: { ...(metres ? {} : { low: 0, high: 500 }), spacing: 1, assumed: true },
    target,
    fit: { size: bestSize(target, Math.min(info.width, info.height)) },
    height: { range: metres ? 'ground' : 'source' },
    output: { format: targetById(target).formats[0] },
  });
}

/** The demo: Kettle Tarn, already fitted, with one caution to look into. */
export const DEMO = {
  id: 'demo-kettle-tarn',
  name: 'Kettle Tarn',
  file: 'kettle-tarn.png',
  url: '/demo/kettle-tarn.png',
  recipe: parseRecipe({
    version: RECIPE_VERSION,
    name: 'Kettle Tarn',
    source: { low: 1310, high: 2140, spacing: 2.5 },
    target: 'component-grid',
    fit: { size: 1525, filter: 'lanczos3' },
    height: { range: 'source', sea: 1310.5 },
    output: { format: 'png' },
  }),
} as const;
