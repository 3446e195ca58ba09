import type { Recipe } from '../../recipe';
import type { Reference } from './reference';
import type { ProofCheck } from '../types';

/**
 * What there is to doubt in how the files of a source were put together, though the recipe may say that they lie so: told
 * with the pack, as it was told when they were brought in.
 */
export function doubtChecks({ counted }: Reference, { steps }: Recipe): ProofCheck[] {
  const blended = steps.some((s) => s.op === 'blend' && !s.off);
  return counted.facts.warnings
    .filter((w) => w.code.startsWith('mosaic'))
    .map(({ code, message, seams }): ProofCheck => {
      // a step that is spread over some samples is seen to
      const seen = blended && seams !== undefined;
      return {
        id: `source-${code}`,
        step: 'source',
        state: seen ? 'note' : 'caution',
        message: seen ? `${message} They are blended.` : message,
      };
    });
}
