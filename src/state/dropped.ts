import { asLevelGridError, LevelGridError } from '../core/base';
import type { Comparison } from '../core/compare';
import { renamed } from '../core/edits';
import { isHeightName } from '../core/formats';
import type { Arrangement, Cell, PlacedPart } from '../core/mosaic';
import { sourceReading } from '../core/recipe';
import { readDocument, readPack, type PackDocuments } from '../core/run';
import type { SmallPicture } from '../core/view';
import { asJob } from './jobs';
import { openSource } from './opening';
import { packKey, provePack } from './packing';
import { bringIn, bringInAll, editedElsewhere } from './projects';
import { useRecipe } from './recipe-store';
import { patchSession, stopLookingAt, useSession, type Dropped, type Proposal } from './session';
import { allAsOne, commonName, goesAlong, notesAmong, SOURCE_ENDINGS, together } from './together';
import { showError, workers } from './workers';

/** Endings of everything that can be brought in: height files, and what Level Grid has written. */
export const OPENABLE_ENDINGS: readonly string[] = [...SOURCE_ENDINGS, '.json', '.zip'];

const DOCUMENTS = ['import.json', 'recipe.json'];
const ends = (ending: string) => (file: File) => file.name.toLowerCase().endsWith(ending);

/**
 * Takes whatever files were dropped or chosen: height files become projects; a recipe, an import page or a pack (zipped
 * or not) opens with the source that lies beside it, or waits for one.
 */
export async function takeFiles(given: readonly File[]): Promise<void> {
  // a pack has pages in plain words of its own, and its files stay what they are
  const files = given.some((f) => DOCUMENTS.includes(f.name))
    ? together(given)
    : together(given, await notesAmong(given));
  const zips = files.filter(ends('.zip'));
  const documents = files.filter(ends('.json'));
  const known = documents.filter((f) => DOCUMENTS.includes(f.name));
  try {
    if (zips[0] && zips.length + documents.length === 1) await takeZip(zips[0], files);
    else if (zips.length > 1 && documents.length === 0) await takeZips(zips, given);
    else if (new Set(known.map((f) => f.name)).size < known.length) throw severalAtOnce(known.length);
    else if (known.length > 0) await takePack(files, known);
    else if (documents[0] && zips.length + documents.length === 1) await takeDocument(documents[0], files);
    else if (zips.length + documents.length > 0) throw severalAtOnce(zips.length + documents.length);
    else await takeHeights(given);
  } catch (reason) {
    showError(reason, 'opening what was dropped');
  }
}

/** Height files: one opens, several that make one terrain are asked about, others become a project each. */
async function takeHeights(given: readonly File[]): Promise<void> {
  const heights = given.filter((f) => isHeightName(f.name));
  const notes = await notesAmong(given);
  if (heights.length > 1 && new Set(heights.map((f) => f.name)).size === heights.length) {
    const name = commonName(heights);
    const own = given.filter((f) => goesAlong(f, notes));
    const bundle = allAsOne([...heights, ...own], name);
    const proposal = { name, board: crypto.randomUUID(), bundle, files: given };
    try {
      const arrangement = await asJob(`Looking at ${heights.length} files`, (report) =>
        workers().arrange(bundle, name, null, report),
      );
      patchSession({ proposal: { ...proposal, arrangement, refused: null } });
      return;
    } catch (reason) {
      const refused = asLevelGridError(reason, 'looking at the files');
      if (refused.code === 'cancelled') return;
      // files that are whole, but do not say how they belong together, can be laid out or compared
      if (refused.code === 'mosaic') {
        patchSession({ proposal: { ...proposal, arrangement: null, refused: refused.toRecord() } });
        return;
      }
      // of others each says what is wrong with it
    }
  }
  await bringInAll(together(given, notes));
}

/** What becomes of several files: one terrain as it was found or laid out, one of them, or each its own project. */
export async function decideProposal(decision: Arrangement | 'each' | { readonly only: string }): Promise<void> {
  const { proposal } = useSession.getState();
  if (!proposal) return;
  patchSession({ proposal: null });
  const { bundle, files } = proposal;
  if (decision === 'each') await bringInAll(together(files, await notesAmong(files)));
  else if ('only' in decision)
    await bringInAll(together(files, await notesAmong(files)).filter((f) => f.name === decision.only));
  else if (decision.by === 'hand') await bringIn(bundle, { files: decision.parts.map(placedFile) });
  else await bringIn(bundle);
}

const placedFile = ({ at: [column, row], ...file }: PlacedPart) => ({
  ...file,
  at: [column, row] as [number, number],
});

/** How the files of a proposal would lie, edge by edge, in the cells of a board. */
export const layOut = (proposal: Proposal, cells: ReadonlyMap<string, Cell>): Promise<Arrangement> =>
  workers().arrange(proposal.bundle, proposal.name, { board: proposal.board, cells }).done;

/** The files of a proposal in small. */
export const picturesOf = ({ bundle, name }: Proposal, side: number): Promise<ReadonlyMap<string, SmallPicture>> =>
  workers().pictures(bundle, name, side).done;

/** The files of a proposal as data sets of the same ground. */
export const compareFiles = ({ bundle, name }: Proposal): Promise<Comparison> =>
  asJob('Comparing', (report) => workers().compare(bundle, name, report));

const severalAtOnce = (count: number): LevelGridError =>
  new LevelGridError('usage', {
    found: `${count} packs or documents at once`,
    expected: 'one',
    remedy: 'Drop one pack, recipe or import page, if you like with its source.',
  });

