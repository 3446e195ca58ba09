import { useRecipe } from './recipe-store';
import { useSession } from './session';
import { saveProject, type StoredProject } from './storage';
import { showError } from './workers';

const SAVE_AFTER_MS = 300;

let timer: ReturnType<typeof setTimeout> | undefined;

function openProject(): StoredProject | null {
  const { projectId, projectName, facts, step, section, arrived } = useSession.getState();
  const { recipe } = useRecipe.getState();
  // a source that is still being read may turn out to be bad: nothing of it is kept yet
  if (projectId === null || !recipe || !facts || arrived !== null) return null;
  return { schema: 'project/2', id: projectId, name: projectName, file: facts.file, recipe, step, section };
}

/** Keeps the open project as it is. */
export async function saveNow(): Promise<void> {
  const value = openProject();
  if (!value) return;
  try {
    await saveProject(value);
  } catch (reason) {
    showError(reason, 'keeping the project');
  }
}

export function saveSoon(): void {
  clearTimeout(timer);
  timer = setTimeout(() => void saveNow(), SAVE_AFTER_MS);
}

/** A project that is being deleted is not kept again. */
export function saveNoMore(): void {
  clearTimeout(timer);
}
