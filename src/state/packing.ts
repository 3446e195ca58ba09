import { parseRecipe, type Recipe } from '../core/recipe';
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

/** Writes the pack into memory and proves it. `draft` is the rung of a draft pack. Cancelled or failed, none is kept. */
export async function makePack(draft: number | null = null): Promise<boolean> {
  const { sourceKey, arrived, pack: packBefore, proof: proofBefore } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (sourceKey === null || arrived !== null || !recipe) return false;
  try {
    const used = draft === null ? recipe : draftRecipe(recipe, draft);
    const result = await asJob('Writing the pack', (report) => workers().pack(sourceKey, used, report));
    patchSession({ pack: { ...result, key: recipeKey(recipe), draft: draft !== null }, proof: null });
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
    const text = await pack.files.get('recipe.json')?.text();
    const recipe = parseRecipe(JSON.parse(text ?? 'null'));
    const result = await asJob('Proving the pack', (report) =>
      workers().prove(sourceKey, recipe, pack, { ...typed }, report),
    );
    patchSession({ proof: { ...result, key: pack.key } });
    return true;
  } catch (reason) {
    showError(reason, 'proving the pack');
    return false;
  }
}
