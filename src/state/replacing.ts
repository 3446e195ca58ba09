import { applyEdit, forReplacement, forSource, keptReading, type Keeps, type KeptReading } from '../core/edits';
import { LevelGridError, type EditCall } from '../core/base';
import { isHeightName, isCompanion } from '../core/formats';
import { plan, type CardRow, type Plan, type SourceFacts } from '../core/plan';
import { highestStored, lowestStored } from '../core/raster';
import type { Recipe } from '../core/recipe';
import { fileAgain, sameBytes } from './origin';
import { exchangeSource } from './projects';
import { editRecipe, useRecipe } from './recipe-store';
import { patchSession, useSession, type Replacement, type Way } from './session';
import { allAsOne, commonName, goesAlong, notesAmong, together } from './together';
import { showError, workers } from './workers';

/**
 * Files that were chosen, as one source: archives are opened, several height files are one, and what lies beside them
 * goes along. Null where no height file is among them.
 */
export async function asOneSource(chosen: readonly File[]): Promise<File | null> {
  const files: File[] = [];
  for (const file of chosen) {
    if (!/\.zip$/i.test(file.name)) {
      files.push(file);
      continue;
    }
    const inside = await workers().unzip(file, file.name).done;
    for (const [name, blob] of inside)
      files.push(new File([blob], name.split('/').pop() ?? name, { lastModified: file.lastModified }));
  }
  const heights = files
    .filter((f) => isHeightName(f.name) && !isCompanion(f.name))
    .sort((a, b) => (a.name < b.name ? -1 : 1));
  const notes = await notesAmong(files);
  if (heights.length > 1)
    return allAsOne([...heights, ...files.filter((f) => goesAlong(f, notes))], commonName(heights));
  return together(files, notes).find((f) => !isCompanion(f.name) && isHeightName(f.name)) ?? null;
}

/** Other files in the place of the source. Every choice stays or is named; of another size, the ground keeps its extent. */
export async function replaceSource(chosen: readonly File[]): Promise<void> {
  if (chosen.length === 0) return;
  try {
    const file = await asOneSource(chosen);
    if (!file)
      throw new LevelGridError('unknown-format', {
        file: chosen[0]?.name ?? null,
        found: 'no height file among what was chosen',
        expected: 'the source, or an archive that holds it',
        remedy: 'Choose height files.',
      });
    if (!(await isUnchanged(file))) await takePlace(file);
  } catch (reason) {
    showError(reason, 'reading the source');
  }
}

/** Says so where a file holds the very bytes of the open source; nothing needs to be read then. */
async function isUnchanged(file: File): Promise<boolean> {
  const { source, origin } = useSession.getState();
  if (!source || !(await sameBytes(source, file).catch(() => false))) return false;
  patchSession({
    notice: `${file.name} is unchanged: it holds the very bytes of the source that is open.`,
    changedOnDisk: false,
    ...(origin ? { origin: { ...origin, size: file.size, modified: file.lastModified } } : {}),
  });
  return true;
}

/** Reads the file of the open source again, through its handle or as it was chosen again. */
export async function readFileAgain(chosen: readonly File[] | null = null): Promise<void> {
  const { origin, facts } = useSession.getState();
  if (!facts) return;
  if (chosen) return replaceSource(chosen);
  const file = origin?.handle ? await fileAgain(origin.handle, true) : null;
  if (file) return replaceSource([file]);
  patchSession({
    notice: `${facts.file} can’t be read where it was: choose it again.`,
    origin: origin && { ...origin, handle: null },
  });
}

async function takePlace(file: File): Promise<void> {
  const { facts, plan: planned } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (!facts || !recipe) return;
  const { reading, dropped }: KeptReading = keptReading(recipe, await workers().look(file, file.name).done);
  const { width, height } = facts.info;
  const before = { width, height, spacing: recipe.source.spacing };
  const lost = [...dropped];
  const to = { blob: file, file: file.name, reading };
  const opened = await exchangeSource(to, null, (r, now) => {
    const made = forSource(r, reading, now);
    lost.splice(0, lost.length, ...dropped, ...made.dropped);
    // a mesh is baked as finely as before, and a metric grid keeps its own spacing
    return keepsExtent(made.recipe, now) ? forReplacement(made.recipe, before, now.info, 'extent') : made.recipe;
  });
  const now = useSession.getState().facts;
  if (!opened || !now) return;
  const after = { width: now.info.width, height: now.info.height };
  patchSession({
    step: 'bring-in',
    replacement: {
      before,
      after,
      keeps: 'extent',
      card: planned?.document.card ?? [],
      range: rangeOf(planned, recipe),
      dropped: lost,
      filled: fillsItsCodes(now, recipe) && now.content !== facts.content,
      ways: null,
    },
  });
  void weighWays();
}

