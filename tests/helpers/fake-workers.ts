import { LevelGridError } from '@/core/base';
import type { SourceLook } from '@/core/edits';
import type { SourceFacts } from '@/core/plan';
import { memoryRaster, type GroundStatistics, type Overview } from '@/core/raster';
import type { Recipe, SourceReading } from '@/core/recipe';
import type { HeldSource } from '@/workers/protocol';
import { countSource, measureGround, type CountedSource } from '@/core/run';
import { hills, pngSource } from './rasters';

/** A promise that the test settles. */
class Later<T> {
  resolve!: (value: T) => void;
  reject!: (reason: unknown) => void;
  readonly promise = new Promise<T>((resolve, reject) => {
    this.resolve = resolve;
    this.reject = reject;
  });
  cancelled = false;
  readonly running = {
    done: this.promise,
    cancel: (): void => {
      this.cancelled = true;
    },
  };
}

export const cancelled = (): LevelGridError =>
  new LevelGridError('cancelled', { found: 'a cancelled job', expected: 'its end', remedy: 'Start it again.' });

type OnHeader = (facts: SourceFacts, drawable: boolean, wholeFrom: number | null) => void;

/** A source that is being opened: the test says when its header, its rows and its end come. */
class OpeningCall extends Later<HeldSource> {
  constructor(
    readonly key: string,
    readonly file: string,
    readonly reading: SourceReading,
    readonly overview: Overview | null,
    private readonly onHeader: OnHeader,
    readonly report: (done: number, total: number) => void,
  ) {
    super();
  }

  header(facts: SourceFacts): void {
    this.onHeader({ ...facts, file: this.file, stats: null }, true, this.overview?.level ?? null);
  }

  finish(facts: SourceFacts): void {
    this.resolve({
      facts: { ...facts, file: this.file },
      layout: this.reading.raw ?? null,
      extremes: null,
      samples: new Uint16Array(0),
    });
  }
}

class GroundCall extends Later<GroundStatistics> {
  constructor(
    readonly key: string,
    readonly recipe: Recipe,
  ) {
    super();
  }
}

/** Stands in for the page's way to its workers; what was asked of it is kept, oldest first. */
export class FakeWorkers {
  /** The one that was made last. */
  static last: FakeWorkers;
  readonly opened: OpeningCall[] = [];
  readonly measured: GroundCall[] = [];
  readonly packed: (Later<unknown> & { recipe: Recipe })[] = [];
  readonly proved: (Later<unknown> & { typed: Record<string, number> })[] = [];
  readonly released: string[] = [];
  ended = false;
  kept: Overview | null = null;

  constructor(readonly die: () => void) {
    FakeWorkers.last = this;
  }

  open(
    key: string,
    _blob: Blob,
    file: string,
    reading: SourceReading,
    overview: Overview | null,
    onHeader: OnHeader,
    report: (done: number, total: number) => void,
  ): Later<unknown>['running'] {
    const call = new OpeningCall(key, file, reading, overview, onHeader, report);
    this.opened.push(call);
    return call.running;
  }

  ground = (key: string, recipe: Recipe): unknown => {
    const call = new GroundCall(key, recipe);
    this.measured.push(call);
    return call.running;
  };
  pack = (_key: string, recipe: Recipe): unknown => {
    const call = Object.assign(new Later<unknown>(), { recipe });
    this.packed.push(call);
    return call.running;
  };
  prove = (_key: string, _pack: unknown, typed: Record<string, number>): unknown => {
    const call = Object.assign(new Later<unknown>(), { typed });
    this.proved.push(call);
    return call.running;
  };
  /** What files are taken for; a file of another name is a picture by itself. */
  readonly looks = new Map<string, SourceLook>();
  look = (blob: Blob, name: string): unknown => {
    const plain: SourceLook = { takes: null, names: [name], size: blob.size };
    return { done: Promise.resolve(this.looks.get(name) ?? plain), cancel: () => undefined };
  };
  /** What archives hold, by their names. */
  readonly archives = new Map<string, ReadonlyMap<string, Blob>>();
  unzip = (_blob: Blob, name: string): unknown => ({
    done: Promise.resolve(this.archives.get(name) ?? new Map<string, Blob>()),
    cancel: () => undefined,
  });
  /** Recipes that were only tried. */
  readonly weighed: (Later<unknown> & { recipe: Recipe })[] = [];
  weigh = (_key: string, recipe: Recipe): unknown => {
    const call = Object.assign(new Later<unknown>(), { recipe });
    this.weighed.push(call);
    return call.running;
  };
  readonly staged: (Later<unknown> & { recipe: Recipe })[] = [];
  stage = (_key: string, recipe: Recipe): unknown => {
    const call = Object.assign(new Later<unknown>(), { recipe });
    this.staged.push(call);
    return call.running;
  };
  overview = async (): Promise<Overview | null> => this.kept;
  release = async (key: string): Promise<void> => {
    this.released.push(key);
  };
  end = (): void => {
    this.ended = true;
  };
}

/** A counted source in memory, and how its ground is really measured. */
export async function countedHills(side: number): Promise<CountedSource> {
  const codes = hills(side, side);
  const counted = await countSource(await pngSource(codes, side), undefined);
  return { ...counted, opened: { ...counted.opened, ...memoryRaster(counted.opened.info, codes) } };
}

export const measure = (source: CountedSource, recipe: Recipe): Promise<GroundStatistics> =>
  measureGround(recipe, source);

/** Arrays of numbers stay of this realm, which a structured clone would not. */
function copied(value: unknown): unknown {
  if (value instanceof Blob || typeof value !== 'object' || value === null) return value;
  return 'samples' in value
    ? { ...value, samples: (value.samples as Uint16Array).slice() }
    : JSON.parse(JSON.stringify(value));
}

/** Stands in for the browser's storage: what is put in comes out as a copy. */
export class FakeStore {
  readonly values = new Map<string, unknown>();
  /** Keys that begin so can't be written: no room is left. */
  full: string | null = null;
  /** From this write on nothing can be written: counts down. */
  failAt: number | null = null;

  setItem = async (key: string, value: unknown): Promise<void> => {
    if (this.failAt !== null && --this.failAt <= 0) throw new DOMException('full', 'QuotaExceededError');
    if (this.full !== null && key.startsWith(this.full)) throw new DOMException('full', 'QuotaExceededError');
    this.values.set(key, copied(value));
  };
  getItem = async (key: string): Promise<unknown> => this.values.get(key) ?? null;
  keys = async (): Promise<string[]> => [...this.values.keys()];
  removeItem = async (key: string): Promise<void> => {
    this.values.delete(key);
  };
}
