import { asLevelGridError, LevelGridError, type EditCall } from '../core/base';
import { isHeightName, type RawLayout } from '../core/formats';
import type { ChainStep, SourceFacts } from '../core/plan';
import { applyEdit, renamed, rereads, withBestFit, withMesh, withRawLayout, withVolume } from '../core/edits';
import type { Box, MeshOptions, Overview, RasterInfo } from '../core/raster';
import { sourceReading, type Recipe, type SourceReading } from '../core/recipe';
import { DEMO } from './defaults';
import { refreshListing, stopSaving, saveNow } from './keeping';
import { isOpening, openSource } from './opening';
import { editRecipe, loadRecipe, projectName, useRecipe } from './recipe-store';
import { patchSession, useSession } from './session';
import {
  deleteProject,
  fingerprintOf,
  loadOrphan,
  loadOverview,
  loadProject,
  type KeptSource,
  type Orphan,
} from './storage';
import { announceChange } from './tabs';
import { showError } from './workers';

const freshId = (): string => crypto.randomUUID();

/** Reads the open source again with fresh workers; recipe and history stay. */
export function readAgain(): void {
  const { projectId, source, facts, step, section, keptSource } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (projectId === null || !source || !facts || !recipe || isOpening()) return;
  openSource({
    id: projectId,
    name: facts.file,
    file: facts.file,
    blob: source,
    reading: sourceReading(recipe),
    recipe: unchanged,
    step,
    section,
    kept: keptSource,
    overview: null,
  }).catch((reason: unknown) => {
    showError(reason, 'reading the source again');
  });
}

/** Opens a file as a project of its own. Throws what `openSource` throws. */
async function openFresh(file: File, reading: SourceReading = {}): Promise<boolean> {
  if (useSession.getState().following) throw editedElsewhere(file.name);
  return openSource({
    id: freshId(),
    name: file.name.replace(/\.[^.]*$/, '') || file.name,
    file: file.name,
    blob: file,
    reading,
    recipe: null,
    step: 'bring-in',
    section: null,
    kept: null,
    overview: null,
  });
}

/** Brings a file in as a project of its own. */
export async function bringIn(file: File, reading: SourceReading = {}): Promise<void> {
  try {
    await openFresh(file, reading);
  } catch (reason) {
    showError(reason, 'bringing the file in');
    if (refused(reason)) patchSession({ refusedFile: file });
  }
}

/** As many files become projects at once. */
const MOST_AT_ONCE = 32;

/**
 * Brings several files in, or what height files a folder holds: each becomes a project of its own, the last one stays
 * open, and one sentence says what became of them. Cancelling one, or opening something else, ends it.
 */
export async function bringInAll(files: readonly File[]): Promise<void> {
  const [only] = files;
  if (only && files.length === 1) return bringIn(only);
  const heights = files.filter((f) => isHeightName(f.name));
  const others = files.length - heights.length;
  const left: string[] = [];
  const came: string[] = [];
  for (const file of heights.slice(0, MOST_AT_ONCE)) {
    try {
      if (!(await openFresh(file))) break;
      came.push(file.name);
    } catch (reason) {
      const error = asLevelGridError(reason, 'bringing the file in');
      if (error.code === 'cancelled') break;
      left.push(`${file.name} (found ${error.found})`);
    }
  }
  const waiting = heights.length - came.length - left.length;
  const open = projectName(useRecipe.getState());
  patchSession({
    notice: [
      came.length === 0
        ? `None of ${files.length} files became a project.`
        : `${came.length} of ${files.length} files became ${came.length === 1 ? 'a project' : 'projects, each its own'}; ${open} is open, the Project menu lists them all.`,
      ...(left.length > 0
        ? [`Not read: ${left.slice(0, 3).join(', ')}${left.length > 3 ? ` and ${left.length - 3} more` : ''}.`]
        : []),
      ...(waiting > 0 ? [`${waiting} not begun.`] : []),
      ...(others > 0 ? [`${others} with other endings ${others === 1 ? 'was' : 'were'} left alone.`] : []),
    ].join(' '),
  });
}

export const editedElsewhere = (file: string): LevelGridError =>
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
  await bringIn(file, { raw });
}

/** Pictures that lose heights, which the browser itself can show. */
export const isLossyPicture = (file: File): boolean => /\.(jpe?g|webp)$/i.test(file.name);

