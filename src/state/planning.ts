import { asLevelGridError } from '../core/base';
import { groundKey, plan, type SourceFacts } from '../core/plan';
import type { Recipe } from '../core/recipe';
import type { Running } from '../workers/client';
import { useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import { showError, workers } from './workers';

/** How long the recipe must rest before its ground is measured. */
const MEASURE_AFTER_MS = 150;

/** What the ground in the session was measured for. */
let measuredKey = '';
let measuring: Running<unknown> | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;

/** What the ground of a source under a recipe is measured for. */
const keyOf = (sourceKey: string, recipe: Recipe, facts: SourceFacts): string =>
  `${sourceKey} ${groundKey(recipe, facts)}`;

/** Works the plan out anew; runs after every change of recipe, source or statistics. */
export function replan(): void {
  // what was about to be measured may be what nobody needs any more
  clearTimeout(timer);
  const { recipe } = useRecipe.getState();
  const { facts, ground, sourceKey } = useSession.getState();
  if (!recipe || !facts || sourceKey === null) {
    patchSession({ plan: null });
    return;
  }
  try {
    const key = keyOf(sourceKey, recipe, facts);
    const current = measuredKey === key ? ground : null;
    const next = plan(recipe, facts, current);
    patchSession({ plan: next, planError: null });
    const { clipped } = next.document.height;
    const uncounted = current !== null && (clipped.low === null || clipped.high === null);
    if ((current === null || uncounted) && facts.stats && next.refusals.length === 0)
      measureSoon(sourceKey, recipe, key);
  } catch (reason) {
    patchSession({ planError: asLevelGridError(reason, 'planning').toRecord() });
  }
}

function measureSoon(sourceKey: string, recipe: Recipe, key: string): void {
  timer = setTimeout(() => {
    if (useSession.getState().arrived !== null) return;
    measuring?.cancel();
    const running = workers().ground(sourceKey, recipe);
    measuring = running;
    running.done.then(
      (ground) => {
        const { recipe: now } = useRecipe.getState();
        const session = useSession.getState();
        if (!now || !session.facts || session.sourceKey !== sourceKey) return;
        if (keyOf(sourceKey, now, session.facts) !== key) return;
        measuredKey = key;
        patchSession({ ground });
        replan();
      },
      (reason: unknown) => {
        showError(reason, 'measuring the ground');
      },
    );
  }, MEASURE_AFTER_MS);
}

/** Another source: what was measured says nothing about it. */
export function forgetMeasured(): void {
  measuredKey = '';
}

/** What was measured, to come back to together with the ground of the session. */
export function keepMeasured(): () => void {
  const key = measuredKey;
  return () => {
    measuredKey = key;
  };
}
