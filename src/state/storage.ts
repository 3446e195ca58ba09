import localforage from 'localforage';
import * as z from 'zod';
import { asLevelGridError, LevelGridError } from '../core/base';
import type { Overview } from '../core/raster';
import { parseRecipe, type Recipe, type SourceReading } from '../core/recipe';

const keptSource = z.object({
  /** Where its bytes lie. */
  key: z.string().min(1),
  size: z.number(),
  /** See `fingerprintOf`. */
  print: z.string(),
});
/** Which bytes a project is for: a recipe and its source are always stored as one. */
export type KeptSource = z.infer<typeof keptSource>;

/**
 * `project/1` held a recipe of version 1, and `project/2` one of version 2, with the source under the project's own
 * key; up to `project/3` the name stood beside the recipe. Recipes are carried over when they are read.
 */
const project = z.object({
  schema: z.enum(['project/1', 'project/2', 'project/3', 'project/4']).transform(() => 'project/4' as const),
  id: z.string().min(1),
  name: z.string().min(1).optional(),
  file: z.string().min(1),
  recipe: z.unknown(),
  /** What was typed into the target where it differs from the card. */
  typed: z.record(z.string().max(80), z.union([z.number(), z.string().max(80)])).default({}),
  source: keptSource.optional(),
  step: z.string(),
  /** Ends of the section line, in source samples. */
  section: z
    .object({ a: z.object({ x: z.number(), y: z.number() }), b: z.object({ x: z.number(), y: z.number() }) })
    .nullable(),
});
/** A project as it is kept: the recipe, with its name, and which source it is for. The source's bytes lie beside it. */
export type StoredProject = Omit<z.infer<typeof project>, 'name' | 'recipe' | 'source'> & {
  readonly recipe: Recipe;
  readonly source: KeptSource;
};

/** Kept projects, by their names. */
export type Listing = readonly { readonly id: string; readonly name: string }[];

const named = z.object({ name: z.string().min(1) });

/** The name of a record of any version: what its recipe says, what stood beside it, or the file it is for. */
function nameOf({ recipe, name, file }: z.infer<typeof project>): string {
  const own = named.safeParse(recipe);
  return own.success ? own.data.name : (name ?? file);
}

/** The recipe of a record of any version, carried over, with its name. */
function recipeOf(record: z.infer<typeof project>): Recipe {
  return parseRecipe({ ...(record.recipe as object), name: nameOf(record).slice(0, 80) });
}

const store = localforage.createInstance({
  name: 'level-grid',
  storeName: 'projects',
  // nothing else holds files of this size
  driver: localforage.INDEXEDDB,
});

const full = (cause: unknown): LevelGridError =>
  new LevelGridError('unwritable', {
    found: 'no room left in the browser’s storage',
    expected: 'space for the project',
    cause,
    remedy:
      'Your work is still open. Delete projects that you no longer need, or download the pack: it holds the recipe.',
  });

const blocked = (cause: unknown): LevelGridError =>
  new LevelGridError('unwritable', {
    found: 'a browser that lets nothing be kept (a private window, or a setting)',
    expected: 'storage for projects',
    remedy: 'Everything works, but is gone when the page closes: download packs before that.',
    cause,
  });

/** No room and no permission are two things. */
const keepingFault = (reason: unknown): LevelGridError =>
  reason instanceof DOMException && reason.name === 'QuotaExceededError' ? full(reason) : blocked(reason);

/** Why nothing can be kept at all; null where something can. */
export async function storageFault(): Promise<LevelGridError | null> {
  try {
    await store.keys();
    return null;
  } catch (reason) {
    return blocked(reason);
  }
}

async function put(key: string, value: unknown): Promise<void> {
  try {
    await store.setItem(key, value);
  } catch (reason) {
    throw keepingFault(reason);
  }
}

/** All projects that are kept. Their records alone say which there are. */
export async function listProjects(): Promise<Listing> {
  const found: { id: string; name: string }[] = [];
  for (const key of await store.keys()) {
    if (!key.startsWith('project/')) continue;
    const record = project.safeParse(await store.getItem(key));
    if (record.success) found.push({ id: record.data.id, name: nameOf(record.data) });
  }
  return found.sort((a, b) => a.name.localeCompare(b.name) || a.id.localeCompare(b.id));
}

