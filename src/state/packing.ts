import type { Recipe } from '../core/recipe';
import { draftRecipe } from '../core/run';
import type { Running } from '../workers/client';
import { useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import { showError, workers } from './workers';

async function asJob<T>(
  label: string,
  start: (report: (done: number, total: number) => void) => Running<T>,
): Promise<T> {
  useSession.getState().job?.cancel();
  const running = start((done, total) => {
    const { job } = useSession.getState();
    if (job?.label === label) patchSession({ job: { ...job, progress: done / total } });
  });
  patchSession({ job: { label, progress: 0, started: Date.now(), cancel: running.cancel } });
  try {
    return await running.done;
  } finally {
    if (useSession.getState().job?.label === label) patchSession({ job: null });
  }
}

export const recipeKey = (recipe: Recipe | null): string => JSON.stringify(recipe);

/** Writes the pack into memory and proves it. Cancelled or failed, the one before stays. */
export async function makePack(): Promise<boolean> {
  const { sourceKey, arrived, pack: packBefore, proof: proofBefore } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (sourceKey === null || arrived !== null || !recipe) return false;
  try {
    const result = await asJob('Writing the pack', (report) => workers().pack(sourceKey, recipe, report));
    patchSession({ pack: { ...result, key: recipeKey(recipe) }, proof: null });
    if (await provePack()) return true;
    patchSession({ pack: packBefore, proof: proofBefore });
  } catch (reason) {
    showError(reason, 'writing the pack');
  }
  return false;
}

/** Proves the pack with the values as typed; false where that could not be finished. */
export async function provePack(): Promise<boolean> {
  const { sourceKey, pack, typed } = useSession.getState();
  if (sourceKey === null || !pack) return false;
  try {
    const result = await asJob('Proving the pack', (report) => workers().prove(sourceKey, pack, { ...typed }, report));
    patchSession({ proof: { ...result, key: pack.key } });
    return true;
  } catch (reason) {
    showError(reason, 'proving the pack');
    return false;
  }
}

/** Writes and proves a draft on `vertices` per side of a tile. It has a state of its own: the pack is not touched. */
export async function makeDraft(vertices: number): Promise<boolean> {
  const { sourceKey, arrived, facts } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (sourceKey === null || arrived !== null || !recipe || !facts) return false;
  try {
    const used = draftRecipe(recipe, vertices);
    const result = await asJob('Writing the draft', (report) => workers().pack(sourceKey, used, report));
    const { proof } = await asJob('Proving the draft', (report) => workers().prove(sourceKey, result, {}, report));
    patchSession({ draft: { ...result, key: recipeKey(recipe), proof, vertices } });
    return true;
  } catch (reason) {
    showError(reason, 'writing the draft');
    return false;
  }
}
