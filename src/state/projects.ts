import { LevelGridError } from '../core/base';
import type { RawLayout } from '../core/formats';
import type { ChainStep } from '../core/plan';
import { forReplacement, renamed, withRawLayout, type Keeps } from '../core/edits';
import type { Recipe } from '../core/recipe';
import { DEMO } from './defaults';
import { saveNoMore, saveNow } from './keeping';
import { isOpening, openSource } from './opening';
import { editRecipe, loadRecipe, useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import { deleteProject, listProjects, loadOverview, loadProject, type KeptSource } from './storage';
import { tellOthers } from './tabs';
import { showError } from './workers';

const freshId = (): string => crypto.randomUUID();

/** Reads the open source again with fresh workers; recipe and history stay. */
export function readAgain(): void {
  const { projectId, projectName, source, facts, layout, step, section, keptSource } = useSession.getState();
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
    kept: keptSource,
    overview: null,
  }).catch((reason: unknown) => {
    showError(reason, 'reading the source again');
  });
}

/** Brings a file in as a project of its own. */
export async function bringIn(file: File, raw: RawLayout | null = null): Promise<void> {
  try {
    if (useSession.getState().following) throw editedElsewhere(file.name);
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
      kept: null,
      overview: null,
    });
  } catch (reason) {
    showError(reason, 'bringing the file in');
    if (refused(reason)) patchSession({ refusedFile: file });
  }
}

const editedElsewhere = (file: string): LevelGridError =>
  new LevelGridError('busy', {
    file,
    found: 'another tab that edits',
    expected: 'to bring files in where projects are edited',
    remedy: 'Choose “Edit here instead” first, or bring it in over there.',
  });

/** Faults of a file that may be a headerless one after all. */
function refused(reason: unknown): boolean {
  const asRaw: readonly string[] = [
    'unknown-format',
    'raw-length',
    'raw-layout',
    'corrupt',
    'checksum',
    'truncated',
    'unsupported',
  ];
  return reason instanceof LevelGridError && asRaw.includes(reason.code);
}

/** Brings in a file that was refused, read in the way that was typed. */
export async function readAsRaw(file: File, raw: RawLayout): Promise<void> {
  patchSession({ error: null });
  await bringIn(file, raw);
}

/** A source as it can be opened again. */
interface SourceState {
  readonly blob: Blob;
  readonly file: string;
  readonly raw: RawLayout | null;
}

/** Sources that took the place of others, with the recipes before and after: a step in the history takes them along. */
const replacements: {
  readonly before: Recipe;
  readonly after: Recipe;
  readonly from: SourceState;
  readonly to: SourceState;
}[] = [];

/** Opens a source under the open project's recipe and history. Throws what `openSource` throws. */
async function reopen({ blob, file, raw }: SourceState, kept: KeptSource | null): Promise<void> {
  const { projectId, projectName, step, section } = useSession.getState();
  if (projectId === null) return;
  await openSource({
    id: projectId,
    name: projectName,
    file,
    blob,
    raw,
    recipe: 'as it is',
    step,
    section,
    kept,
    overview: null,
  });
}

/** A step in the history that crosses a replacement takes the source along. */
export function followHistory(from: Recipe | null, to: Recipe | null): void {
  const back = replacements.find((r) => r.after === from && r.before === to);
  const forth = replacements.find((r) => r.before === from && r.after === to);
  const source = back?.from ?? forth?.to;
  if (!source) return;
  patchSession({ replacement: null });
  reopen(source, null).catch((reason: unknown) => {
    showError(reason, 'reading the source again');
  });
}

/** Another file in the place of the source. Every choice stays; of another size, the ground keeps its extent. */
export async function replaceSource(file: File): Promise<void> {
  const { source, facts } = useSession.getState();
  const { recipe: before } = useRecipe.getState();
  if (!source || !facts || !before) return;
  const from: SourceState = { blob: source, file: facts.file, raw: before.source.raw ?? null };
  const to: SourceState = { blob: file, file: file.name, raw: null };
  try {
    await reopen(to, null);
    const now = useSession.getState().facts;
    if (!now) return;
    const { width, height } = facts.info;
    const after = { width: now.info.width, height: now.info.height };
    editRecipe((r) => forReplacement(withRawLayout(r, null), { width, height }, after, 'extent'));
    const replaced = useRecipe.getState().recipe;
    if (replaced && replaced !== before) replacements.push({ before, after: replaced, from, to });
    patchSession({
      step: 'bring-in',
      replacement: { before: { width, height, spacing: before.source.spacing }, after, keeps: 'extent' },
    });
  } catch (reason) {
    showError(reason, 'reading the source');
  }
}

/** What a replaced source keeps: its extent or its spacing. */
export function setKeeps(keeps: Keeps): void {
  const { replacement } = useSession.getState();
  if (!replacement) return;
  const { before, after } = replacement;
  editRecipe((r) => forReplacement({ ...r, source: { ...r.source, spacing: before.spacing } }, before, after, keeps));
  patchSession({ replacement: { ...replacement, keeps } });
}

/** Reads the current source again with another layout of its headerless file; every later choice stays. */
export async function rereadAs(raw: RawLayout): Promise<void> {
  const { source, facts } = useSession.getState();
  const { recipe: before } = useRecipe.getState();
  if (!source || !facts || !before) return;
  const file = facts.file;
  try {
    await reopen({ blob: source, file, raw }, useSession.getState().keptSource);
    editRecipe((r) => withRawLayout(r, raw));
    const after = useRecipe.getState().recipe;
    if (after && after !== before)
      replacements.push({
        before,
        after,
        from: { blob: source, file, raw: before.source.raw ?? null },
        to: { blob: source, file, raw },
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
      kept: project.source,
      overview: await loadOverview(id, source, raw),
    });
  } catch (reason) {
    showError(reason, 'opening the project');
  }
}

/** Opens the project anew where something else is kept of it than what is open; what is the same goes on undisturbed. */
export async function catchUp(): Promise<void> {
  const { projectId, projectName, keptSource } = useSession.getState();
  if (projectId === null) return;
  try {
    const { project } = await loadProject(projectId);
    const open = JSON.stringify([useRecipe.getState().recipe, projectName, keptSource?.key]);
    if (open !== JSON.stringify([project.recipe, project.name, project.source.key])) await openProject(projectId);
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
      kept: null,
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
    tellOthers({ kind: 'deleted', id });
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
  editRecipe((r) => renamed(r, name));
}

/** The open project was deleted in another tab: it is still here, but kept no more. */
export function tellDeleted(): void {
  saveNoMore();
  const { projectName } = useSession.getState();
  patchSession({ keptSource: null });
  showError(
    new LevelGridError('not-found', {
      found: `that ${projectName} was deleted in another tab`,
      expected: 'a project that is kept',
      remedy: 'It stays open here, but is no longer kept: save its pack, or open another project.',
    }),
    'keeping the project',
  );
}