export async function currentProject(): Promise<string | null> {
  const id = await store.getItem('current');
  return typeof id === 'string' ? id : null;
}

/**
 * Keeps a project. One record says which recipe belongs to which source, so that at every moment the state before or
 * the state after is kept; sources that no record names any more are let go of afterwards.
 */
export async function saveProject(value: StoredProject): Promise<void> {
  await put(`project/${value.id}`, value);
  dropLatest(value);
  await put('current', value.id);
  await letGo(value.id, value.source.key);
}

/*
 * A database write that has only been asked for is lost when the page ends at once; what is written here is not. It
 * bridges the moment until the record itself is kept.
 */
const LATEST = 'level-grid/latest';

/** Notes a project in the same moment; `saveProject` follows. Without room for it the record alone is what is kept. */
export function noteLatest(value: StoredProject): void {
  try {
    localStorage.setItem(LATEST, JSON.stringify(value));
  } catch {
    // the record follows, and says so itself if it can't be kept
  }
}

/** The record is kept: the note of the same state has done its work. */
function dropLatest(value: StoredProject): void {
  try {
    if (localStorage.getItem(LATEST) === JSON.stringify(value)) localStorage.removeItem(LATEST);
  } catch {
    // where nothing can be noted there is nothing to drop
  }
}

/** What was noted last, if it can be read. */
function notedLatest(): (z.infer<typeof project> & { readonly recipe: Recipe }) | null {
  try {
    const found = project.safeParse(JSON.parse(localStorage.getItem(LATEST) ?? 'null'));
    return found.success ? { ...found.data, recipe: recipeOf(found.data) } : null;
  } catch {
    return null;
  }
}

/** What was noted of a project after its record was last kept, if it is for the same source. */
function latestOf(id: string, source: KeptSource): z.infer<typeof project> | null {
  const noted = notedLatest();
  return noted?.id === id && noted.source?.key === source.key ? noted : null;
}

/**
 * Keeps what was noted last, where the page ended before its record was: a project that has just been brought in has
 * none yet. Only what is noted after its source's bytes are kept can be; of anything else the state before stays.
 */
export async function keepLatest(): Promise<void> {
  const noted = notedLatest();
  if (!noted?.source || !((await store.getItem(noted.source.key)) instanceof Blob)) return;
  const { name: _, source, ...rest } = noted;
  await saveProject({ ...rest, source });
  localStorage.removeItem(LATEST);
}

/** A project that is forgotten is not brought back by what was noted of it. */
function forgetLatest(id: string): void {
  if (notedLatest()?.id === id) localStorage.removeItem(LATEST);
}

/** Removes the sources of a project, but for one. */
async function letGo(id: string, keep: string | null): Promise<void> {
  for (const key of await store.keys())
    if ((key === `source/${id}` || key.startsWith(`source/${id}/`)) && key !== keep)
      await store.removeItem(key).catch(() => undefined);
}

const SLICES = 64;
const SLICE = 16384;

/** A checksum over the size and 64 slices of a source: enough to tell one file from another, quick for any size. */
export async function fingerprintOf(blob: Blob): Promise<string> {
  const parts: Uint8Array<ArrayBuffer>[] = [new TextEncoder().encode(`${blob.size} `)];
  const step = Math.max(SLICE, Math.floor(blob.size / SLICES));
  for (let at = 0; at < blob.size; at += step)
    parts.push(new Uint8Array(await blob.slice(at, Math.min(blob.size, at + SLICE)).arrayBuffer()));
  const sum = await crypto.subtle.digest('SHA-256', await new Blob(parts).arrayBuffer());
  return [...new Uint8Array(sum)].map((b) => b.toString(16).padStart(2, '0')).join('');
}

/** Keeps the bytes of a source under a key of their own: what was kept before stays until a record names these. */
export async function keepSource(id: string, blob: Blob): Promise<KeptSource> {
  const kept = { key: `source/${id}/${crypto.randomUUID()}`, size: blob.size, print: await fingerprintOf(blob) };
  await put(kept.key, blob);
  return kept;
}

