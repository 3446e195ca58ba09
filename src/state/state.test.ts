import { jest } from '@jest/globals';
import { LevelGridError, memorySource } from '@/core/base';
import { withTarget } from '@/core/edits';
import { partsOf } from '@/core/formats';
import type { Proof } from '@/core/proof';
import type { CountedSource } from '@/core/run';
import type * as State from '.';
import type * as Planning from './planning';
import type * as Storage from './storage';
import { heightsAmong, notesAmong, together } from './together';
import { cancelled, countedHills, FakeStore, FakeWorkers, measure } from '../../tests/helpers/fake-workers';

const store = new FakeStore();
jest.doMock('localforage', () => ({ __esModule: true, default: { createInstance: () => store } }));
jest.doMock('../workers/client', () => ({ WorkerClient: FakeWorkers }));
// what stands in for storage and workers must be there first
let state: typeof State;
let planning: typeof Planning;
let storage: typeof Storage;

const session = () => state.useSession.getState();
const recipe = () => state.useRecipe.getState().recipe;
const editRecipe: (typeof state)['editRecipe'] = (change) => state.editRecipe(change);
const workers = () => FakeWorkers.last;
const file = (name: string, bytes = 4) => new File([new Uint8Array(bytes)], name);
/** Reads and checksums that other threads are at. */
let elsewhere = 0;
function counted<T extends object, K extends keyof T>(of: T, name: K): void {
  const plain = of[name] as (...a: unknown[]) => Promise<unknown>;
  of[name] = function (this: unknown, ...a: unknown[]) {
    elsewhere++;
    return plain.apply(this, a).finally(() => elsewhere--);
  } as T[K];
}
counted(Blob.prototype, 'arrayBuffer');
counted(crypto.subtle, 'digest');

/** Lets everything that is ready go on, until nothing more comes. */
const settle = async () => {
  for (let quiet = 0; quiet < 8; quiet = elsewhere > 0 ? 0 : quiet + 1)
    await new Promise((resolve) => setImmediate(resolve));
};
const bad = (): LevelGridError =>
  new LevelGridError('corrupt', { found: 'damage', expected: 'a whole file', remedy: 'Copy it again.' });

let hills: CountedSource;

/** Brings a file in, from its name to the end. */
async function broughtIn(name: string, bytes = 4): Promise<string> {
  const bringing = state.bringIn(file(name, bytes));
  await settle();
  const call = workers().opened.at(-1)!;
  call.header(hills.facts);
  call.finish(hills.facts);
  await bringing;
  await settle();
  return call.key;
}

/** The open source read again, from its header to the end, as after the death of a worker. */
async function readAgain(): Promise<void> {
  (await import('./projects')).readAgain();
  await settle();
  const call = workers().opened.at(-1)!;
  call.header(hills.facts);
  call.finish(hills.facts);
  await settle();
}

beforeAll(async () => {
  jest.useFakeTimers({ doNotFake: ['setImmediate', 'queueMicrotask', 'performance', 'Date'] });
  state = await import('.');
  planning = await import('./planning');
  storage = await import('./storage');
  // as the application wires them
  state.useRecipe.subscribe(planning.replan);
  state.useSession.subscribe((now, before) => {
    if (now.facts !== before.facts) planning.replan();
  });
  const { onHistoryStep } = await import('./recipe-store');
  const { followHistory } = await import('./projects');
  onHistoryStep(followHistory);
  hills = await countedHills(505);
  state.workers();
});
beforeEach(async () => {
  store.full = null;
  state.patchSession({ error: null });
  await broughtIn('kettle-tarn.png');
});

/** A whole proof, typed: what the page's state comes to need must be here. */
const PROVED: Proof = {
  holds: true,
  compared: 'source',
  draft: null,
  step: 0.01,
  encodingError: {
    max: 0,
    mean: 0,
    rms: 0,
    budget: { halfStep: 0.005, typing: 0, arithmetic: 0 },
    samples: 9,
    against: 'fitted ground',
  },
  groundError: null,
  clipped: null,
  places: null,
  differentSamples: 0,
  checks: [],
  trusted: [],
  wrongValues: [],
  spots: [],
  unit: 'm',
  seams: { compared: 0, different: 0 },
  rim: null,
};

test('a file shows its header facts at once and is kept when it is whole', async () => {
  const bringing = state.bringIn(file('far-shore.png'));
  await settle();
  expect(session().facts?.file).toBe('kettle-tarn.png');
  expect(session().job?.label).toBe('Reading far-shore.png');
  const call = workers().opened.at(-1)!;
  call.header(hills.facts);
  expect(recipe()?.name).toBe('far-shore');
  expect(session()).toMatchObject({ arrived: 0, held: true, step: 'bring-in' });
  expect(session().plan?.document.fit).toMatchObject({ width: 505, height: 505 });
  // nothing of it is kept before it has turned out to be good
  expect([...store.values.keys()].some((k) => k === `project/${session().projectId}`)).toBe(false);
  call.report(250, 505);
  expect(session().arrived).toBe(250);
  expect(session().job?.progress).toBeCloseTo(250 / 505);
  call.finish(hills.facts);
  await bringing;
  expect(session()).toMatchObject({ arrived: null, job: null, error: null });
  const id = session().projectId!;
  expect(store.values.get(`project/${id}`)).toMatchObject({ recipe: { name: 'far-shore' }, file: 'far-shore.png' });
  const { source } = store.values.get(`project/${id}`) as { source: { key: string } };
  expect(store.values.get(source.key)).toBeInstanceOf(Blob);
  expect(session().projects.map((p) => p.name)).toContain('far-shore');
});

