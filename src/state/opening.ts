import { asLevelGridError, type LevelGridError } from '../core/base';
import { planChain } from '../core/chain';
import { freshRecipe } from '../core/edits';
import type { ChainStep, SourceFacts } from '../core/plan';
import type { Overview } from '../core/raster';
import type { Recipe, SourceReading } from '../core/recipe';
import type { HeldSource } from '../workers/protocol';
import { notKept, refreshListing, saveNow } from './keeping';
import { forgetMeasured, keepMeasured } from './planning';
import { endJob, isJob, showJob, showProgress } from './jobs';
import { noteOrigin, recallOrigin } from './origin';
import { editRecipe, keepRecipe, loadRecipe, projectName, useRecipe, type Typed } from './recipe-store';
import { keepProject, NO_PROJECT, patchSession, stopLookingAt, useSession, type SectionLine } from './session';
import { keepSource, saveOverview, type KeptSource } from './storage';
import { workers } from './workers';

/** What has been read so far is shown at most this often; the first rows sooner. */
const SHOW_EVERY_MS = 250;
const SHOW_FIRST_MS = 80;
const FIRST = 4;

/** The source that is being read, and the way back to what was open before it. */
let arriving: {
  readonly key: string;
  /** The source that was open before, held until the new one is whole. */
  readonly before: string | null;
  readonly cancel: () => void;
  readonly restore: () => void;
} | null = null;
let sources = 0;

export interface Opening {
  readonly id: string;
  /** Of a project that has no recipe yet. */
  readonly name: string;
  readonly file: string;
  readonly blob: Blob;
  readonly reading: SourceReading;
  /**
   * The recipe for the source; null: a fresh one for the facts of the file; a function: the open one, edited, with its
   * undo. What is edited is edited in the moment in which the source takes its place.
   */
  readonly recipe: Recipe | ((open: Recipe, facts: SourceFacts) => Recipe) | null;
  /** The source that an edited recipe is for, where it is another one: see the document. */
  readonly source?: number;
  /** What was typed into the target. */
  readonly typed?: Typed;
  readonly step: ChainStep;
  readonly section: SectionLine | null;
  /** Where the source's bytes are kept; null: they must be kept first. */
  readonly kept: KeptSource | null;
  /** A coarse picture of the source from an earlier time: all of it can be drawn before it is read. */
  readonly overview: Overview | null;
  /** Gives way to whatever is open, or is being opened, already: what nobody asked for. */
  readonly unasked?: boolean;
}

/** True while a source is being read. */
export const isOpening = (): boolean => arriving !== null;

/** What is open, as a way to have it again. */
function keepOpenProject(): () => void {
  const project = keepProject();
  const recipe = keepRecipe();
  const measured = keepMeasured();
  return () => {
    measured();
    patchSession(project);
    recipe();
  };
}

const wholeLine = ({ width, height }: { width: number; height: number }): SectionLine => ({
  a: { x: width * 0.14, y: height * 0.2 },
  b: { x: width * 0.86, y: height * 0.79 },
});

/** Size of the metric ground: what drawn things are measured in. */
function groundSize(facts: SourceFacts): { width: number; height: number } {
  const { recipe } = useRecipe.getState();
  return recipe ? planChain(recipe, facts.info).entering.info : facts.info;
}

/** Work for the source that was open is for nothing once another comes; that is said. */
function giveUpWork({ id, file, name, recipe }: Opening): void {
  const { job, projectId } = useSession.getState();
  if (!job) return;
  job.cancel();
  const what = job.label.toLowerCase();
  const why =
    id === projectId ? `${file} was read` : `${(typeof recipe === 'object' && recipe?.name) || name} was opened`;
  patchSession({
    job: null,
    notice: `${projectName(useRecipe.getState())}: ${what} was stopped, because ${why}.`,
  });
}

/**
 * Opens a source and makes it the current project. Its header facts show at once and its ground as far as it has been
 * read; where it turns out to be bad or reading is cancelled, what was open before is there again, as it was. False
 * where another source took its place meanwhile.
 */
/** A recipe for a source that nobody has said anything about, but where its files lie. */
const freshFor = ({ name, reading: { files } }: Opening, facts: SourceFacts): Recipe =>
  freshRecipe(files ? { ...facts, arrangement: { parts: files } } : facts, name);

