import { asLevelGridError, type ErrorRecord } from '../core/base';
import { useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import { listProjects, noteLatest, saveProject, type StoredProject } from './storage';
import { announceChange } from './tabs';

const SAVE_AFTER_MS = 300;

let timer: ReturnType<typeof setTimeout> | undefined;

function openProject(): StoredProject | null {
  const { projectId, facts, step, section, arrived, keptSource, following } = useSession.getState();
  const { recipe, typed } = useRecipe.getState();
  // a source that is still being read may turn out to be bad: nothing of it is kept yet
  if (projectId === null || !recipe || !facts || arrived !== null) return null;
  // a recipe is never kept beside bytes that are not its own, nor over what another tab edits
  if (!keptSource || following) return null;
  return {
    schema: 'project/4',
    id: projectId,
    file: facts.file,
    recipe,
    typed,
    source: keptSource,
    step,
    section,
  };
}

/** The list of projects as it is kept; where nothing can be read it stays as it was. */
export async function refreshListing(): Promise<void> {
  const projects = await listProjects().catch(() => null);
  if (projects) patchSession({ projects });
}

/** Why the open project is not kept, as a notice. */
export const unkeptText = ({ found, remedy }: ErrorRecord): string =>
  `This project is not kept: found ${found}. ${remedy}`;

/** Says once that the open project is not kept, and why; the page shows it until it is kept again. */
export function notKept(reason: unknown, doing: string): void {
  const unkept = asLevelGridError(reason, doing).toRecord();
  patchSession({ unkept, ...(useSession.getState().unkept ? {} : { notice: unkeptText(unkept) }) });
}

/** Keeps the open project as it is. */
export async function saveNow(): Promise<void> {
  const value = openProject();
  if (!value) return;
  noteLatest(value);
  try {
    await saveProject(value);
    patchSession({ unkept: null });
    const { projects } = useSession.getState();
    if (!projects.some((p) => p.id === value.id && p.name === value.recipe.name)) await refreshListing();
    announceChange({ kind: 'saved', id: value.id });
  } catch (reason) {
    notKept(reason, 'keeping the project');
  }
}

/** Keeps the open project once changes pause; what it is by now is noted at once, for a page that ends before that. */
export function saveSoon(): void {
  clearTimeout(timer);
  const value = openProject();
  if (value) noteLatest(value);
  timer = setTimeout(() => void saveNow(), SAVE_AFTER_MS);
}

/** A project that is being deleted is not kept again. */
export function stopSaving(): void {
  clearTimeout(timer);
}
