import type { Sides } from '../grid';
import { perSample } from '../raster';
import type { Recipe } from '../recipe';
import type { Target } from '../targets';

/** Samples that become cells one by one: centres on vertices, so that none changes. */
function sampleBySample(
  recipe: Recipe,
  { grid, registration }: Pick<Target, 'grid' | 'registration'>,
  source: Sides,
): Recipe {
  const { size, method, mixed } = recipe.fit;
  const [w, h] = typeof size === 'number' ? [size, size] : size;
  const asItIs = method === 'resample' && w === source.width && h === source.height;
  const differ = registration !== (recipe.source.registration ?? 'vertex');
  return grid.kind === 'any' && differ && asItIs && mixed === undefined
    ? { ...recipe, fit: { ...recipe.fit, mixed: 'centre-to-centre' } }
    : recipe;
}

/**
 * What a target does whatever is typed, met: its half turn, its own spacing; where it takes every size, samples stay what
 * they are. `source`: size of what enters the fit.
 */
export function suited(
  recipe: Recipe,
  target: Pick<Target, 'grid' | 'halfTurn' | 'registration' | 'spacing'>,
  source: Sides,
): Recipe {
  const turned = recipe.steps.some((s) => s.op === 'turn' && s.quarters === 2);
  const laid = sampleBySample(recipe, target, source);
  const next: Recipe =
    target.halfTurn && !turned ? { ...laid, steps: [...laid.steps, { op: 'turn', quarters: 2 }] } : laid;
  if (target.spacing === undefined) return next;
  const { size, method } = next.fit;
  const across = typeof size === 'number' ? size : size[0];
  const per =
    method === 'resample'
      ? perSample(source.width, across, {
          source: next.source.registration ?? 'vertex',
          result: target.registration,
          hold: next.fit.mixed === 'centre-to-centre' ? 'centres' : 'extent',
        })
      : 1;
  const spacing = next.source.spacing * per;
  return spacing > 0 ? { ...next, fit: { ...next.fit, worldScale: target.spacing / spacing } } : next;
}