export async function openSource(o: Opening): Promise<boolean> {
  await saveNow();
  if (o.unasked && (arriving || useSession.getState().projectId !== null)) return false;
  // another file while one is being read: the way back is the one from before both
  const restore = arriving?.restore ?? keepOpenProject();
  const before = arriving ? arriving.before : useSession.getState().sourceKey;
  const other = o.id !== useSession.getState().projectId;
  const looked = useSession.getState().dropped;
  patchSession({ notice: null });
  if (arriving) arriving.cancel();
  else giveUpWork(o);
  const key = `${o.id}/${++sources}`;
  let job = 0;
  /** The recipe can't be one for this source. */
  const faults: LevelGridError[] = [];
  /** What the header alone made of a source that nobody has said anything about. */
  let fresh: Recipe | null = null;
  let shown = 0;
  let times = 0;
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
    o.reading,
    o.overview,
    (facts, drawable, whole) => {
      if (arriving?.key !== key) return;
      forgetMeasured();
      const { pack, replacement } = useSession.getState();
      patchSession({
        ...NO_PROJECT,
        projectId: o.id,
        source: o.blob,
        keptSource: o.kept,
        sourceKey: key,
        arrived: 0,
        wholeFrom: whole,
        facts,
        held: drawable,
        // the last pack of this project stays, to tell what a new source changes on the card
        ...(typeof o.recipe === 'function' ? { pack, replacement } : {}),
        step: o.step,
        ...(o.recipe === null ? { ask: key, pane: 'bench' as const } : {}),
        // what went wrong in this project stays until it is closed
        ...(other ? { error: null, refusedFile: null } : {}),
      });
      const { recipe } = o;
      if (typeof recipe !== 'function') {
        if (!recipe) fresh = freshFor(o, facts);
        loadRecipe(recipe ?? fresh, o.typed);
        return;
      }
      try {
        editRecipe((r) => recipe(r, facts), o.source);
      } catch (reason) {
        faults.push(asLevelGridError(reason, 'fitting the recipe to the source'));
        running.cancel();
      }
    },
    (done, total) => {
      const { arrived } = useSession.getState();
      const now = performance.now();
      if (!isJob(job) || arriving?.key !== key || now - shown < (times < FIRST ? SHOW_FIRST_MS : SHOW_EVERY_MS)) return;
      times++;
      shown = now;
      showProgress(job, done / total);
      patchSession({ arrived: arrived === null ? null : done });
    },
  );
  arriving = { key, before, cancel: running.cancel, restore };
  job = showJob(`Reading ${o.file}`, running.cancel);
  let held: HeldSource;
  try {
    held = await running.done;
    if (faults[0]) throw faults[0];
    if (superseded()) return false;
    if (!o.kept) {
      const kept = await keepSource(o.id, o.blob).catch((reason: unknown) => {
        notKept(reason, 'keeping the source');
        return null;
      });
      if (superseded()) return false;
      patchSession({ keptSource: kept, ...(kept ? { unkept: null } : {}) });
    }
  } catch (reason) {
    if (!superseded()) {
      arriving = null;
      restore();
      endJob(job);
      void workers().release(key);
    }
    throw faults[0] ?? reason;
  }
  // from here on it is open, whatever becomes of keeping it
  arriving = null;
  if (fresh && useRecipe.getState().recipe === fresh) readFresh(freshFor(o, held.facts), fresh, key);
  patchSession({
    facts: held.facts,
    extremes: held.extremes,
    held: true,
    arrived: null,
    wholeFrom: null,
    section: o.section ?? wholeLine(groundSize(held.facts)),
  });
  // what was looked at when this began gives way; what was dropped meanwhile does not
  if (other && looked) stopLookingAt(looked);
  endJob(job);
  if (before !== null) void workers().release(before);
  await saveNow();
  await refreshListing();
  if (!o.overview) void keepOverview(o, key);
  if (o.kept || !(o.blob instanceof File)) void recallOrigin(o.id, o.file, o.blob);
  else void noteOrigin(o.id, o.blob);
  return true;
}

/** What the samples say more than the header, as long as nobody has chosen anything: floats of 0 to 1 are no metres. */
function readFresh(read: Recipe, before: Recipe, key: string): void {
  if (JSON.stringify(read) === JSON.stringify(before)) return;
  loadRecipe(read);
  patchSession({ ask: key });
}

/** The next time the project is opened its ground shows at once. Where there is no room for that, it takes longer. */
async function keepOverview({ id, blob, reading }: Opening, key: string): Promise<void> {
  try {
    await saveOverview(id, blob, reading, await workers().overview(key));
  } catch {
    // nothing depends on it
  }
}