describe('a page that ends before the record of what it brought in is kept', () => {
  const notes = new Map<string, string>();
  beforeAll(() => {
    Object.assign(globalThis, {
      localStorage: {
        getItem: (key: string) => notes.get(key) ?? null,
        setItem: (key: string, value: string) => void notes.set(key, value),
        removeItem: (key: string) => void notes.delete(key),
      },
    });
  });
  afterAll(() => Reflect.deleteProperty(globalThis, 'localStorage'));

  /** Brings a file in; its record is never written, its source and what is noted of it are. */
  async function endedEarly(): Promise<string> {
    store.full = 'project/';
    await broughtIn('far-shore.png');
    store.full = null;
    const id = session().projectId!;
    expect(store.values.has(`project/${id}`)).toBe(false);
    return id;
  }

  test('finds it again', async () => {
    const id = await endedEarly();
    await storage.keepLatest();
    expect(await storage.currentProject()).toBe(id);
    const { project } = await storage.loadProject(id);
    expect(project).toMatchObject({ file: 'far-shore.png', recipe: { name: 'far-shore' } });
    expect(notes.size).toBe(0);
  });

  test('finds nothing where its source was not kept, or it was deleted since', async () => {
    const id = await endedEarly();
    const kept = [...store.values.keys()].find((k) => k.startsWith(`source/${id}/`))!;
    const bytes = store.values.get(kept);
    store.values.delete(kept);
    await storage.keepLatest();
    expect(store.values.has(`project/${id}`)).toBe(false);
    store.values.set(kept, bytes);
    expect(notes.size).toBe(1);
    await storage.deleteProject(id);
    await storage.keepLatest();
    expect(store.values.has(`project/${id}`)).toBe(false);
    expect(notes.size).toBe(0);
  });
});

test.each([
  ['turns out to be damaged', bad(), 'corrupt'],
  ['is cancelled', cancelled(), undefined],
])('a file that %s leaves what was open as it was', async (_, reason, shown) => {
  editRecipe((r) => ({ ...r, fit: { ...r.fit, size: 253 } }));
  const before = session();
  const bringing = state.bringIn(file('far-shore.png'));
  await settle();
  const call = workers().opened.at(-1)!;
  call.header(hills.facts);
  expect(recipe()?.name).toBe('far-shore');
  call.reject(reason);
  await bringing;
  const { projectId, sourceKey, facts, source, step } = before;
  expect(session()).toMatchObject({ projectId, sourceKey, step, job: null, arrived: null });
  expect(session().facts).toBe(facts);
  expect(session().source).toBe(source);
  expect(session().error?.code).toBe(shown);
  expect(recipe()?.fit.size).toBe(253);
  state.undo();
  expect(recipe()?.fit.size).toBe(505);
  expect(workers().released).toContain(call.key);
  expect(workers().released).not.toContain(sourceKey);
});

test('a file dropped while another is read: the workers let go of both earlier sources', async () => {
  const first = session().sourceKey!;
  const one = state.bringIn(file('far-shore.png'));
  await settle();
  const [second] = workers().opened.slice(-1);
  second!.header(hills.facts);
  const two = state.bringIn(file('cold-ridge.png'));
  await settle();
  const [third] = workers().opened.slice(-1);
  expect(second!.cancelled).toBe(true);
  // too late to be cancelled: it arrives all the same
  second!.finish(hills.facts);
  await one;
  expect(recipe()?.name).not.toBe('cold-ridge');
  third!.header(hills.facts);
  third!.finish(hills.facts);
  await two;
  expect(recipe()?.name).toBe('cold-ridge');
  expect(session()).toMatchObject({ sourceKey: third!.key, job: null });
  expect(workers().released.slice(-2).sort()).toEqual([first, second!.key].sort());
});

test('a bring-in that is cancelled brings back all that belongs to the project, whatever that is', async () => {
  const { NO_PROJECT, patchSession } = state;
  const spot = { column: 3, row: 4, stored: 5, shown: 6, elevation: 7 };
  patchSession({
    knownSpots: [spot],
    view: 'steps',
    sectionAt: 0.25,
    section: { a: { x: 1, y: 2 }, b: { x: 30, y: 4 } },
  });
  const before = session();
  const bringing = state.bringIn(file('far-shore.png'));
  await settle();
  workers().opened.at(-1)!.header(hills.facts);
  await settle();
  expect(session().knownSpots).toEqual([]);
  workers().opened.at(-1)!.reject(cancelled());
  await bringing;
  const after = session();
  const changed = (Object.keys(NO_PROJECT) as (keyof typeof NO_PROJECT)[]).filter((k) => after[k] !== before[k]);
  // the plan is worked out anew, and says the same
  expect(changed).toEqual(['plan']);
  expect(after.plan?.document.card).toEqual(before.plan?.document.card);
  expect(after.knownSpots).toEqual([spot]);
  patchSession({ knownSpots: [], view: 'relief', sectionAt: null });
});

test('a second file that fails brings back the project from before both', async () => {
  const { projectId, sourceKey } = session();
  const one = state.bringIn(file('far-shore.png'));
  await settle();
  workers().opened.at(-1)!.header(hills.facts);
  const two = state.bringIn(file('cold-ridge.png'));
  await settle();
  const [second, third] = workers().opened.slice(-2);
  second!.reject(cancelled());
  await one;
  third!.header(hills.facts);
  third!.reject(bad());
  await two;
  expect(session()).toMatchObject({ projectId, sourceKey, job: null });
});

