import localforage from 'localforage';
import { z } from 'zod';
import { asLevelGridError, LevelGridError } from '../core/base';
import type { RawLayout } from '../core/formats';
import type { Overview } from '../core/raster';
import { parseRecipe, type Recipe } from '../core/recipe';

/** `project/1` held a recipe of version 1; recipes are carried over when they are read. */
const project = z.object({
  schema: z.enum(['project/1', 'project/2']).transform(() => 'project/2' as const),
  id: z.string().min(1),
  name: z.string().min(1),
  file: z.string().min(1),
  recipe: z.unknown(),
  step: z.string(),
  /** Ends of the section line, in source samples. */
  section: z
    .object({ a: z.object({ x: z.number(), y: z.number() }), b: z.object({ x: z.number(), y: z.number() }) })
    .nullable(),
});
/** A project as it is kept: the recipe and which source it is for. The source's bytes lie beside it. */
export type StoredProject = Omit<z.infer<typeof project>, 'recipe'> & { readonly recipe: Recipe };

const listing = z.array(z.object({ id: z.string(), name: z.string() }));
export type Listing = z.infer<typeof listing>;

const store = localforage.createInstance({ name: 'level-grid', storeName: 'projects' });

const full = (): LevelGridError =>
  new LevelGridError('unwritable', {
    found: 'no room left in the browser’s storage',
    expected: 'space for the project',
    remedy: 'Your work is still open. Delete projects you no longer need, or save the recipe and the source yourself.',
  });

async function put(key: string, value: unknown): Promise<void> {
  try {
    await store.setItem(key, value);
  } catch {
    throw full();
  }
}

export async function listProjects(): Promise<Listing> {
  const found = listing.safeParse(await store.getItem('list'));
  return found.success ? found.data : [];
}

export async function currentProject(): Promise<string | null> {
  const id = await store.getItem('current');
  return typeof id === 'string' ? id : null;
}

/** Keeps the recipe of a project; its source must have been kept before. */
export async function saveProject(value: StoredProject): Promise<void> {
  await put(`project/${value.id}`, value);
  const list = await listProjects();
  const entry = { id: value.id, name: value.name };
  const at = list.findIndex((p) => p.id === value.id);
  if (at < 0) await put('list', [...list, entry]);
  else if (list[at]?.name !== value.name)
    await put(
      'list',
      list.map((p) => (p.id === value.id ? entry : p)),
    );
  await put('current', value.id);
}

export async function saveSource(id: string, blob: Blob): Promise<void> {
  await put(`source/${id}`, blob);
}

/** A kept project with its source. What can't be read stays kept; the error says so. */
export async function loadProject(id: string): Promise<{ project: StoredProject; source: Blob }> {
  try {
    const found = project.safeParse(await store.getItem(`project/${id}`));
    const source = await store.getItem(`source/${id}`);
    // a recipe of an older version is carried over
    if (found.success && source instanceof Blob)
      return { project: { ...found.data, recipe: parseRecipe(found.data.recipe) }, source };
  } catch (reason) {
    throw asLevelGridError(reason, 'reading the kept project');
  }
  throw new LevelGridError('not-found', {
    found: 'a kept project that can’t be read',
    expected: 'its recipe and its source',
    remedy: 'It was left as it is. Open another project, or bring the file in again.',
  });
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

const read = (source: Blob, raw: RawLayout | null): string => `${source.size} ${JSON.stringify(raw)}`;

/** Keeps the overview of a project's source, or that it has none. */
export async function saveOverview(
  id: string,
  source: Blob,
  raw: RawLayout | null,
  overview: Overview | null,
): Promise<void> {
  if (overview) await put(`overview/${id}`, { schema: 'overview/1', of: read(source, raw), ...overview });
  else await store.removeItem(`overview/${id}`);
}

/** The overview of a source, if one of these bytes read in this way was kept. */
export async function loadOverview(id: string, source: Blob, raw: RawLayout | null): Promise<Overview | null> {
  const found = keptOverview.safeParse(await store.getItem(`overview/${id}`).catch(() => null));
  if (!found.success || found.data.of !== read(source, raw)) return null;
  const { level, width, height, samples } = found.data;
  return { level, width, height, samples };
}

export async function deleteProject(id: string): Promise<void> {
  await put(
    'list',
    (await listProjects()).filter((p) => p.id !== id),
  );
  await store.removeItem(`project/${id}`);
  await store.removeItem(`source/${id}`);
  await store.removeItem(`overview/${id}`);
}
