import { asLevelGridError, LevelGridError } from '../core/base';
import type { RawLayout } from '../core/formats';
import { plan } from '../core/plan';
import { parseRecipe, type Recipe } from '../core/recipe';
import { draftRecipe } from '../core/run';
import { WorkerClient, type Running } from '../workers/client';
import { DEMO, freshRecipe } from './defaults';
import { editRecipe, keepRecipe, loadRecipe, useRecipe } from './recipe-store';
import { patchSession, useSession, type SectionLine } from './session';
import {
  currentProject,
  deleteProject,
  listProjects,
  loadProject,
  saveProject,
  saveSource,
  type StoredProject,
} from './storage';
import type { ChainStep } from '../core/plan';

/** How long the recipe must rest before its ground is measured. */
const MEASURE_AFTER_MS = 150;
const SAVE_AFTER_MS = 300;
/** What has been read so far is drawn at most this often. */
const SHOW_EVERY_MS = 120;

let client: WorkerClient | null = null;
const workers = (): WorkerClient => (client ??= new WorkerClient(revive));
export { workers };

/** After the death of a worker: others take its place and read the source again; recipe and history stay. */
function revive(): void {
  client?.end();
  client = null;
  const { projectId, projectName, source, facts, layout, step, section } = useSession.getState();
  if (projectId === null || !source || !facts || arriving) return;
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
  }).catch((reason: unknown) => {
    showError(reason, 'reading the source again');
  });
}

/** Shows an error; nothing else changes. */
export function showError(reason: unknown, doing: string): void {
  const error = asLevelGridError(reason, doing);
  if (error.code === 'cancelled') return;
  patchSession({ error: error.toRecord() });
}

// ---- plan and measurement -------------------------------------------------------------------------------------

let measuredKey = '';
let measuring: { key: string; running: Running<unknown> } | null = null;
let measureTimer: ReturnType<typeof setTimeout> | undefined;

/** What the fitted ground depends on: choices that leave it alone leave its statistics alone. */
function groundKey(sourceKey: string, recipe: Recipe): string {
  const { size, method, filter, clamp, at, rim } = recipe.fit;
  return JSON.stringify([sourceKey, size, method, filter, clamp, at, method === 'pad' ? [rim, recipe.source] : null]);
}

/** Works the plan out anew; runs after every change of recipe, source or statistics. */
function replan(): void {
  const { recipe } = useRecipe.getState();
  const { facts, ground, sourceKey } = useSession.getState();
  if (!recipe || !facts || sourceKey === null) {
    patchSession({ plan: null });
    return;
  }
  try {
    const key = groundKey(sourceKey, recipe);
    const current = measuredKey === key ? ground : null;
    const next = plan(recipe, facts, current);
    patchSession({ plan: next, planError: null });
    const { clipped } = next.document.height;
    const uncounted = current !== null && (clipped.low === null || clipped.high === null);
    if ((current === null || uncounted) && facts.stats && next.refusals.length === 0)
      scheduleMeasure(sourceKey, recipe, key);
  } catch (reason) {
    patchSession({ planError: asLevelGridError(reason, 'planning').toRecord() });
  }
}

function scheduleMeasure(sourceKey: string, recipe: Recipe, key: string): void {
  clearTimeout(measureTimer);
  measureTimer = setTimeout(() => {
    if (useSession.getState().arrived !== null) return;
    measuring?.running.cancel();
    const running = workers().ground(sourceKey, recipe);
    measuring = { key, running };
    running.done.then(
      (ground) => {
        const { recipe: now } = useRecipe.getState();
        if (!now || useSession.getState().sourceKey !== sourceKey || groundKey(sourceKey, now) !== key) return;
        measuredKey = key;
        patchSession({ ground });
        replan();
      },
      (reason: unknown) => {
        showError(reason, 'measuring the ground');
      },
    );
  }, MEASURE_AFTER_MS);
}

// ---- keeping --------------------------------------------------------------------------------------------------

let saveTimer: ReturnType<typeof setTimeout> | undefined;

function storedProject(): StoredProject | null {
  const { projectId, projectName, facts, step, section, arrived } = useSession.getState();
  const { recipe } = useRecipe.getState();
  // a source that is still being read may turn out to be bad: nothing of it is kept yet
  if (projectId === null || !recipe || !facts || arrived !== null) return null;
  return { schema: 'project/1', id: projectId, name: projectName, file: facts.file, recipe, step, section };
}

async function saveNow(): Promise<void> {
  const value = storedProject();
  if (!value) return;
  try {
    await saveProject(value);
  } catch (reason) {
    showError(reason, 'keeping the project');
  }
}

function saveSoon(): void {
  clearTimeout(saveTimer);
  saveTimer = setTimeout(() => void saveNow(), SAVE_AFTER_MS);
}

// ---- projects -------------------------------------------------------------------------------------------------

/** The source that is being read, and the way back to what was open before it. */
let arriving: {
  readonly key: string;
  /** The source that was open before, held until the new one is whole. */
  readonly before: string | null;
  readonly cancel: () => void;
  readonly restore: () => void;
} | null = null;
let sources = 0;