test('full storage: the source stays open, and what could not be kept is said', async () => {
  store.full = '';
  const key = await broughtIn('far-shore.png');
  expect(session()).toMatchObject({ sourceKey: key, arrived: null });
  expect(recipe()?.name).toBe('far-shore');
  expect(session().error).toBeNull();
  expect(session().notice).toContain('This project is not kept: found no room left');
  expect(session().unkept?.code).toBe('unwritable');
  expect(workers().released).not.toContain(key);
  // said once, not at each change; and no more when it is kept again
  state.patchSession({ notice: null });
  const { saveNow } = await import('./keeping');
  await saveNow();
  expect(session().notice).toBeNull();
  // an overview for which there is no room is no fault
  state.patchSession({ error: null });
  store.full = 'overview/';
  workers().kept = { level: 1, width: 2, height: 2, samples: new Uint16Array(4) };
  await broughtIn('cold-ridge.png');
  expect(session().error).toBeNull();
});

test('a large source opens again with its overview; other bytes or another layout have none', async () => {
  workers().kept = { level: 1, width: 253, height: 253, samples: new Uint16Array(253 * 253).fill(7) };
  await broughtIn('far-shore.png', 9);
  const id = session().projectId!;
  await broughtIn('cold-ridge.png');
  const again = state.openProject(id);
  await settle();
  const call = workers().opened.at(-1)!;
  expect(call.overview).toEqual(workers().kept);
  call.header(hills.facts);
  expect(session().wholeFrom).toBe(1);
  call.finish(hills.facts);
  await again;
  expect(session().wholeFrom).toBeNull();
  const { loadOverview } = storage;
  const nine = new Blob([new Uint8Array(9)]);
  expect(await loadOverview(id, nine, {})).not.toBeNull();
  expect(await loadOverview(id, new Blob([new Uint8Array(8)]), {})).toBeNull();
  expect(
    await loadOverview(id, nine, { raw: { width: 3, height: 3, type: 'u16', byteOrder: 'little', skip: 0 } }),
  ).toBeNull();
  store.values.set(`overview/${id}`, { ...(store.values.get(`overview/${id}`) as object), width: 9 });
  expect(await loadOverview(id, nine, {})).toBeNull();
  workers().kept = null;
});

test('the ground is measured when the recipe rests; an earlier measurement is given up and never shown', async () => {
  jest.runOnlyPendingTimers();
  const size = (to: number) => editRecipe((r) => ({ ...r, fit: { ...r.fit, size: to } }));
  size(253);
  size(127);
  const asked = workers().measured.length;
  jest.advanceTimersByTime(149);
  expect(workers().measured).toHaveLength(asked);
  jest.advanceTimersByTime(1);
  expect(workers().measured).toHaveLength(asked + 1);
  const early = workers().measured.at(-1)!;
  expect(early.recipe.fit.size).toBe(127);
  size(505);
  jest.advanceTimersByTime(150);
  const late = workers().measured.at(-1)!;
  expect(early.cancelled).toBe(true);
  early.resolve(await measure(hills, early.recipe));
  await settle();
  expect(session().ground).toBeNull();
  const ground = await measure(hills, late.recipe);
  late.resolve(ground);
  await settle();
  expect(session().ground).toBe(ground);
  expect(session().plan?.document.spots.find((s) => s.id === 'highest')?.elevation).toBeCloseTo(500, 6);
  // what leaves the ground alone is not measured again
  const after = workers().measured.length;
  editRecipe((r) => ({ ...r, output: { ...r.output, format: 'raw' } }));
  // there are no voids that could get an elevation
  editRecipe((r) => ({ ...r, fit: { ...r.fit, voids: 12 }, height: { ...r.height, exaggeration: 2.2 } }));
  editRecipe((r) => ({ ...r, height: { ...r.height, sea: 77, offset: 'sea' } }));
  jest.advanceTimersByTime(1000);
  expect(workers().measured).toHaveLength(after);
});

test('whatever changes the fitted ground has it measured again', () => {
  jest.runOnlyPendingTimers();
  for (const change of [
    { clamp: false },
    { filter: 'nearest' },
    { size: 253 },
    { method: 'crop' },
    { at: [3, 5] },
    { method: 'pad' },
    { rim: 400 },
  ] as const) {
    const before = workers().measured.length;
    editRecipe((r) => ({ ...r, fit: { ...r.fit, ...change } as typeof r.fit }));
    jest.advanceTimersByTime(150);
    expect([change, workers().measured.length]).toEqual([change, before + 1]);
  }
});

test('a pack is proved with what is typed; where that fails the pack before it stays', async () => {
  const making = state.makePack();
  await settle();
  expect(session().job?.label).toBe('Writing the pack');
  const files = new Map([['recipe.json', new Blob([JSON.stringify(recipe())])]]);
  workers()
    .packed.at(-1)!
    .resolve({ document: { source: { file: 'kettle-tarn.png' } }, files });
  await settle();
  expect(session().job?.label).toBe('Proving the pack');
  workers().proved.at(-1)!.resolve({ proof: PROVED, maps: null });
  expect(await making).toBe(true);
  const { pack, proof } = session();
  expect(pack).toMatchObject({ key: state.packKey(recipe(), session().facts) });
  expect(proof).toMatchObject({ proof: { holds: true }, key: pack!.key });

  state.noteTyped('height-scale', 7);
  const again = state.makePack();
  await settle();
  workers()
    .packed.at(-1)!
    .resolve({ document: { source: { file: 'kettle-tarn.png' } }, files });
  await settle();
  expect(workers().proved.at(-1)!.typed).toEqual({ 'height-scale': 7 });
  workers().proved.at(-1)!.reject(cancelled());
  expect(await again).toBe(false);
  expect(session().pack).toBe(pack);
  expect(session().proof).toBe(proof);
  expect(session()).toMatchObject({ job: null, error: null });

  const failing = state.makePack();
  await settle();
  workers().packed.at(-1)!.reject(bad());
  expect(await failing).toBe(false);
  expect(session().pack).toBe(pack);
  expect(session().error?.code).toBe('corrupt');
});

