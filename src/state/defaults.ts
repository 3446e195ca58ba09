import { parseRecipe } from '../core/recipe';

/** The demo: Kettle Tarn, already fitted, with one caution to look into (overshoot is let through). */
export const DEMO = {
  id: 'demo-kettle-tarn',
  name: 'Kettle Tarn',
  file: 'kettle-tarn.png',
  url: '/demo/kettle-tarn.png',
  recipe: parseRecipe({
    version: 2,
    name: 'Kettle Tarn',
    source: { low: 1310, high: 2140, spacing: 2.5 },
    target: 'component-grid',
    fit: { size: 1525, filter: 'lanczos3', clamp: false },
    height: { range: 'source', sea: 1310.5 },
    output: { format: 'png' },
  }),
} as const;
