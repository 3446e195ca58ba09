import { LevelGridError } from '../core/base';
import type { RawLayout } from '../core/formats';
import type { ChainStep } from '../core/plan';
import { parseRecipe } from '../core/recipe';
import { DEMO } from './defaults';
import { saveNoMore, saveNow } from './keeping';
import { isOpening, openSource } from './opening';
import { editRecipe, loadRecipe, useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import { deleteProject, listProjects, loadOverview, loadProject } from './storage';
import { showError } from './workers';

const freshId = (): string => crypto.randomUUID();

/** Reads the open source again with fresh workers; recipe and history stay. */
export function readAgain(): void {
  const { projectId, projectName, source, facts, layout, step, section } = useSession.getState();
  if (projectId === null || !source || !facts || isOpening()) return;
  openSource({
    id: projectId,
    name: projectName,
    file: facts.file,
    blob: source,
    raw: layout,
    recipe: 'as it is',
    step,
    section,
    keep: false,
    overview: null,
  }).catch((reason: unknown) => {
    showError(reason, 'reading the source again');
  });
}

/** Brings a file in as a project of its own. */
export async function bringIn(file: File, raw: RawLayout | null = null): Promise<void> {
  try {
    const name = file.name.replace(/\.[^.]*$/, '') || file.name;
    await openSource({
      id: freshId(),
      name,
      file: file.name,
      blob: file,
      raw,
      recipe: null,
      step: 'bring-in',
      section: null,
      keep: true,
      overview: null,
    });
  } catch (reason) {
    showError(reason, 'bringing the file in');
  }
}

/** Reads the current source again, as another file or with another RAW layout; every later choice stays. */
export async function rereadSource(file: File | null, raw: RawLayout | null): Promise<void> {
  const { projectId, projectName, source, facts, section } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (projectId === null || !source || !facts || !recipe) return;
  const { raw: _, ...rest } = recipe.source;
  try {
    await openSource({
      id: projectId,
      name: projectName,
      file: file?.name ?? facts.file,
      blob: file ?? source,
      raw,
      recipe: parseRecipe({ ...recipe, source: raw ? { ...rest, raw } : rest }),
      step: 'bring-in',
      section,
      keep: file !== null,
      overview: null,
    });
  } catch (reason) {
    showError(reason, 'reading the source');
  }
}

export async function openProject(id: string): Promise<void> {
  try {
    await saveNow();
    const { project, source } = await loadProject(id);
    const raw = project.recipe.source.raw ?? null;
    await openSource({
      id: project.id,
      name: project.name,
      file: project.file,
      blob: source,
      raw,
      recipe: project.recipe,
      step: project.step as ChainStep,
      section: project.section,
      keep: false,
      overview: await loadOverview(id, source, raw),
    });
  } catch (reason) {
    showError(reason, 'opening the project');
  }
}

export async function openDemo(): Promise<void> {
  try {
    const response = await fetch(DEMO.url);
    if (!response.ok)
      throw new LevelGridError('not-found', {
        file: DEMO.file,
        found: 'no demo data',
        expected: 'the demo terrain beside the application',
        remedy: 'Start with npm run demo, which makes it.',
      });
    await openSource({
      id: DEMO.id,
      name: DEMO.name,
      file: DEMO.file,
      blob: await response.blob(),
      raw: null,
      recipe: DEMO.recipe,
      step: 'fit',
      section: null,
      keep: true,
      overview: null,
    });
  } catch (reason) {
    showError(reason, 'opening the demo');
  }
}

/** Deletes a project; where it is the open one, another is opened, or the demo. */
export async function removeProject(id: string): Promise<void> {
  try {
    saveNoMore();
    await deleteProject(id);
    const projects = await listProjects();
    patchSession({ projects });
    if (useSession.getState().projectId !== id) return;
    patchSession({ projectId: null, sourceKey: null, facts: null, plan: null, held: false });
    loadRecipe(null);
    const next = projects[0];
    if (next) await openProject(next.id);
    else await openDemo();
  } catch (reason) {
    showError(reason, 'deleting the project');
  }
}

export function renameProject(name: string): void {
  patchSession({ projectName: name });
  editRecipe((r) => ({ ...r, name }));
}