test('a draft has a state of its own: pack and proof of the full recipe stay as they are', async () => {
  const { pack, proof } = session();
  const making = state.makeDraft(253);
  await settle();
  expect(session().job?.label).toBe('Writing the draft');
  expect(workers().packed.at(-1)!.recipe).toMatchObject({ draft: 253, fit: { size: 253 } });
  workers()
    .packed.at(-1)!
    .resolve({ document: { source: { file: 'kettle-tarn.png' } }, files: new Map() });
  await settle();
  expect(session().job?.label).toBe('Proving the draft');
  workers().proved.at(-1)!.resolve({ proof: PROVED, maps: null });
  expect(await making).toBe(true);
  expect(session().draft).toMatchObject({
    vertices: 253,
    key: state.packKey(recipe(), session().facts),
    proof: { holds: true },
  });
  expect(session().pack).toBe(pack);
  expect(session().proof).toBe(proof);
});

test('nothing is packed while a source is still being read', async () => {
  const bringing = state.bringIn(file('far-shore.png'));
  await settle();
  const call = workers().opened.at(-1)!;
  call.header(hills.facts);
  const before = workers().packed.length;
  expect(await state.makePack()).toBe(false);
  expect(workers().packed).toHaveLength(before);
  call.finish(hills.facts);
  await bringing;
});

test('a source read in another way keeps every later choice; where it fails nothing changes', async () => {
  editRecipe((r) => ({ ...r, fit: { ...r.fit, size: 253 }, name: 'Kettle' }));
  const layout = { width: 505, height: 505, type: 'u16', byteOrder: 'big', skip: 0 } as const;
  const before = recipe();
  const failing = state.rereadAs(layout);
  await settle();
  workers().opened.at(-1)?.reject(bad());
  await failing;
  expect(recipe()).toBe(before);
  const reading = state.rereadAs(layout);
  await settle();
  const call = workers().opened.at(-1)!;
  expect(call.reading).toEqual({ raw: layout });
  call.header(hills.facts);
  call.finish(hills.facts);
  await reading;
  expect(recipe()).toMatchObject({ name: 'Kettle', fit: { size: 253 }, source: { raw: layout } });
  // a step back reads it as it was read before
  state.undo();
  await settle();
  const back = workers().opened.at(-1)!;
  expect(back.reading).toEqual({});
  back.header(hills.facts);
  back.finish(hills.facts);
  await settle();
  expect(recipe()?.source.raw).toBeUndefined();
});

test('a source replaced by one of another size keeps its extent, or its spacing; undo takes the old one back', async () => {
  editRecipe((r) => ({ ...r, source: { ...r.source, spacing: 4 } }));
  const before = recipe();
  const { file: name } = session().facts!;
  const replacing = state.replaceSource([file('kettle-tarn-2.png', 5)]);
  await settle();
  const call = workers().opened.at(-1)!;
  const { info } = hills.facts;
  const larger = { ...hills.facts, info: { ...info, width: info.width * 2 - 1, height: info.height * 2 - 1 } };
  call.header(larger);
  call.finish(larger);
  await replacing;
  expect(session().facts?.file).toBe('kettle-tarn-2.png');
  // twice the intervals over the same ground
  expect(recipe()?.source.spacing).toBeCloseTo(2, 12);
  state.setKeeps('spacing');
  expect(recipe()?.source.spacing).toBe(4);
  state.setKeeps('extent');
  expect(recipe()?.source.spacing).toBeCloseTo(2, 12);
  expect(session().replacement).toMatchObject({ keeps: 'extent' });
  while (recipe() !== before) state.undo();
  await settle();
  const back = workers().opened.at(-1)!;
  expect(back.file).toBe(name);
  back.header(hills.facts);
  back.finish(hills.facts);
  await settle();
  expect(session().facts?.file).toBe(name);
});

test('a file that was refused can be read as a headerless one, with what was typed', async () => {
  const bringing = state.bringIn(file('strange.png'));
  await settle();
  workers().opened.at(-1)!.reject(bad());
  await bringing;
  expect(session().refusedFile?.name).toBe('strange.png');
  const layout = { width: 2, height: 2, type: 'u16', byteOrder: 'little', skip: 0 } as const;
  const reading = state.readAsRaw(session().refusedFile!, layout);
  await settle();
  const call = workers().opened.at(-1)!;
  expect(call.reading).toEqual({ raw: layout });
  call.header({ ...hills.facts, raw: layout });
  call.finish({ ...hills.facts, raw: layout });
  await reading;
  expect(recipe()?.source.raw).toEqual(layout);
  expect(session().refusedFile).toBeNull();
});

test('a project that was kept by an earlier version is carried over', async () => {
  const old = {
    version: 1,
    name: 'Sluice Delta',
    source: { low: 0, high: 500, spacing: 1, assumed: true },
    target: 'component-grid',
    fit: { size: 505 },
  };
  store.values.set('project/old', {
    schema: 'project/1',
    id: 'old',
    name: 'Sluice Delta',
    file: 'sluice-delta.png',
    recipe: old,
    step: 'fit',
    section: null,
  });
  store.values.set('source/old', new Blob([new Uint8Array(9)]));
  const { project } = await storage.loadProject('old');
  expect(project).toMatchObject({
    schema: 'project/4',
    recipe: {
      version: 4,
      source: { heights: { as: 'ends', low: 0, high: 500 }, assumed: ['low', 'high', 'spacing'] },
      fit: { clamp: false },
    },
  });
});

