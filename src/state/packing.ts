import { draftRecipe } from '../core/edits';
import { proofLines, type Proof } from '../core/proof';
import type { Recipe } from '../core/recipe';
import type { SourceFacts } from '../core/plan';
import { PROOF_PAGES } from '../core/run';
import type { PackResult } from '../workers/protocol';
import { asJob, cancelledError } from './jobs';
import { useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import { showError, workers } from './workers';

/** What a pack is made of: these choices and this content. Equal where a pack of one is a pack of the other. */
export const packKey = (recipe: Recipe | null, facts: Pick<SourceFacts, 'content'> | null): string =>
  JSON.stringify([facts?.content ?? null, recipe]);

const keyNow = (recipe: Recipe): string => packKey(recipe, useSession.getState().facts);

const PROVING = 'Proving the pack';
const PROVING_AGAIN = 'Proving the pack again';

/** What was made for a source is for nobody else: throws where another one is open by now. */
function stillFor(sourceKey: string): void {
  if (useSession.getState().sourceKey !== sourceKey) throw cancelledError();
}

/** Writes the pack into memory and proves it. Cancelled or failed, the one before stays. */
export async function makePack(): Promise<boolean> {
  const { sourceKey, arrived, pack: packBefore, proof: proofBefore } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (sourceKey === null || arrived !== null || !recipe) return false;
  try {
    const result = await asJob('Writing the pack', (report) => workers().pack(sourceKey, recipe, report));
    stillFor(sourceKey);
    patchSession({ pack: { ...result, key: keyNow(recipe) }, proof: null });
    if (await provePack()) return true;
    const now = useSession.getState();
    // the pack stays where its proof only made room for one with newer values
    if (now.sourceKey === sourceKey && now.job?.label !== PROVING_AGAIN)
      patchSession({ pack: packBefore, proof: proofBefore });
  } catch (reason) {
    showError(reason, 'writing the pack');
  }
  return false;
}

/** Proves the pack with the values as typed; false where that could not be finished, or newer values took its place. */
export async function provePack(): Promise<boolean> {
  const { sourceKey, pack, job } = useSession.getState();
  const { typed } = useRecipe.getState();
  if (sourceKey === null || !pack) return false;
  const label = job?.label === PROVING || job?.label === PROVING_AGAIN ? PROVING_AGAIN : PROVING;
  try {
    const result = await asJob(label, (report) => workers().prove(sourceKey, pack.files, { ...typed }, report));
    stillFor(sourceKey);
    const told = Object.keys(typed).length === 0 ? await withProof(pack, result.proof) : pack;
    stillFor(sourceKey);
    // a newer pack keeps its own pages
    const now = useSession.getState().pack;
    patchSession({ pack: now === pack ? told : now, proof: { ...result, key: pack.key } });
    return true;
  } catch (reason) {
    showError(reason, 'proving the pack');
    return false;
  }
}

/** The pack with its printed pages telling what the proof found; what was typed otherwise is no fault of the pack. */
async function withProof<P extends PackResult>(pack: P, proof: Proof): Promise<P> {
  const lines = proofLines(proof, pack.document.source.file);
  const files = new Map(pack.files);
  for (const [name, tell] of PROOF_PAGES) {
    const page = await files.get(name)?.text();
    if (page !== undefined) files.set(name, new Blob([tell(page, lines)]));
  }
  return { ...pack, files };
}

/** Writes and proves a draft on `vertices` per side of a tile. It has a state of its own: the pack is not touched. */
export async function makeDraft(vertices: number): Promise<boolean> {
  const { sourceKey, arrived, facts } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (sourceKey === null || arrived !== null || !recipe || !facts) return false;
  try {
    const used = draftRecipe(recipe, vertices);
    const result = await asJob('Writing the draft', (report) => workers().pack(sourceKey, used, report));
    stillFor(sourceKey);
    const { proof } = await asJob('Proving the draft', (report) =>
      workers().prove(sourceKey, result.files, {}, report),
    );
    stillFor(sourceKey);
    patchSession({ draft: { ...(await withProof(result, proof)), key: keyNow(recipe), proof, vertices } });
    return true;
  } catch (reason) {
    showError(reason, 'writing the draft');
    return false;
  }
}