/** Brings in what a lossy picture shows, as a PNG of the 8 bits that it has: nothing comes back that it has lost. */
export async function readLossyPicture(file: File): Promise<void> {
  patchSession({ error: null });
  try {
    const picture = await createImageBitmap(file, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' });
    const canvas = new OffscreenCanvas(picture.width, picture.height);
    canvas.getContext('2d')?.drawImage(picture, 0, 0);
    picture.close();
    const png = await canvas.convertToBlob({ type: 'image/png' });
    await bringIn(new File([png], `${file.name}.png`, { lastModified: file.lastModified }));
  } catch {
    const error = new LevelGridError('corrupt', {
      file: file.name,
      found: 'a picture that the browser can’t show',
      expected: 'a whole JPEG or WebP',
      remedy: 'Ask for the heights as PNG of 16 bits, TIFF or EXR where the picture came from.',
    });
    showError(error, 'reading the picture');
  }
}

/** Brings in what can be read of a damaged file: the rows from its first fault on are voids. */
export async function readWhatCanBe(file: File): Promise<void> {
  patchSession({ error: null });
  await bringIn(file, { partial: true });
}

/** A source as it can be opened again. */
interface SourceState {
  readonly blob: Blob;
  readonly file: string;
  readonly reading: SourceReading;
}

/** Sources that were replaced, and those that took their place, by their numbers in the document. */
const sources = new Map<number, SourceState>();
let lastSource = 0;

type Edit = (open: Recipe, facts: SourceFacts) => Recipe;

/**
 * Opens a source under the open project's recipe and history; `edit` makes the recipe one for it. False where another
 * took its place meanwhile. Throws what `openSource` throws.
 */
async function reopen(
  { blob, file, reading }: SourceState,
  kept: KeptSource | null,
  edit: Edit,
  source?: number,
): Promise<boolean> {
  const { projectId: id, step, section } = useSession.getState();
  if (id === null) return false;
  const named = source === undefined ? {} : { source };
  return openSource({
    id,
    name: file,
    file,
    blob,
    reading,
    recipe: edit,
    ...named,
    step,
    section,
    kept,
    overview: null,
  });
}

const unchanged = (recipe: Recipe): Recipe => recipe;

/** The source as it is open now. */
function openSourceState(): SourceState | null {
  const { source, facts } = useSession.getState();
  const { recipe } = useRecipe.getState();
  return source && facts && recipe ? { blob: source, file: facts.file, reading: sourceReading(recipe) } : null;
}

/** Another source in the place of the open one, with the recipe edited to suit it: a step in the history. */
export async function exchangeSource(to: SourceState, kept: KeptSource | null, edit: Edit): Promise<boolean> {
  const from = openSourceState();
  if (!from) return false;
  sources.set(useRecipe.getState().source, from);
  sources.set(++lastSource, to);
  return reopen(to, kept, edit, lastSource);
}

/**
 * A step in the history that leads to another source takes it along; where that can't be read the step is taken back: a
 * recipe never stands beside a source that it is not for.
 */
export function followHistory(to: number, takeBack: () => void): void {
  const source = sources.get(to);
  if (!source) return;
  patchSession({ replacement: null });
  reopen(source, null, unchanged).catch((reason: unknown) => {
    takeBack();
    showError(reason, 'reading the source again');
  });
}

/** Reads the current source again with another layout of its headerless file; every later choice stays. */
export const rereadAs = (raw: RawLayout | null): Promise<void> => reread((r) => withRawLayout(r, raw));

/** Of ground of another size the grid is chosen anew. */
const fitted = (recipe: Recipe, now: RasterInfo, before: RasterInfo): Recipe =>
  now.width === before.width && now.height === before.height ? recipe : withBestFit(recipe, now);

/** Bakes the mesh of the current source in another way. */
export const rereadBaked = (options: MeshOptions): Promise<void> =>
  reread((r, info, before) => fitted(withMesh(r, options), info, before));

/** Bakes it in a volume that stays, or in its own. */
export const rereadInVolume = (options: MeshOptions, volume: Box | null): Promise<void> =>
  reread((r, info, before) => fitted(withVolume(r, options, volume), info, before));

/** Does an edit by its name, such as a repair; where it is another reading of the source, that is read again. */
export async function doEdit(call: EditCall): Promise<void> {
  if (rereads(call)) return reread((r) => applyEdit(r, call));
  try {
    editRecipe((r) => applyEdit(r, call));
  } catch (reason) {
    showError(reason, 'changing the recipe');
  }
}

/** Reads the current source again in the way that the edited recipe says. */
async function reread(edit: (open: Recipe, info: RasterInfo, before: RasterInfo) => Recipe): Promise<void> {
  const open = openSourceState();
  const { recipe } = useRecipe.getState();
  const { keptSource, facts } = useSession.getState();
  if (!open || !recipe || !facts) return;
  try {
    const { info } = facts;
    const reading = sourceReading(edit(recipe, info, info));
    // what is confirmed as it was found needs no reading
    const { raw: _, ...rest } = sourceReading(recipe);
    if (facts.raw && JSON.stringify(reading) === JSON.stringify({ raw: facts.raw, ...rest })) {
      editRecipe((r) => edit(r, info, info));
      return;
    }
    await exchangeSource({ ...open, reading }, keptSource, (r, now) => edit(r, now.info, info));
  } catch (reason) {
    showError(reason, 'reading the source');
  }
}

/** Opens a kept project; `unasked`: only where nothing else is opened meanwhile. */
export async function openProject(id: string, unasked = false): Promise<void> {
  try {
    await saveNow();
    const { project, source } = await loadProject(id);
    const overview = await loadOverview(id, source, sourceReading(project.recipe));
    await openKept(project, source, project.source, overview, unasked);
  } catch (reason) {
    const orphan = reason instanceof LevelGridError && reason.code === 'source-missing' ? await loadOrphan(id) : null;
    if (orphan) patchSession({ orphan: { project: orphan, other: null } });
    else showError(reason, 'opening the project');
  }
}

function openKept(
  project: Orphan,
  blob: Blob,
  kept: KeptSource | null,
  overview: Overview | null,
  unasked = false,
): Promise<boolean> {
  const { id, file, recipe, typed, step, section } = project;
  return openSource({
    id,
    name: file,
    file,
    blob,
    reading: sourceReading(recipe),
    recipe,
    typed,
    step: step as ChainStep,
    section,
    kept,
    overview,
    unasked,
  });
}

/**
 * Gives a project that has lost its source a file again. Another file than the one it had is taken only when that is
 * asked for.
 */
export async function adopt(file: File | null, whatever = false): Promise<void> {
  const { orphan } = useSession.getState();
  if (!orphan || !file) return;
  const { project } = orphan;
  try {
    const same = project.source === null || (await fingerprintOf(file)) === project.source.print;
    if (!same && !whatever) {
      patchSession({ orphan: { project, other: file } });
      return;
    }
    await openKept({ ...project, file: file.name }, file, null, null);
    patchSession({ orphan: null });
  } catch (reason) {
    showError(reason, 'reading the source');
  }
}

/** Shows what is kept of the open project. Its source is read again only where that is another one, or read otherwise. */
export async function catchUp(): Promise<void> {
  const { projectId, keptSource, facts, arrived } = useSession.getState();
  if (projectId === null) return;
  try {
    const { project } = await loadProject(projectId);
    const open = useRecipe.getState();
    const sameSource =
      arrived === null &&
      keptSource?.key === project.source.key &&
      JSON.stringify(sourceReading(project.recipe)) === JSON.stringify(open.recipe && sourceReading(open.recipe));
    if (!facts || !sameSource) await openProject(projectId);
    else if (JSON.stringify([open.recipe, open.typed]) !== JSON.stringify([project.recipe, project.typed])) {
      loadRecipe(project.recipe, project.typed);
      patchSession({ step: project.step as ChainStep, section: project.section });
    }
  } catch (reason) {
    showError(reason, 'opening the project');
  }
}

export async function openDemo(unasked = false): Promise<void> {
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
      reading: {},
      recipe: DEMO.recipe,
      step: 'fit',
      section: null,
      kept: null,
      overview: null,
      unasked,
    });
  } catch (reason) {
    showError(reason, 'opening the demo');
  }
}

/** Deletes a project; where it is the open one, another is opened, or the demo. */
export async function removeProject(id: string): Promise<void> {
  try {
    stopSaving();
    // what was never kept is only closed
    if (useSession.getState().projects.some((p) => p.id === id)) await deleteProject(id);
    announceChange({ kind: 'deleted', id });
    await refreshListing();
    const { projects } = useSession.getState();
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
  editRecipe((r) => renamed(r, name));
}

/** The open project was deleted in another tab: it is still here, but kept no more. */
export function announceDeletion(): void {
  stopSaving();
  patchSession({ keptSource: null });
  showError(
    new LevelGridError('not-found', {
      found: `that ${projectName(useRecipe.getState())} was deleted in another tab`,
      expected: 'a project that is kept',
      remedy: 'It stays open here, but is no longer kept: save its pack, or open another project.',
    }),
    'keeping the project',
  );
}