test('storage that fails at any write keeps the state before or the state after, never a mixture', async () => {
  const counts = { before: 0, after: 0 };
  for (let failing = 1; failing < 12; failing++) {
    const key = await broughtIn('kettle-tarn.png', 9);
    const id = session().projectId!;
    editRecipe((r) => ({ ...r, name: 'before' }));
    await (await import('./keeping')).saveNow();
    store.failAt = failing;
    const replacing = state.replaceSource([file('kettle-tarn-2.png', 14)]);
    await settle();
    const call = workers().opened.at(-1)!;
    call.header(hills.facts);
    call.finish(hills.facts);
    await replacing;
    editRecipe((r) => ({ ...r, name: 'after' }));
    await (await import('./keeping')).saveNow();
    store.failAt = null;
    // what a reload finds
    const { project, source } = await storage.loadProject(id);
    expect([project.file, source.size, project.source.size]).toEqual(
      project.file === 'kettle-tarn.png' ? ['kettle-tarn.png', 9, 9] : ['kettle-tarn-2.png', 14, 14],
    );
    counts[project.file === 'kettle-tarn.png' ? 'before' : 'after']++;
    expect((await storage.listProjects()).map((p) => p.id)).toContain(id);
    expect(key).toContain(id);
    state.patchSession({ error: null });
  }
  process.stderr.write(
    `storage failing from write 1 to 11 on: ${counts.before} old, ${counts.after} new, a mixture 0\n`,
  );
  expect(counts.before).toBeGreaterThan(0);
  expect(counts.after).toBeGreaterThan(0);
});