interface Opening {
  readonly id: string;
  readonly name: string;
  readonly file: string;
  readonly blob: Blob;
  readonly raw: RawLayout | null;
  /** Null: a fresh recipe for the facts of the file; `as it is`: the one that is open, with its undo. */
  readonly recipe: Recipe | 'as it is' | null;
  readonly step: ChainStep;
  readonly section: SectionLine | null;
  /** The source's bytes must be kept first. */
  readonly keep: boolean;
}

/** What is open, as a way to have it again. */
function keepOpenProject(): () => void {
  const s = useSession.getState();
  const { projectId, projectName, source, sourceKey, facts, layout, held, ground, pack, proof, typed } = s;
  const { step, view, section } = s;
  const recipe = keepRecipe();
  const key = measuredKey;
  return () => {
    measuredKey = key;
    patchSession({ projectId, projectName, source, sourceKey, facts, layout, held, ground, pack, proof, typed });
    patchSession({ step, view, section, arrived: null });
    recipe();
  };
}

const wholeLine = ({ width, height }: { width: number; height: number }): SectionLine => ({
  a: { x: width * 0.14, y: height * 0.2 },
  b: { x: width * 0.86, y: height * 0.79 },
});

/**
 * Opens a source and makes it the current project. Its header facts show at once and its ground as far as it has been
 * read; where it turns out to be bad or reading is cancelled, what was open before is there again, as it was.
 */
async function openSource(o: Opening): Promise<void> {
  await saveNow();
  // another file while one is being read: the way back is the one from before both
  const restore = arriving?.restore ?? keepOpenProject();
  const before = arriving ? arriving.before : useSession.getState().sourceKey;
  arriving?.cancel();
  const key = `${o.id}/${++sources}`;
  let shown = 0;
  /** Another file took the place of this one: what the workers have of it goes. */
  const superseded = (): boolean => {
    if (arriving?.key === key) return false;
    void workers().release(key);
    return true;
  };
  const running = workers().open(
    key,
    o.blob,
    o.file,
    o.raw,
    (facts, drawable) => {
      if (arriving?.key !== key) return;
      measuredKey = '';
      patchSession({
        projectId: o.id,
        projectName: o.name,
        source: o.blob,
        sourceKey: key,
        arrived: 0,
        facts,
        layout: o.raw,
        held: drawable,
        ground: null,
        pack: null,
        proof: null,
        typed: {},
        step: o.step,
        view: 'relief',
        section: null,
        error: null,
      });
      if (o.recipe !== 'as it is') loadRecipe(o.recipe ?? freshRecipe(facts, o.name));
    },
    (done, total) => {
      const { job, arrived } = useSession.getState();
      const now = performance.now();
      if (!job || arriving?.key !== key || now - shown < SHOW_EVERY_MS) return;
      shown = now;
      patchSession({ job: { ...job, progress: done / total }, arrived: arrived === null ? null : done });
    },
  );
  arriving = { key, before, cancel: running.cancel, restore };
  patchSession({ job: { label: `Reading ${o.file}`, progress: 0, started: Date.now(), cancel: running.cancel } });
  try {
    const held = await running.done;
    if (superseded()) return;
    if (o.keep) {
      await saveSource(o.id, o.blob).catch((reason: unknown) => {
        showError(reason, 'keeping the source');
      });
      if (superseded()) return;
    }
    arriving = null;
    patchSession({
      facts: held.facts,
      layout: held.layout,
      held: true,
      arrived: null,
      section: o.section ?? wholeLine(held.facts.info),
    });
    if (before !== null) void workers().release(before);
    await saveNow();
    patchSession({ projects: await listProjects() });
  } catch (reason) {
    if (!superseded()) {
      arriving = null;
      restore();
      void workers().release(key);
    }
    throw reason;
  } finally {
    if (arriving === null) patchSession({ job: null });
  }
}

const freshId = (): string => crypto.randomUUID();

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
    });
  } catch (reason) {
    showError(reason, 'reading the source');
  }
}

export async function openProject(id: string): Promise<void> {
  try {
    await saveNow();
    const { project, source } = await loadProject(id);
    await openSource({
      id: project.id,
      name: project.name,
      file: project.file,
      blob: source,
      raw: project.recipe.source.raw ?? null,
      recipe: project.recipe,
      step: project.step as ChainStep,
      section: project.section,
      keep: false,
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
    });
  } catch (reason) {
    showError(reason, 'opening the demo');
  }
}

/** Deletes a project; where it is the open one, another is opened, or the demo. */
export async function removeProject(id: string): Promise<void> {
  try {
    clearTimeout(saveTimer);
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

// ---- pack and proof -------------------------------------------------------------------------------------------

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

// ---- start ----------------------------------------------------------------------------------------------------

let started = false;

/** Wires the stores together and opens what was open last, or the demo. */
export async function start(): Promise<void> {
  if (started) return;
  started = true;
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