/** A height file that came along and is none of the pack's own. */
function sourceBeside(files: readonly File[], { document }: PackDocuments): File | null {
  const own = new Set(document?.files.map((f) => f.name));
  const heights = files.filter((f) => isHeightName(f.name) && !own.has(f.name));
  return heights.find((f) => f.name === document?.source.file) ?? (heights.length === 1 ? (heights[0] ?? null) : null);
}

async function takeDocument(file: File, files: readonly File[]): Promise<void> {
  const found = readDocument(await file.text(), file.name);
  await offer({ ...waiting(file.name, found), files: null }, sourceBeside(files, found));
}

async function takeZip(zip: File, files: readonly File[]): Promise<void> {
  const inside = await workers().unzip(zip, zip.name).done;
  if (DOCUMENTS.some((n) => inside.has(n))) await takeFilesOfPack(zip.name, inside, files);
  else await takeHeights([...inside].map(([name, blob]) => new File([blob], name.split('/').pop() ?? name)));
}

/** Several archives at once, such as blocks of a degree each in one: the height files in all of them. */
async function takeZips(zips: readonly File[], given: readonly File[]): Promise<void> {
  const found: File[] = given.filter((f) => !zips.includes(f));
  for (const zip of zips) {
    const inside = await workers().unzip(zip, zip.name).done;
    if (DOCUMENTS.some((n) => inside.has(n))) throw severalAtOnce(zips.length);
    for (const [name, blob] of inside) found.push(new File([blob], name.split('/').pop() ?? name));
  }
  await takeHeights(found);
}

async function takePack(files: readonly File[], [document]: readonly File[]): Promise<void> {
  const folder = document?.webkitRelativePath.split('/')[0];
  await takeFilesOfPack(folder === undefined || folder === '' ? 'The pack' : folder, byName(files), files);
}

/** A document that came alone is called by its own name. */
const single = (files: readonly File[], name: string): string =>
  files.length === 1 && files[0] ? files[0].name : name;

const byName = (files: readonly File[]): ReadonlyMap<string, Blob> => new Map(files.map((f) => [f.name, f]));

async function takeFilesOfPack(name: string, inside: ReadonlyMap<string, Blob>, files: readonly File[]): Promise<void> {
  const [page, recipe] = await Promise.all(DOCUMENTS.map((n) => inside.get(n)?.text() ?? Promise.resolve(null)));
  const found = recipe ? readPack(recipe, page ?? null) : readDocument(page ?? '', 'import.json');
  const whole = found.document !== null && recipe !== null && found.document.files.some((f) => inside.has(f.name));
  const source = sourceBeside(files, found);
  // a source that lay beside the pack is none of its files
  const own = new Map([...inside].filter(([n, blob]) => blob !== source || n !== source?.name));
  await offer({ ...waiting(whole ? name : single(files, name), found), files: whole ? own : null }, source);
}

const waiting = (file: string, { recipe, document }: PackDocuments): Dropped => ({
  file,
  recipe:
    recipe.name === undefined ? renamed(recipe, document?.name ?? file.replace(/\.[^.]*$/, '').slice(0, 80)) : recipe,
  document,
  files: null,
  typed: {},
  proof: null,
});

/** Opens with the source that came along; else shows what can be done without one. */
async function offer(dropped: Dropped, source: File | null): Promise<void> {
  patchSession({ error: null });
  if (source) {
    await openDropped(dropped, source, source.name);
    return;
  }
  patchSession({ dropped, pane: null });
  if (dropped.files) await proveDropped();
}

/** The dropped pack, held against its own page with what was typed. */
async function proveDropped(): Promise<void> {
  const { dropped } = useSession.getState();
  if (!dropped?.files) return;
  const { files, typed } = dropped;
  try {
    const { proof } = await asJob('Proving the pack', (report) => workers().prove(null, files, { ...typed }, report));
    const now = useSession.getState().dropped;
    // a proof of other files, or of older values, is nobody's
    if (now?.files === files && now.typed === typed) patchSession({ dropped: { ...now, proof } });
  } catch (reason) {
    showError(reason, 'proving the pack');
  }
}

/** Notes what the target holds for one row; null: as the page says. */
export function typeIntoDropped(row: string, value: number | string | null): void {
  const { dropped } = useSession.getState();
  if (!dropped) return;
  const { [row]: _, ...others } = dropped.typed;
  patchSession({ dropped: { ...dropped, typed: value === null ? others : { ...others, [row]: value } } });
  void proveDropped();
}

export function leaveDropped(): void {
  patchSession({ dropped: null });
}

/** Opens what was dropped as a project for this source; a pack is proved against it. */
export async function adoptDropped(source: Blob, file: string): Promise<void> {
  const { dropped } = useSession.getState();
  if (!dropped) return;
  try {
    await openDropped(dropped, source, file);
  } catch (reason) {
    showError(reason, 'reading the source');
  }
}

async function openDropped(dropped: Dropped, blob: Blob, file: string): Promise<void> {
  const { recipe, document, files, typed } = dropped;
  if (useSession.getState().following) throw editedElsewhere(file);
  const id = crypto.randomUUID();
  const opened = await openSource({
    id,
    name: file,
    file,
    blob,
    reading: sourceReading(recipe),
    recipe,
    typed,
    step: files ? 'proof' : 'fit',
    section: null,
    kept: null,
    overview: null,
  });
  if (!opened) return;
  stopLookingAt(dropped);
  // another project may have been opened by now
  if (!document || !files || useSession.getState().projectId !== id) return;
  patchSession({
    pack: { document, files, key: packKey(useRecipe.getState().recipe, useSession.getState().facts) },
    pane: 'bench',
  });
  await provePack();
}