test('a project whose source is gone or is another one says so, by name and checksum', async () => {
  await broughtIn('kettle-tarn.png', 9);
  const id = session().projectId!;
  const { source } = store.values.get(`project/${id}`) as { source: { key: string } };
  const right = store.values.get(source.key);
  for (const wrong of [undefined, new Blob([new Uint8Array(9).fill(1)]), new Blob([new Uint8Array(8)])]) {
    if (wrong) store.values.set(source.key, wrong);
    else store.values.delete(source.key);
    await expect(storage.loadProject(id)).rejects.toMatchObject({
      code: 'source-missing',
      file: 'kettle-tarn.png',
      expected: expect.stringMatching(/kettle-tarn\.png of 9 bytes \(checksum [0-9a-f]{12}/),
    });
  }
  store.values.set(source.key, right);
  expect((await storage.loadProject(id)).source.size).toBe(9);
});

test('while another tab edits nothing is kept from here', async () => {
  await broughtIn('kettle-tarn.png');
  const id = session().projectId!;
  state.patchSession({ following: true });
  editRecipe((r) => ({ ...r, name: 'from here' }));
  await (await import('./keeping')).saveNow();
  expect(store.values.get(`project/${id}`)).toMatchObject({ recipe: { name: 'kettle-tarn' } });
  state.patchSession({ following: false });
  await (await import('./keeping')).saveNow();
  expect(store.values.get(`project/${id}`)).toMatchObject({ recipe: { name: 'from here' } });
});

test('a deleted project is gone with its source and overview, and another one is opened', async () => {
  const [other] = [session().projectId!];
  await broughtIn('far-shore.png');
  const id = session().projectId!;
  const removing = state.removeProject(id);
  await settle();
  const call = workers().opened.at(-1)!;
  call.header(hills.facts);
  call.finish(hills.facts);
  await removing;
  expect([...store.values.keys()].filter((k) => k.includes(id))).toEqual([]);
  expect(session().projectId).not.toBe(id);
  expect(session().projects.map((p) => p.id)).not.toContain(id);
  expect(session().projects.map((p) => p.id)).toContain(other);
});

test('a kept project that can’t be read is left as it is, and so is what is open', async () => {
  const { projectId } = session();
  store.values.set('project/broken', { schema: 'project/9' });
  await state.openProject('broken');
  expect(session()).toMatchObject({ projectId, job: null });
  expect(session().error?.code).toBe('not-found');
  expect(store.values.has('project/broken')).toBe(true);
});

test('a new name is in the list once it is kept, and can be undone', async () => {
  const id = session().projectId!;
  const { saveNow } = await import('./keeping');
  const listed = () => session().projects.find((p) => p.id === id)?.name;
  state.renameProject('Lantern Post');
  expect(recipe()?.name).toBe('Lantern Post');
  await saveNow();
  expect(listed()).toBe('Lantern Post');
  state.undo();
  await saveNow();
  expect([recipe()?.name, listed()]).toEqual(['kettle-tarn', 'kettle-tarn']);
});

test('what was typed into the target is kept with the project, can be undone, and goes with its target', async () => {
  const id = session().projectId!;
  const { saveNow } = await import('./keeping');
  const typed = () => state.useRecipe.getState().typed;
  state.noteTyped('heightScale', 7);
  state.noteTyped('byteOrder', 'big');
  state.noteTyped('byteOrder', null);
  expect(typed()).toEqual({ heightScale: 7 });
  await saveNow();
  expect((await storage.loadProject(id)).project.typed).toEqual({ heightScale: 7 });
  editRecipe((r) => withTarget(r, 'odd-grid', hills.facts.info));
  expect(typed()).toEqual({});
  state.undo();
  expect(typed()).toEqual({ heightScale: 7 });
  state.typedAsOnCard();
  expect(typed()).toEqual({});
});

test('a pack that is being made when another project is opened is dropped, and said', async () => {
  const first = session().projectId!;
  const making = state.makePack();
  await settle();
  const late = workers().packed.at(-1)!;
  await broughtIn('far-shore.png');
  expect(late.cancelled).toBe(true);
  expect(session().notice).toBe('kettle-tarn: writing the pack was stopped, because far-shore was opened.');
  // a worker that could not be stopped in the middle hands it over all the same
  late.resolve({ document: { source: { file: 'kettle-tarn.png' } }, files: new Map() });
  expect(await making).toBe(false);
  expect(session()).toMatchObject({ pack: null, proof: null, job: null, error: null });
  expect(session().projectId).not.toBe(first);
});

test('a second proof while one runs: only the one with the newer values counts', async () => {
  const making = state.makePack();
  await settle();
  workers()
    .packed.at(-1)!
    .resolve({ document: { source: { file: 'kettle-tarn.png' } }, files: new Map() });
  await settle();
  const early = workers().proved.at(-1)!;
  state.noteTyped('heightScale', 7);
  const again = state.provePack();
  await settle();
  expect(early.cancelled).toBe(true);
  expect(session().job?.label).toBe('Proving the pack again');
  const late = workers().proved.at(-1)!;
  expect(late.typed).toEqual({ heightScale: 7 });
  early.resolve({ proof: PROVED, maps: null });
  expect(await making).toBe(false);
  expect(session().proof).toBeNull();
  late.resolve({ proof: { ...PROVED, holds: false }, maps: null });
  expect(await again).toBe(true);
  expect(session().proof?.proof).toEqual({ ...PROVED, holds: false });
  expect(session().pack).not.toBeNull();
});

test('a record that can’t be kept is said once, until it is kept again', async () => {
  const { saveNow } = await import('./keeping');
  store.full = 'project/';
  for (const name of ['one', 'two']) {
    editRecipe((r) => ({ ...r, name }));
    await saveNow();
    expect([name, session().notice]).toEqual([name, name === 'one' ? expect.stringContaining('no room') : null]);
    expect(session().unkept).not.toBeNull();
    state.patchSession({ notice: null });
  }
  store.full = null;
  await saveNow();
  expect(session().unkept).toBeNull();
  expect(session().projects.map((p) => p.name)).toContain('two');
});

test('several files become a project each, and one sentence says what became of them', async () => {
  const names = ['sluice-delta.png', 'damaged.png', 'notes.txt', 'far-shore.RAW'];
  const bringing = state.bringInAll(names.map((n) => file(n)));
  for (const damaged of [false, true, false]) {
    await settle();
    const call = workers().opened.at(-1)!;
    call.header(hills.facts);
    if (damaged) call.reject(bad());
    else call.finish(hills.facts);
  }
  await bringing;
  expect(session()).toMatchObject({
    error: null,
    notice:
      '2 of 4 files became projects, each its own; far-shore is open, the Project menu lists them all. ' +
      'Not read: damaged.png (found damage). 1 with other endings was left alone.',
  });
  expect(session().projects.map((p) => p.name)).toEqual(expect.arrayContaining(['far-shore', 'sluice-delta']));
});

test('cancelling one of several files ends it; the rest is said to be not begun', async () => {
  const before = session().projectId;
  const bringing = state.bringInAll(['a.png', 'b.png', 'c.png'].map((n) => file(n)));
  await settle();
  const call = workers().opened.at(-1)!;
  call.header(hills.facts);
  call.reject(cancelled());
  await bringing;
  expect(session()).toMatchObject({
    projectId: before,
    notice: 'None of 3 files became a project. 3 not begun.',
  });
});

test('a source replaced by one of the same size is a step that can be undone, and taken again', async () => {
  const name = session().facts!.file;
  const arrives = async (of: string) => {
    await settle();
    const call = workers().opened.at(-1)!;
    expect(call.file).toBe(of);
    call.header(hills.facts);
    call.finish(hills.facts);
    await settle();
    expect(session().facts?.file).toBe(of);
  };
  const before = recipe();
  const replacing = state.replaceSource([file('kettle-tarn-2.png', 5)]);
  await arrives('kettle-tarn-2.png');
  await replacing;
  expect(recipe()).toEqual(before);
  state.undo();
  await arrives(name);
  state.redo();
  await arrives('kettle-tarn-2.png');
  // a source that can't be read again leaves recipe and source as they were, side by side
  const { source } = state.useRecipe.getState();
  state.undo();
  await settle();
  workers().opened.at(-1)!.reject(bad());
  await settle();
  expect(session().facts?.file).toBe('kettle-tarn-2.png');
  expect(state.useRecipe.getState().source).toBe(source);
  expect(session().error?.code).toBe('corrupt');
});

test('a recipe that can’t be one for the new source leaves the old one open', async () => {
  editRecipe((r) => ({ ...r, source: { ...r.source, spacing: 1e5 } }));
  const before = recipe();
  const replacing = state.replaceSource([file('one-row.png', 6)]);
  await settle();
  const call = workers().opened.at(-1)!;
  // half the samples over the same ground would lie further apart than a recipe can say
  call.header({ ...hills.facts, info: { ...hills.facts.info, width: 253, height: 253 } });
  expect(call.cancelled).toBe(true);
  call.reject(cancelled());
  await replacing;
  expect(recipe()).toBe(before);
  expect(session()).toMatchObject({ job: null, arrived: null, error: { code: 'recipe-value' } });
  expect(session().facts?.file).toBe('kettle-tarn.png');
});

test('a project that has lost its source asks for the file; the same one opens it, another one only when asked', async () => {
  await broughtIn('kettle-tarn.png', 9);
  const id = session().projectId!;
  editRecipe((r) => ({ ...r, name: 'Kettle' }));
  await (await import('./keeping')).saveNow();
  const { source } = store.values.get(`project/${id}`) as { source: { key: string } };
  store.values.delete(source.key);
  await broughtIn('far-shore.png');
  await state.openProject(id);
  expect(session()).toMatchObject({ error: null, orphan: { project: { id, file: 'kettle-tarn.png' }, other: null } });
  const opened = workers().opened.length;
  await state.adopt(new File([new Uint8Array(9).fill(1)], 'other.png'));
  expect(session().orphan?.other?.name).toBe('other.png');
  expect(workers().opened).toHaveLength(opened);
  const adopting = state.adopt(file('kettle-tarn.png', 9));
  await settle();
  const call = workers().opened.at(-1)!;
  call.header(hills.facts);
  call.finish(hills.facts);
  await adopting;
  expect(session()).toMatchObject({ projectId: id, orphan: null });
  expect(recipe()?.name).toBe('Kettle');
  // and is kept with it again
  await settle();
  expect((await storage.loadProject(id)).source.size).toBe(9);
});

test('an error stays where work begins again by itself, and goes where another project is opened', async () => {
  const error = bad().toRecord();
  state.patchSession({ error });
  await readAgain();
  expect(session().error).toEqual(error);
  await broughtIn('far-shore.png');
  expect(session().error).toBeNull();
});

test('a project that is opened unasked gives way to a file that was chosen meanwhile', async () => {
  const kept = session().projectId!;
  const bringing = state.bringIn(file('sluice-delta.png'));
  await settle();
  const call = workers().opened.at(-1)!;
  await state.openProject(kept, true);
  await settle();
  expect(workers().opened.at(-1)).toBe(call);
  call.header(hills.facts);
  call.finish(hills.facts);
  await bringing;
  expect(recipe()?.name).toBe('sluice-delta');
});

test('of a file that was just brought in the open numbers are asked for, once', async () => {
  const key = await broughtIn('far-shore.png');
  expect(session()).toMatchObject({ ask: key, pane: 'bench' });
  state.patchSession({ ask: null });
  await readAgain();
  expect(session().ask).toBeNull();
});

describe('a source that is read again', () => {
  test('with the very same bytes is unchanged, whatever it is called by now', async () => {
    await broughtIn('kettle-tarn.png', 9);
    const opened = workers().opened.length;
    const before = recipe();
    for (const again of [file('kettle-tarn.png', 9), file('kettle-tarn-final.png', 9)]) {
      await state.readFileAgain([again]);
      expect(session().notice).toBe(`${again.name} is unchanged: it holds the very bytes of the source that is open.`);
    }
    expect(workers().opened).toHaveLength(opened);
    expect(recipe()).toBe(before);
  });

  test('with other bytes it takes the place of the source, read as before', async () => {
    await broughtIn('kettle-tarn.png', 9);
    const layout = { width: 3, height: 3, type: 'u8', byteOrder: 'little', skip: 0 } as const;
    editRecipe((r) => ({ ...r, source: { ...r.source, raw: layout, spacing: 4 } }));
    const headerless = (size: number) =>
      workers().looks.set('kettle-tarn.png', { takes: 'raw', names: ['kettle-tarn.png'], size });
    headerless(9);
    const reading = state.readFileAgain([new File([new Uint8Array(9).fill(7)], 'kettle-tarn.png')]);
    await settle();
    const call = workers().opened.at(-1)!;
    expect(call.reading).toEqual({ raw: layout });
    call.header(hills.facts);
    call.finish(hills.facts);
    await reading;
    expect(recipe()?.source).toMatchObject({ raw: layout, spacing: 4 });
    expect(session().replacement?.dropped).toEqual([]);
    // of another length the layout can't be the same, which is said
    headerless(16);
    const longer = state.readFileAgain([new File([new Uint8Array(16).fill(7)], 'kettle-tarn.png')]);
    await settle();
    expect(workers().opened.at(-1)!.reading).toEqual({});
    workers().opened.at(-1)!.header(hills.facts);
    workers().opened.at(-1)!.finish(hills.facts);
    await longer;
    expect(recipe()?.source).not.toHaveProperty('raw');
    expect(session().replacement?.dropped).toEqual([
      'the layout of the headerless file (the new one has another length)',
    ]);
  });

  test('a pack is one of its content: other bytes make it old, the very same don’t', async () => {
    await broughtIn('kettle-tarn.png', 9);
    const { packKey } = state;
    const facts = (content: string) => ({ ...session().facts!, content });
    expect(packKey(recipe(), facts('one'))).toBe(packKey(recipe(), facts('one')));
    expect(packKey(recipe(), facts('two'))).not.toBe(packKey(recipe(), facts('one')));
    expect(packKey({ ...recipe()!, name: 'else' }, facts('one'))).not.toBe(packKey(recipe(), facts('one')));
  });

  test('what new heights cost is told for each way to go on, and one can be taken', async () => {
    await broughtIn('kettle-tarn.png', 9);
    const reading = state.readFileAgain([new File([new Uint8Array(9).fill(8)], 'kettle-tarn.png')]);
    await settle();
    const lower = { ...hills.facts, content: 'other', stats: { ...hills.facts.stats!, max: 50000 } };
    workers().opened.at(-1)!.header(lower);
    workers().opened.at(-1)!.finish(lower);
    await reading;
    const tried: string[] = [];
    for (let i = 0; i < 3; i++) {
      await settle();
      const call = workers().weighed.at(-1)!;
      tried.push(call.recipe.height.range);
      const ground = await measure(hills, call.recipe);
      call.resolve({ facts: lower, ground });
    }
    await settle();
    expect(tried).toEqual(['pinned', 'source', 'codes']);
    const { ways, range } = session().replacement!;
    expect(range).toEqual({ low: 0, high: 500 });
    // held values need no typing; those that follow the new ground do
    expect(ways!.map((w) => [w.id, w.changed])).toEqual([
      ['hold', []],
      ['follow', ['Height scale', 'Height offset']],
      ['codes', []],
    ]);
    state.takeWay(ways![0]!);
    expect(recipe()?.height).toMatchObject({ range: 'pinned', low: 0, high: 500 });
    state.takeWay(ways![1]!);
    expect(recipe()?.height.range).toBe('source');
  });

  test('of a picture that fills all its codes it is asked what its ends stand for', async () => {
    await broughtIn('kettle-tarn.png', 9);
    const again = async (content: string, max: number) => {
      const reading = state.readFileAgain([new File([new Uint8Array(9).fill(max & 255)], 'kettle-tarn.png')]);
      await settle();
      const facts = { ...hills.facts, content, stats: { ...hills.facts.stats!, min: 0, max } };
      workers().opened.at(-1)!.header(facts);
      workers().opened.at(-1)!.finish(facts);
      await reading;
      return session().replacement!.filled;
    };
    expect(await again('full', 65535)).toBe(true);
    expect(await again('less', 65534)).toBe(false);
  });

  test('four blocks, loose or in an archive, take the place of four blocks where they lie', async () => {
    await broughtIn('fells.png', 9);
    const names = ['a', 'b', 'c', 'd'].map((n) => `fells-${n}.png`);
    const files = names.map((name, i) => ({
      name,
      at: [i * 9, 0] as [number, number],
      sha256: 'f'.repeat(64),
      factor: 2,
    }));
    editRecipe((r) => ({ ...r, source: { ...r.source, files } }));
    workers().looks.set('fells', { takes: null, names, size: 4 });
    const blocks = names.map((n, i) => new File([new Uint8Array(4).fill(i)], n));
    workers().archives.set('fells.zip', new Map(blocks.map((f) => [f.name, f])));
    for (const chosen of [[...blocks].reverse(), [file('fells.zip', 99)]]) {
      const replacing = state.replaceSource(chosen);
      await settle();
      const call = workers().opened.at(-1)!;
      expect(call.file).toBe('fells');
      expect(call.reading.files).toEqual(files.map(({ sha256: _, ...f }) => f));
      const placed = files.map((f) => ({ ...f, sha256: 'a'.repeat(64) }));
      call.header({ ...hills.facts, placed });
      call.finish({ ...hills.facts, placed });
      await replacing;
      expect(session().replacement?.dropped).toEqual([]);
      // with the checksums of the new files
      expect(recipe()?.source.files).toEqual(placed);
      state.patchSession({ source: new Blob(['others']) });
    }
  });

  test('without a way back to the file it is asked for', async () => {
    await broughtIn('kettle-tarn.png', 9);
    await state.readFileAgain();
    expect(session().notice).toBe('kettle-tarn.png can’t be read where it was: choose it again.');
  });
});

test('files that belong together are brought in as one, and apart from others', async () => {
  const text = (name: string) => new File(['NROWS 2\nNCOLS 2\n'], name);
  const files = [text('FELLS.HDR'), file('fells.bil', 4), text('fells.prj'), file('tarn.png', 5), text('lost.hdr')];
  const made = together(files);
  expect(made.map((f) => f.name)).toEqual(['fells.bil', 'tarn.png', 'lost.hdr']);
  const bytes = new Uint8Array(await made[0]!.arrayBuffer());
  const parts = await partsOf(memorySource('fells.bil', bytes));
  expect(parts.map((p) => [p.name, p.size])).toEqual([
    ['fells.bil', 4],
    ['FELLS.HDR', 16],
    ['fells.prj', 16],
  ]);
  // the same files in another order are the same bytes
  const again = together([files[2]!, files[1]!, files[0]!])[0]!;
  expect(new Uint8Array(await again.arrayBuffer())).toEqual(bytes);
  expect(heightsAmong([files[4]!, files[3]!])?.name).toBe('tarn.png');
  expect(heightsAmong([files[4]!])).toBeNull();
});

test('a note goes with the height file of its name, or with all of its folder', async () => {
  const namesIn = async (made: File) =>
    (await partsOf(memorySource(made.name, new Uint8Array(await made.arrayBuffer())))).map((p) => p.name);
  const files = [
    file('fells.png', 5),
    file('tarn.png', 6),
    new File(['5 m per pixel'], 'tarn.txt'),
    new File(['heights 1 to 2 m'], 'readme.md'),
    // says nothing of heights, or is too long for a note
    new File(['the tarn lies below the fells'], 'about.txt'),
    new File([`5 m per pixel${' '.repeat(70_000)}`], 'points.txt'),
  ];
  const made = together(files, await notesAmong(files));
  expect(await Promise.all(made.slice(0, 2).map(namesIn))).toEqual([
    ['fells.png', 'readme.md'],
    ['tarn.png', 'readme.md', 'tarn.txt'],
  ]);
  expect(made.slice(2)).toEqual(files.slice(4));
  // the pages of a pack are none: nobody asked for notes
  const pack = [file('fells.png', 5), new File(['5 m per pixel'], 'import.md')];
  expect(together(pack)).toEqual(pack);
  // alone it stays what it is: a grid of numbers may go by that name
  expect(together([new File(['ncols 3'], 'grid.txt')]).map((f) => f.name)).toEqual(['grid.txt']);
});