/** A kept project with its source, proved by its checksum. What can't be read stays kept; the error says so. */
export async function loadProject(id: string): Promise<{ project: StoredProject; source: Blob }> {
  let record;
  try {
    record = project.safeParse(await store.getItem(`project/${id}`));
    if (record.success) {
      const { source: named, ...data } = record.data;
      const key = named?.key ?? `source/${id}`;
      const blob = await store.getItem(key);
      if (blob instanceof Blob) {
        const print = await fingerprintOf(blob);
        if (!named || (named.size === blob.size && named.print === print)) {
          const kept = named ?? { key, size: blob.size, print };
          // a recipe of an older version is carried over
          const latest = latestOf(id, kept) ?? data;
          const { name: _, ...rest } = latest;
          return { project: { ...rest, recipe: recipeOf(latest), source: kept }, source: blob };
        }
      }
    }
  } catch (reason) {
    throw asLevelGridError(reason, 'reading the kept project');
  }
  if (record.success) {
    const { file, source } = record.data;
    throw new LevelGridError('source-missing', {
      file,
      found: `the project ${nameOf(record.data)} without its source`,
      expected: `the file ${file}${source ? ` of ${source.size} bytes (checksum ${source.print.slice(0, 12)}…)` : ''}`,
      remedy: 'Its choices are kept. Give it the file again.',
    });
  }
  throw new LevelGridError('not-found', {
    found: 'a kept project that can’t be read',
    expected: 'its recipe and its source',
    remedy: 'It was left as it is. Open another project, or bring the file in again.',
  });
}

/** A project whose source is gone: its choices, and by what the file is known again. */
export type Orphan = Omit<StoredProject, 'source'> & { readonly source: KeptSource | null };

/** A project as it is kept, whether or not its source is; null where it can't be read. */
export async function loadOrphan(id: string): Promise<Orphan | null> {
  const record = project.safeParse(await store.getItem(`project/${id}`));
  if (!record.success) return null;
  const { source } = record.data;
  const latest = (source && latestOf(id, source)) ?? record.data;
  const { name: _, ...rest } = latest;
  return { ...rest, recipe: recipeOf(latest), source: source ?? null };
}

const count = z.int().min(1).max(65536);
const keptOverview = z
  .object({
    schema: z.literal('overview/1'),
    /** Which bytes, read in which way, it shows. */
    of: z.string(),
    level: z.int().min(1).max(16),
    width: count,
    height: count,
    samples: z.union([z.instanceof(Uint16Array), z.instanceof(Float32Array)]),
  })
  .refine((o) => o.samples.length === o.width * o.height);

const read = (source: Blob, reading: SourceReading): string => `${source.size} ${JSON.stringify(reading)}`;

/** Keeps the overview of a project's source, or that it has none. */
export async function saveOverview(
  id: string,
  source: Blob,
  reading: SourceReading,
  overview: Overview | null,
): Promise<void> {
  if (overview) await put(`overview/${id}`, { schema: 'overview/1', of: read(source, reading), ...overview });
  else await store.removeItem(`overview/${id}`);
}

/** The overview of a source, if one of these bytes read in this way was kept. */
export async function loadOverview(id: string, source: Blob, reading: SourceReading): Promise<Overview | null> {
  const found = keptOverview.safeParse(await store.getItem(`overview/${id}`).catch(() => null));
  if (!found.success || found.data.of !== read(source, reading)) return null;
  const { level, width, height, samples } = found.data;
  return { level, width, height, samples };
}

/** Keeps the way back to the file on disk, or that there is none. */
export async function saveHandle(id: string, handle: FileSystemFileHandle | null): Promise<void> {
  if (handle) await put(`origin/${id}`, handle);
  else await store.removeItem(`origin/${id}`);
}

export async function loadHandle(id: string): Promise<FileSystemFileHandle | null> {
  const found: unknown = await store.getItem(`origin/${id}`);
  return typeof FileSystemFileHandle !== 'undefined' && found instanceof FileSystemFileHandle ? found : null;
}

/** Forgets a project. Its record goes first: without it nothing else is found again. */
export async function deleteProject(id: string): Promise<void> {
  forgetLatest(id);
  await store.removeItem(`project/${id}`);
  await letGo(id, null);
  await store.removeItem(`overview/${id}`);
  await store.removeItem(`origin/${id}`);
}
