import { infoOfStage, stageKey, type Chain } from '../chain';
import type { Entering, SourceFacts } from './facts';

/** What enters the fit, with what has been counted of it. */
export function enteringOf(chain: Chain, { info, stats, stages }: SourceFacts): Entering {
  const stage = chain.entering;
  const key = stageKey(stage);
  const found = stages && Object.hasOwn(stages, key) ? stages[key] : undefined;
  const untouched = stage === chain.source;
  return {
    key,
    stage,
    info: untouched ? info : infoOfStage(stage),
    spacing: stage.spacing,
    stats: untouched ? stats : (found?.stats ?? null),
    changes: untouched ? [] : (found?.changes ?? null),
  };
}
