import { plan, type SourceFacts } from '../../src/core/plan';
import { parseRecipe, parseRecipeText } from '../../src/core/recipe';
import type { Chance } from './chance';
import { bent, torn } from './json';
import { ours, type Target } from './target';

const SEEDS: readonly unknown[] = [
  {
    version: 2,
    name: 'Kettle Tarn',
    source: { low: 1310, high: 2140, spacing: 2.5 },
    target: 'component-grid',
    fit: { size: 1525, clamp: false, at: [0, 0], layout: { quads: 127, patches: 2 } },
    height: { range: 'source', sea: 1310.5 },
    output: { format: 'png' },
  },
  {
    version: 2,
    source: {
      low: -20,
      high: 380,
      spacing: 1,
      raw: { width: 300, height: 300, type: 'u16', byteOrder: 'big', skip: 0 },
    },
    target: 'odd-grid',
    fit: { size: [1025, 513], method: 'pad', at: [10, 10], rim: -20, voids: 0, worldScale: 0.25, origin: 'centre' },
    height: { range: 'pinned', low: -30, high: 400, strategy: 'headroom', below: 5, above: 5, exaggeration: 1.5 },
    split: { across: 2, down: 1, edges: 'abutting', pattern: '{name}-{index:3}', first: 1, rows: 'south' },
    output: { format: 'raw', byteOrder: 'big', rows: 'south' },
  },
  {
    version: 3,
    source: { heights: { as: 'step', step: 0.01, base: -20, stretch: 1.8, truncated: true }, spacing: 1 },
    target: 'odd-grid',
    fit: { size: 1025 },
  },
  {
    version: 3,
    source: { heights: { as: 'ends', low: 0, high: 500 }, curve: 2.2, spacing: 30, assumed: ['low', 'unit'] },
    target: 'component-grid',
    fit: { size: 505 },
    height: { range: 'codes' },
  },
  {
    version: 3,
    source: { heights: { as: 'elevations', unit: 'foot' }, spacing: 1 },
    target: 'component-grid',
    fit: { size: 505 },
    height: { range: 'ground' },
  },
  {
    version: 1,
    source: { low: 0, high: 500, spacing: 1, assumed: true },
    target: 'component-grid',
    fit: { size: 505 },
    height: { strategy: 'fixed', scale: 100, anchor: { at: 'middle', elevation: 250 } },
  },
];

const facts = (chance: Chance): SourceFacts => {
  const width = chance.one([1, 2, 3, 300, 1536, 2049, 40000]);
  const float = chance.in(4);
  return {
    file: 'kettle-tarn.png',
    info: {
      format: 'png',
      width,
      height: chance.in(3) ? chance.one([1, 2, 500, 1536]) : width,
      channels: 1,
      bitDepth: float ? 32 : 16,
      sampleType: float ? 'float' : 'uint',
      byteOrder: null,
      warnings: [],
    },
    warnings: [],
    stats: chance.in(3)
      ? null
      : { samples: 9, voids: 0, min: 0, max: chance.one([0, 1, 65535]), mean: null, distinctCodes: 2, codeStep: null },
  };
};

export const recipe: Target<{ text: string; facts: SourceFacts }> = {
  name: 'recipe',
  make: (chance) => {
    const seed = chance.one(SEEDS);
    const text = chance.in(3) ? torn(JSON.stringify(seed), chance) : JSON.stringify(bent(seed, chance));
    return { text, facts: facts(chance) };
  },
  async check({ text, facts: source }, count) {
    let read;
    try {
      read = parseRecipeText(text, 'recipe.json');
    } catch (reason) {
      ours(reason);
      return 'refused';
    }
    // what was written out and read again is the same
    const again = parseRecipe(JSON.parse(JSON.stringify(read)));
    if (JSON.stringify(again) !== JSON.stringify(read)) throw new Error('a recipe that changes when it is read again');
    try {
      const { document, refusals } = plan(read, source, null);
      const out = JSON.stringify(document);
      if (!text.includes('NaN') && /NaN|Infinity|undefined|\[object/.test(out))
        throw new Error(`a plan that says nothing: ${/.{40}(NaN|Infinity|undefined|\[object).{20}/.exec(out)?.[0]}`);
      if (document.card.some((r) => r.value === null || r.value === '')) throw new Error('a card with an empty row');
      for (const r of refusals) ours(r);
      count(refusals.length > 0 ? 'planned, and refused' : 'planned');
    } catch (reason) {
      ours(reason);
      count('no plan');
    }
    return 'accepted';
  },
};
