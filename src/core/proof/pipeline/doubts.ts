import type { JobContext } from '../../base';
import { doubtsOf } from '../../mosaic';
import type { Recipe } from '../../recipe';
import type { Reference } from './reference';
import type { ProofCheck } from '../types';

/**
 * What there is to doubt in how the files of a source were put together, though the recipe may say that they lie
 * so: told with the pack, as it was told when they were brought in.
 */
export async function doubtChecks(
  { parts, placed }: Reference['opened'],
  { source, steps }: Recipe,
  job: JobContext,
): Promise<ProofCheck[]> {
  const lying = source.files ?? placed;
  if (!parts || !lying) return [];
  const blended = steps.some((s) => s.op === 'blend' && !s.off);
  const doubts = await doubtsOf(parts, lying, job);
  return doubts.map(({ about, message }): ProofCheck => ({
    id: `source-${about}`,
    step: 'source',
    state: blended && about === 'seams' ? 'note' : 'caution',
    message: blended && about === 'seams' ? `${message} They are blended.` : message,
  }));
}