const keepsExtent = ({ steps }: Recipe, { info }: SourceFacts): boolean =>
  info.mesh === undefined && !steps.some((s) => s.op === 'reproject' && !s.off);

/** The elevations of the lowest and highest code, in true metres. */
function rangeOf(planned: Plan | null, { fit }: Recipe): Replacement['range'] {
  const { low, high } = planned?.work.range.plain ?? { low: 0, high: 1 };
  return { low: low / fit.worldScale, high: high / fit.worldScale };
}

/** Codes that reach from end to end: a normalised picture, of which bytes can't tell what its ends stand for. */
function fillsItsCodes({ info, stats }: SourceFacts, { source: { heights } }: Recipe): boolean {
  if (heights.as !== 'ends' || !stats || info.sampleType === 'float') return false;
  return stats.min === lowestStored(info) && stats.max === highestStored(info);
}

/** What a replaced source keeps: its extent or its spacing. */
export function setKeeps(keeps: Keeps): void {
  const { replacement } = useSession.getState();
  if (!replacement) return;
  const { before, after } = replacement;
  editRecipe((r) => forReplacement(r, before, after, keeps));
  patchSession({ replacement: { ...replacement, keeps } });
}

/** Rows of a card that are not what they were. */
export function changedRows(
  before: readonly CardRow[],
  now: readonly CardRow[],
): readonly { readonly row: CardRow; readonly before: CardRow }[] {
  const old = new Map(before.map((r) => [r.id, r]));
  return now.flatMap((row) => {
    const was = old.get(row.id);
    return was && was.value !== row.value ? [{ row, before: was }] : [];
  });
}

/** The ways to go on after new heights, as edits. */
function waysOf(recipe: Recipe, { range }: Replacement): readonly Pick<Way, 'id' | 'edit'>[] {
  const { height } = recipe;
  // held before, the range follows what the source now holds
  const follow: EditCall =
    height.range === 'pinned'
      ? { edit: 'range', args: { range: 'source' } }
      : { edit: 'height', args: { height: { ...height } } };
  const codes: EditCall = { edit: 'range', args: { range: 'codes' } };
  return [
    { id: 'hold', edit: { edit: 'hold-range', args: range } },
    { id: 'follow', edit: follow },
    ...(recipe.source.heights.as === 'elevations' ? [] : [{ id: 'codes' as const, edit: codes }]),
  ];
}

/** Measures what each way costs: values to type again, and samples that its codes don't reach. */
async function weighWays(): Promise<void> {
  const { sourceKey, facts, replacement } = useSession.getState();
  const { recipe } = useRecipe.getState();
  if (sourceKey === null || !facts || !recipe || !replacement) return;
  const ways: Way[] = [];
  for (const { id, edit } of waysOf(recipe, replacement)) {
    try {
      const tried = applyEdit(recipe, edit);
      const { ground, facts: entered } = await workers().weigh(sourceKey, tried).done;
      const { document } = plan(tried, entered, ground);
      const { low, high } = document.height.clipped;
      const changed = changedRows(replacement.card, document.card).map(({ row }) => row.label);
      ways.push({ id, edit, changed, clipped: (low ?? 0) + (high ?? 0) });
    } catch {
      // a way that can't be gone is not offered
    }
  }
  const now = useSession.getState();
  if (now.sourceKey === sourceKey && now.replacement) patchSession({ replacement: { ...now.replacement, ways } });
}

/** Takes one of the ways. */
export function takeWay({ edit }: Way): void {
  editRecipe((r) => applyEdit(r, edit));
}
