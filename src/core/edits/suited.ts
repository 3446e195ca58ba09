import { perSample } from '../raster';
import type { Recipe } from '../recipe';
import type { Target } from '../targets';

/** What a target does whatever is typed, met: its half turn, its own spacing. `source`: size of what enters the fit. */
export function suited(
  recipe: Recipe,
  target: Pick<Target, 'halfTurn' | 'registration' | 'spacing'>,
  source: { readonly width: number; readonly height: number },
): Recipe {
  const turned = recipe.steps.some((s) => s.op === 'turn' && s.quarters === 2);
  const next: Recipe =
    target.halfTurn && !turned ? { ...recipe, steps: [...recipe.steps, { op: 'turn', quarters: 2 }] } : recipe;
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
