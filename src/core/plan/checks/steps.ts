import { formatLength, formatShort } from '../../base';
import { stepWords } from '../../operations';
import type { StepOf } from '../../recipe';
import type { ChecksInput, Say } from './input';

/** Vertices that a bed must be wide for the fit to keep its depth. */
const LEAST_BED = 3;
/** Levels that make ground steeper by more than this make slopes of next to nothing. */
const STEEPEST = 3;

/** What is done to the ground before it is fitted, and what of it the fit or the eye will not take well. */
export function stepsChecks({ recipe: { steps, fit }, geometry: { spacing } }: ChecksInput, say: Say): void {
  const on = steps.filter((s) => !s.off);
  if (on.length === 0) return;
  say('clean', 'steps', 'note', `Done to the ground before it is fitted: ${on.map(stepWords).join('; ')}.`);
  const vertex = Math.max(spacing.x, spacing.y) / fit.worldScale;
  steps.forEach((step, index) => {
    if (step.off) return;
    if (step.op === 'river') bedCheck(step, index, vertex, say);
    if (step.op === 'levels') levelsCheck(step, index, say);
  });
}

function bedCheck({ width, mode }: StepOf<'river'>, index: number, vertex: number, say: Say): void {
  if (!(vertex > 0) || width >= LEAST_BED * vertex) return;
  say(
    'clean',
    'bed-narrow',
    'caution',
    `The ${mode === 'deepen' ? 'bed' : 'dam'} of step ${index + 1} is ${formatLength(width)} wide, ${formatShort(width / vertex, 1)} vertices of the grid: its ${mode === 'deepen' ? 'depth' : 'height'} will not be kept everywhere. From ${formatLength(LEAST_BED * vertex)} on it is.`,
  );
}

function levelsCheck({ points }: StepOf<'levels'>, index: number, say: Say): void {
  let [steepest, at] = [0, 0];
  points.forEach(([from, to], i) => {
    const before = points[i - 1];
    if (!before) return;
    const slope = (to - before[1]) / (from - before[0]);
    if (slope > steepest) [steepest, at] = [slope, i];
  });
  if (steepest <= STEEPEST) return;
  say(
    'clean',
    'levels-steep',
    'caution',
    `Between ${formatLength(points[at - 1]![0])} and ${formatLength(points[at]![0])} the levels of step ${index + 1} make slopes ${formatShort(steepest, 1)} times as steep: small unevenness becomes visible there.`,
  );
}
