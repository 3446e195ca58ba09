import { asLevelGridError } from '../core/base';
import { groundKey, plan, type Plan, type SourceFacts } from '../core/plan';
import type { Recipe } from '../core/recipe';
import { withStage } from '../core/run';
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
    const { entering } = next.work;
    // what enters the fit is made first: the ground is measured of it
    if (facts.stats && entering.stats === null && !stopsSteps(next)) makeStage(sourceKey, recipe, entering.key);
    else if ((current === null || uncounted) && facts.stats && next.refusals.length === 0)
      measureSoon(sourceKey, recipe, key);
  } catch (reason) {
    patchSession({ planError: asLevelGridError(reason, 'planning').toRecord() });
  }
}

/** A step that can't be done: nothing enters the fit. */
const stopsSteps = ({ refusals }: Plan): boolean =>
  refusals.some(({ code }) => code === 'step-order' || code === 'mosaic');

/** The stage that is being made, and for what. */
let making: { readonly for: string; readonly cancel: () => void } | null = null;

/** Has the workers make what enters the fit; a newer choice ends the one before. */
function makeStage(sourceKey: string, recipe: Recipe, key: string): void {
  const wanted = `${sourceKey} ${key}`;
  if (making?.for === wanted || useSession.getState().arrived !== null) return;
  making?.cancel();
  const running = workers().stage(sourceKey, recipe);
  making = { for: wanted, cancel: running.cancel };
  const mine = (): boolean => making?.for === wanted;
  running.done.then(
    (stage) => {
      if (!mine()) return;
      making = null;
      const { facts, sourceKey: open } = useSession.getState();
      if (!stage || !facts || open !== sourceKey) return;
      patchSession({ stage: { key, extremes: stage.extremes }, facts: withStage(facts, key, stage.found) });
    },
    (reason: unknown) => {
      if (mine()) making = null;
      showError(reason, 'doing the steps');
    },
  );
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
