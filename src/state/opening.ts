import type { RawLayout } from '../core/formats';
import { freshRecipe } from '../core/edits';
import type { ChainStep } from '../core/plan';
import type { Overview } from '../core/raster';
import type { Recipe } from '../core/recipe';
import type { HeldSource } from '../workers/protocol';
import { saveNow } from './keeping';
import { forgetMeasured, keepMeasured } from './planning';
import { keepRecipe, loadRecipe } from './recipe-store';
import { patchSession, useSession, type SectionLine } from './session';
import { keepSource, listProjects, saveOverview, type KeptSource } from './storage';
import { showError, workers } from './workers';

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
  readonly name: string;
  readonly file: string;
  readonly blob: Blob;
  readonly raw: RawLayout | null;
  /** Null: a fresh recipe for the facts of the file; `as it is`: the one that is open, with its undo. */
  readonly recipe: Recipe | 'as it is' | null;
  readonly step: ChainStep;
  readonly section: SectionLine | null;
  /** Where the source's bytes are kept; null: they must be kept first. */
  readonly kept: KeptSource | null;
  /** A coarse picture of the source from an earlier time: all of it can be drawn before it is read. */
  readonly overview: Overview | null;
}

/** True while a source is being read. */
export const isOpening = (): boolean => arriving !== null;

/** What is open, as a way to have it again. */
function keepOpenProject(): () => void {
  const s = useSession.getState();
  const { projectId, projectName, source, sourceKey, facts, layout, held, ground, pack, proof, typed } = s;
  const { step, view, section, draft, replacement, keptSource } = s;
  const recipe = keepRecipe();
  const measured = keepMeasured();
  return () => {
    measured();
    patchSession({ projectId, projectName, source, sourceKey, facts, layout, held, ground, pack, proof, typed });
    patchSession({ step, view, section, draft, replacement, keptSource, arrived: null, wholeFrom: null });
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
export async function openSource(o: Opening): Promise<void> {
  await saveNow();
  // another file while one is being read: the way back is the one from before both
  const restore = arriving?.restore ?? keepOpenProject();
  const before = arriving ? arriving.before : useSession.getState().sourceKey;
  arriving?.cancel();
  const key = `${o.id}/${++sources}`;
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
    o.raw,
    o.overview,
    (facts, drawable, whole) => {
      if (arriving?.key !== key) return;
      forgetMeasured();
      patchSession({
        projectId: o.id,
        projectName: o.name,
        source: o.blob,
        keptSource: o.kept,
        sourceKey: key,
        arrived: 0,
        wholeFrom: whole,
        facts,
        layout: o.raw ?? facts.raw ?? null,
        held: drawable,
        ground: null,
        // the last pack of this project stays, to tell what a new source changes on the card
        ...(o.recipe === 'as it is' ? {} : { pack: null, replacement: null }),
        draft: null,
        proof: null,
        typed: {},
        step: o.step,
        view: 'relief',
        section: null,
        error: null,
        refusedFile: null,
      });
      if (o.recipe !== 'as it is') loadRecipe(o.recipe ?? freshRecipe(facts, o.name));
    },
    (done, total) => {
      const { job, arrived } = useSession.getState();
      const now = performance.now();
      if (!job || arriving?.key !== key || now - shown < (times < FIRST ? SHOW_FIRST_MS : SHOW_EVERY_MS)) return;
      times++;
      shown = now;
      patchSession({ job: { ...job, progress: done / total }, arrived: arrived === null ? null : done });
    },
  );
  arriving = { key, before, cancel: running.cancel, restore };
  patchSession({ job: { label: `Reading ${o.file}`, progress: 0, started: Date.now(), cancel: running.cancel } });
  let held: HeldSource;
  try {
    held = await running.done;
    if (superseded()) return;
    if (!o.kept) {
      const kept = await keepSource(o.id, o.blob).catch((reason: unknown) => {
        showError(reason, 'keeping the source');
        return null;
      });
      if (superseded()) return;
      patchSession({ keptSource: kept });
    }
  } catch (reason) {
    if (!superseded()) {
      arriving = null;
      restore();
      patchSession({ job: null });
      void workers().release(key);
    }
    throw reason;
  }
  // from here on it is open, whatever becomes of keeping it
  arriving = null;
  patchSession({
    facts: held.facts,
    layout: held.layout,
    held: true,
    arrived: null,
    wholeFrom: null,
    section: o.section ?? wholeLine(held.facts.info),
    job: null,
  });
  if (before !== null) void workers().release(before);
  await saveNow();
  patchSession({ projects: await listProjects() });
  if (!o.overview) void keepOverview(o, key);
}

/** The next time the project is opened its ground shows at once. Where there is no room for that, it takes longer. */
async function keepOverview({ id, blob, raw }: Opening, key: string): Promise<void> {
  try {
    await saveOverview(id, blob, raw, await workers().overview(key));
  } catch {
    // nothing depends on it
  }
}
