import { followHistory, openDemo, openProject, readAgain } from './projects';
import { saveNow, saveSoon } from './keeping';
import { replan } from './planning';
import { onHistoryStep, useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import { currentProject, listProjects } from './storage';
import { whenWorkersDie } from './workers';

let started = false;

/** Wires the stores together and opens what was open last, or the demo. */
export async function start(): Promise<void> {
  if (started) return;
  started = true;
  whenWorkersDie(readAgain);
  onHistoryStep(followHistory);
  useRecipe.subscribe(() => {
    replan();
    saveSoon();
  });
  useSession.subscribe((now, before) => {
    if (now.facts !== before.facts) replan();
    if (now.step !== before.step || now.section !== before.section || now.projectName !== before.projectName)
      saveSoon();
  });
  addEventListener('pagehide', () => void saveNow());
  patchSession({ projects: await listProjects() });
  const id = await currentProject();
  if (id !== null && useSession.getState().projects.some((p) => p.id === id)) await openProject(id);
  if (useSession.getState().projectId === null) await openDemo();
  patchSession({ ready: true });
}
