import * as Comlink from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { LevelGridError } from '@/core/base';
import type { SourceFacts } from '@/core/plan';
import { cancelled, countedHills } from '../../tests/helpers/fake-workers';
import { recipeWith } from '../../tests/helpers/rasters';
import type { JobWorker, ViewWorker } from './protocol';

const channels: MessageChannel[] = [];
/** Callbacks go through channels of their own, which must be closed too. */
class KeptChannel extends MessageChannel {
  constructor() {
    super();
    channels.push(this);
  }
}

/** Stands in for a worker: what it exposes runs on this thread, behind a real channel. */
class FakeWorker {
  static readonly made: FakeWorker[] = [];
  /** What the next ones expose: the jobs, then the view. */
  static exposed: unknown[] = [];
  private readonly ports: readonly MessagePort[];
  terminated = false;
  private failed = (): void => undefined;
  private readonly endpoint;

  constructor() {
    const { port1, port2 } = new MessageChannel();
    this.ports = [port1, port2];
    this.endpoint = nodeEndpoint(port1);
    Comlink.expose(FakeWorker.exposed.shift(), nodeEndpoint(port2));
    FakeWorker.made.push(this);
  }

  addEventListener(type: string, listener: () => void): void {
    if (type === 'error') this.failed = listener;
    else this.endpoint.addEventListener(type, listener);
  }
  removeEventListener(type: string, listener: () => void): void {
    this.endpoint.removeEventListener(type, listener);
  }
  start(): void {
    this.endpoint.start?.();
  }
  postMessage(...args: [unknown, Transferable[]]): void {
    this.endpoint.postMessage(...args);
  }
  terminate(): void {
    this.terminated = true;
    this.close();
  }
  close(): void {
    for (const port of this.ports) port.close();
  }
  die(): void {
    this.failed();
  }
}

let facts: SourceFacts;
beforeAll(async () => {
  facts = (await countedHills(40)).facts;
});

const addressed = (search: string): void => {
  Object.assign(globalThis, {
    Worker: FakeWorker,
    MessageChannel: KeptChannel,
    crossOriginIsolated: true,
    location: { search },
    navigator: { hardwareConcurrency: 6 },
  });
};
beforeEach(() => addressed(''));
afterEach(() => {
  for (const worker of FakeWorker.made.splice(0)) worker.close();
  for (const { port1 } of channels.splice(0)) port1.close();
});

/** A client whose workers do this; `died` counts its deaths. */
async function client(jobs: Partial<JobWorker>, view: Partial<ViewWorker> = {}) {
  const { WorkerClient } = await import('./client');
  FakeWorker.exposed = [jobs, view];
  let died = 0;
  let told!: () => void;
  const death = new Promise<void>((resolve) => (told = resolve));
  const made = new WorkerClient(() => {
    died++;
    told();
  });
  const [jobThread, viewThread] = FakeWorker.made.slice(-2) as [FakeWorker, FakeWorker];
  return { made, jobThread, viewThread, deaths: () => died, death };
}
/** A call that goes through a channel: its end can be waited for, which its type does not say. */
const sent = (call: unknown): Promise<unknown> => Promise.resolve(call);
const ok = <T>(value: T) => ({ ok: true, value }) as const;

test('a job’s result comes through, its error whole', async () => {
  const fault = new LevelGridError('corrupt', { file: 'tarn.png', found: 'a', expected: 'b', remedy: 'c' }).toRecord();
  const { made } = await client({
    zip: async () => ok(new Blob(['zip'])),
    ground: async () => ({ ok: false, error: fault }),
  });
  expect(await (await made.zip(new Map()).done).text()).toBe('zip');
  await expect(made.ground('tarn/1', recipeWith({})).done).rejects.toMatchObject(fault);
});

test('cancel raises the flag that the job reads', async () => {
  let begun!: (stopped: () => boolean) => void;
  const job = new Promise<() => boolean>((resolve) => (begun = resolve));
  let end!: () => void;
  const { made } = await client({
    ground: (_id, _recipe, stop) =>
      new Promise((resolve) => {
        end = () => resolve({ ok: false, error: cancelled().toRecord() });
        begun(() => stop !== null && Atomics.load(stop, 0) === 1);
      }),
  });
  const running = made.ground('tarn/1', recipeWith({}));
  const stopped = await job;
  expect(stopped()).toBe(false);
  running.cancel();
  expect(stopped()).toBe(true);
  end();
  await expect(running.done).rejects.toMatchObject({ code: 'cancelled' });
});

