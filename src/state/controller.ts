import { catchUp, followHistory, openDemo, openProject, readAgain, announceDeletion } from './projects';
import { notKept, refreshListing, saveNow, saveSoon } from './keeping';
import { lookForChange } from './origin';
import { provePack } from './packing';
import { replan } from './planning';
import { onHistoryStep, useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import { currentProject, keepLatest, storageFault } from './storage';
import { joinTabs } from './tabs';
import { whenWorkersDie } from './workers';

let started = false;

/** Wires the stores together and opens what was open last, or the demo. */
export async function start(): Promise<void> {
  if (started) return;
  started = true;
  whenWorkersDie(readAgain);
  onHistoryStep(followHistory);
  useRecipe.subscribe((now, before) => {
    if (now.recipe !== before.recipe) replan();
    saveSoon();
    // other values are another proof
    if (now.typed !== before.typed && now.recipe === before.recipe && useSession.getState().pack) void provePack();
  });
  useSession.subscribe((now, before) => {
    if (now.facts !== before.facts) replan();
    if (now.step !== before.step || now.section !== before.section) saveSoon();
  });
  addEventListener('pagehide', () => void saveNow());
  // a page that is only hidden may never be heard of again
  document.addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'hidden') void saveNow();
  });
  // whoever comes back may have saved the file elsewhere
  addEventListener('focus', () => void lookForChange());
  await joinTabs({
    saved: (id) => {
      if (useSession.getState().projectId === id) void catchUp();
    },
    deleted: (id) => {
      if (useSession.getState().projectId === id) announceDeletion();
    },
    // what the other tab kept last is what goes on here
    promoted: () => void catchUp(),
  });
  const fault = await storageFault();
  if (fault) notKept(fault, 'looking for projects');
  if (!useSession.getState().following) await keepLatest().catch(() => undefined);
  await refreshListing();
  const id = await currentProject().catch(() => null);
  if (id !== null && useSession.getState().projects.some((p) => p.id === id)) await openProject(id, true);
  if (useSession.getState().projectId === null) await openDemo(true);
  patchSession({ ready: true });
}
