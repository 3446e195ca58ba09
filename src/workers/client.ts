import * as Comlink from 'comlink';
import { LevelGridError } from '../core/base';
import type { RawLayout, RawPreview } from '../core/formats';
import type { SourceFacts, Work } from '../core/plan';
import type { Recipe, SourceReading } from '../core/recipe';
import { overviewFits, type Overview } from '../core/raster';
import type { HeldStage } from '../core/run';
import type { MapPoint, SmallPicture } from '../core/view';
import type {
  Arriving,
  HeldSource,
  JobWorker,
  LaidOut,
  Outcome,
  PackResult,
  ReportWire,
  StopFlag,
  TileRequest,
  ViewWorker,
} from './protocol';

/** A running job: its result, and a way to stop it. */
export interface Running<T> {
  readonly done: Promise<T>;
  readonly cancel: () => void;
}
type Report = (done: number, total: number) => void;

const died = (): LevelGridError =>
  new LevelGridError('internal', {
    found: 'a worker that stopped',
    expected: 'it to finish its work',
    remedy: 'Your project is unchanged. Try again; close other tabs if memory is short.',
  });

/**
 * The page's way to the workers: one decodes, measures, writes and proves, the other draws the map, so that the map
 * answers while a pack is being written. Both see the same decoded source, on shared memory where it is allowed.
 */
export class WorkerClient {
  private readonly jobThread: Worker;
  private readonly viewThread: Worker;
  private readonly jobs: Comlink.Remote<JobWorker>;
  private readonly view: Comlink.Remote<ViewWorker>;
  private readonly failed: Promise<never>;

  /** `onDeath` is called once, after whoever waits for a job has been told. */
  constructor(onDeath: () => void) {
    this.jobThread = new Worker(new URL('./entries/jobs.ts', import.meta.url), { type: 'module' });
    this.viewThread = new Worker(new URL('./entries/view.ts', import.meta.url), { type: 'module' });
    this.failed = new Promise((_, reject) => {
      for (const thread of [this.jobThread, this.viewThread]) {
        thread.addEventListener('error', () => {
          reject(died());
        });
      }
    });
    this.failed.catch(() => setTimeout(onDeath));
    this.jobs = Comlink.wrap<JobWorker>(this.jobThread);
    this.view = Comlink.wrap<ViewWorker>(this.viewThread);
  }

  private start<T>(
    report: Report | undefined,
    work: (stop: StopFlag, report: ReportWire) => Promise<Outcome<T>>,
  ): Running<T> {
    const stop = crossOriginIsolated ? new Int32Array(new SharedArrayBuffer(4)) : null;
    const done = Promise.race([work(stop, report ? Comlink.proxy(report) : null), this.failed]).then((outcome) => {
      if (outcome.ok) return outcome.value;
      throw LevelGridError.fromRecord(outcome.error);
    });
    return {
      done,
      cancel: () => {
        if (stop) Atomics.store(stop, 0, 1);
      },
    };
  }

  open(
    id: string,
    blob: Blob,
    name: string,
    reading: SourceReading,
    overview: Overview | null,
    /** `drawable`: the map can show what has been read so far, and from level `wholeFrom` on all of it. */
    onHeader: (facts: SourceFacts, drawable: boolean, wholeFrom: number | null) => void,
    report?: Report,
  ): Running<HeldSource> {
    const running = this.start(report, (stop, told) =>
      this.jobs.open(
        id,
        blob,
        name,
        reading,
        Comlink.proxy((facts: SourceFacts, arriving: Arriving | null) => {
          const fitting = overview && overviewFits(overview, facts.info) ? overview : null;
          if (arriving) void this.view.arrive(id, facts, arriving, fitting);
          onHeader(facts, arriving !== null, fitting ? fitting.level : null);
        }),
        stop,
        told,
      ),
    );
    return {
      ...running,
      done: running.done.then(async (source) => {
        await this.view.hold(id, source.facts, source.samples);
        return source;
      }),
    };
  }

  /** Makes what enters the fit, and has the map show it. */
  stage = (id: string, recipe: Recipe, report?: Report): Running<HeldStage | null> => {
    const running = this.start(report, (stop, told) => this.jobs.stage(id, recipe, stop, told));
    return {
      ...running,
      done: running.done.then(async (stage) => {
        if (stage) await this.view.holdStage(id, stage);
        return stage;
      }),
    };
  };
  look = (blob: Blob, name: string) => this.start(undefined, () => this.jobs.look(blob, name));
  weigh = (id: string, recipe: Recipe) => this.start(undefined, () => this.jobs.weigh(id, recipe));
  ground = (id: string, recipe: Recipe, report?: Report) =>
    this.start(report, (stop, told) => this.jobs.ground(id, recipe, stop, told));
  pack = (id: string, recipe: Recipe, report?: Report) =>
    this.start(
      report,
      (stop, told) => this.jobs.pack(id, recipe, threadCount(), stop, told) as Promise<Outcome<PackResult>>,
    );
  previews = (blob: Blob, layouts: readonly RawLayout[], side: number) =>
    this.start(undefined, () => this.jobs.previews(blob, layouts, side) as Promise<Outcome<readonly RawPreview[]>>);
  arrange = (blob: Blob, name: string, laid: LaidOut | null, report?: Report) =>
    this.start(report, (stop, told) => this.jobs.arrange(blob, name, laid, stop, told));
  pictures = (blob: Blob, name: string, side: number) =>
    this.start(
      undefined,
      () => this.jobs.pictures(blob, name, side) as Promise<Outcome<ReadonlyMap<string, SmallPicture>>>,
    );
  compare = (blob: Blob, name: string, report?: Report) =>
    this.start(report, (stop, told) => this.jobs.compare(blob, name, stop, told));
  zip = (files: ReadonlyMap<string, Blob>) =>
    this.start(undefined, () => this.jobs.zip(files) as Promise<Outcome<Blob>>);
  unzip = (blob: Blob, name: string) =>
    this.start(undefined, () => this.jobs.unzip(blob, name) as Promise<Outcome<ReadonlyMap<string, Blob>>>);
  prove = (
    id: string | null,
    files: ReadonlyMap<string, Blob>,
    typed: Record<string, number | string>,
    report?: Report,
  ) => this.start(report, (stop, told) => this.jobs.prove(id, files, typed, stop, told));

  tile = (request: TileRequest) => this.view.tile(request);
  profile = (id: string, recipe: Recipe, work: Work, a: MapPoint, b: MapPoint, count: number) =>
    this.view.profile(id, recipe, work, a, b, count);
  readout = (id: string, recipe: Recipe, work: Work, at: MapPoint) => this.view.readout(id, recipe, work, at);

  thumbnail = (id: string, side: number) => this.view.thumbnail(id, side);
  overview = (id: string) => this.view.overview(id);

  async release(id: string): Promise<void> {
    await Promise.all([this.jobs.close(id), this.view.close(id)]);
  }

  end(): void {
    this.jobThread.terminate();
    this.viewThread.terminate();
  }
}

const MOST_THREADS = 8;

/** As many encoding threads as cores, at most 8; `?workers=1` in the address asks for fewer. What it writes is the same. */
export function threadCount(): number {
  const cores = Math.max(1, Math.min(MOST_THREADS, navigator.hardwareConcurrency || 1));
  const asked = new URLSearchParams(location.search).get('workers');
  return asked !== null && /^[1-8]$/.test(asked) ? Number(asked) : cores;
}
