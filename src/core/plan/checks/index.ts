import type { PlanCheck } from '../document';
import { budgetChecks } from './budget';
import { fitChecks } from './fit';
import { heightChecks } from './height';
import type { ChecksInput, Say } from './input';
import { sourceChecks } from './source';
import { splitChecks } from './split';
import { stepsChecks } from './steps';
import { targetChecks } from './target';

export { elevationsOfCodes } from './height';
export { refusalCheck } from './refusal';
export { percent } from './words';

/** Every mistake that this plan could hold, with its number and, where there is one, its repair. */
export function planChecks(input: ChecksInput): PlanCheck[] {
  const out: PlanCheck[] = [];
  const say: Say = (step, id, state, message, { spot, repair } = {}) => {
    out.push({ id, state, message, step, ...(spot ? { spot } : {}), ...(repair ? { repair } : {}) });
  };
  sourceChecks(input, say);
  stepsChecks(input, say);
  fitChecks(input, say);
  targetChecks(input, say);
  budgetChecks(input, say);
  heightChecks(input, say);
  splitChecks(input, say);
  return out;
}