test('progress of a job is told as it comes', async () => {
  const told: [number, number][] = [];
  const { made } = await client({
    ground: async (_id, _recipe, _stop, report) => {
      for (const done of [1, 2, 3]) await sent(report?.(done, 3));
      return ok({} as never);
    },
  });
  await made.ground('tarn/1', recipeWith({}), (done, total) => told.push([done, total])).done;
  expect(told).toEqual([
    [1, 3],
    [2, 3],
    [3, 3],
  ]);
});

test('a source is drawn from its header on, held by the map before it counts as open', async () => {
  const order: string[] = [];
  const samples = new Uint16Array(new SharedArrayBuffer(3200));
  const rows = new Int32Array(new SharedArrayBuffer(4));
  const { made } = await client(
    {
      open: async (_id, _blob, _name, _reading, onHeader) => {
        await sent(onHeader({ ...facts, stats: null }, { samples, rows }));
        order.push('read');
        return ok({ facts, layout: null, extremes: null, samples });
      },
    },
    {
      arrive: (id, _facts, arriving, overview) => {
        // the same memory, not a copy of it
        samples[7] = 4711;
        order.push(`arrive ${id} ${arriving.samples[7]} ${overview === null ? 'no overview' : overview.level}`);
      },
      hold: (id) => {
        order.push(`hold ${id}`);
      },
    },
  );
  const wide = { width: 10, height: 10, level: 2, samples: new Uint16Array(100) };
  const running = made.open('tarn/1', new Blob([]), 'tarn.png', {}, wide, (f, drawable, wholeFrom) =>
    order.push(`header ${f.stats === null} ${drawable} ${wholeFrom}`),
  );
  expect((await running.done).facts).toEqual(facts);
  expect(order.filter((o) => o !== 'read')).toEqual(['header true true 2', 'arrive tarn/1 4711 2', 'hold tarn/1']);
  expect(order.indexOf('read')).toBeLessThan(order.indexOf('hold tarn/1'));
});

test('an overview of another raster is left alone', async () => {
  const samples = new Uint16Array(new SharedArrayBuffer(3200));
  const rows = new Int32Array(new SharedArrayBuffer(4));
  const found: unknown[] = [];
  const { made } = await client(
    {
      open: async (_id, _blob, _name, _reading, onHeader) => {
        await sent(onHeader(facts, { samples, rows }));
        return ok({ facts, layout: null, extremes: null, samples });
      },
    },
    { arrive: (_id, _facts, _arriving, overview) => void found.push(overview), hold: () => undefined },
  );
  const other = { width: 11, height: 10, level: 2, samples: new Uint16Array(110) };
  await made.open('tarn/1', new Blob([]), 'tarn.png', {}, other, (_f, _d, wholeFrom) => found.push(wholeFrom)).done;
  expect(found).toEqual([null, null]);
});

test.each(['jobThread', 'viewThread'] as const)(
  'a dead worker (%s) is told to who waits, and then once',
  async (which) => {
    const c = await client({ ground: () => new Promise(() => undefined) });
    const waiting = [c.made.ground('a', recipeWith({})).done, c.made.ground('b', recipeWith({})).done];
    for (const done of waiting) done.catch(() => undefined);
    c[which].die();
    for (const done of waiting) await expect(done).rejects.toMatchObject({ code: 'internal' });
    expect(c.deaths()).toBe(0);
    c.jobThread.die();
    await new Promise((resolve) => setTimeout(resolve, 5));
    expect(c.deaths()).toBe(1);
    c.made.end();
    expect([c.jobThread.terminated, c.viewThread.terminated]).toEqual([true, true]);
  },
);

test('both workers let go of a source', async () => {
  const closed: string[] = [];
  const { made } = await client(
    { close: (id) => void closed.push(`jobs ${id}`) },
    { close: (id) => void closed.push(`view ${id}`) },
  );
  await made.release('tarn/1');
  expect(closed.sort()).toEqual(['jobs tarn/1', 'view tarn/1']);
});

test.each([
  ['', 6],
  ['?workers=1', 1],
  ['?workers=8', 8],
  ['?workers=9', 6],
  ['?workers=0', 6],
  ['?workers=2;drop', 6],
  ['?workers=', 6],
])('with the address ending in "%s" %i threads encode', async (search, count) => {
  const { threadCount } = await import('./client');
  addressed(search);
  expect(threadCount()).toBe(count);
});

test('without a count of cores one thread encodes', async () => {
  const { threadCount } = await import('./client');
  Object.assign(globalThis, { navigator: {} });
  expect(threadCount()).toBe(1);
});
