import { checkpoint, partOf, type ByteSource, type JobContext } from '../base';
import {
  compareStages,
  openEntering,
  openStages,
  planChain,
  rasterOf,
  stageKey,
  type Chain,
  type PlannedStep,
  type Tallies,
} from '../chain';
import { ChangeTally } from '../operations';
import {
  extremesOf,
  memoryRaster,
  SourceCounter,
  StatisticsCollector,
  type OpenRaster,
  type RasterInfo,
  type SourceExtremes,
  type StoredBand,
  type StoredSamples,
} from '../raster';
import type { SourceFacts, StageFacts, StepChange } from '../plan';
import { sourceReading, type Recipe } from '../recipe';
import { countedAs, countOpened, held, openReading, type CountedSource, type ReadRaster } from './source';

/** What enters the fit, counted. */
export interface Entered {
  /** All that is known of the source, this stage included. */
  readonly facts: SourceFacts;
  /** As the fit reads it, and as it lies on its ground. */
  readonly raster: OpenRaster;
  readonly shown: OpenRaster;
}

/** The stage of a source that was opened last: the next job for the same one counts and makes nothing again. */
const last = new WeakMap<
  ReadRaster,
  { readonly key: string; readonly raster: OpenRaster; readonly shown: OpenRaster; readonly found: StageFacts }
>();

/** Remembers a stage that is held elsewhere, whole. */
export function keepStage(
  opened: ReadRaster,
  key: string,
  found: StageFacts,
  raster: OpenRaster,
  shown: OpenRaster = raster,
): void {
  last.set(opened, { key, raster, shown, found });
}

/**
 * The steps of a recipe done to a source, up to the fit, and counted: samples, and what each step changed. One pass; none
 * where no step changes a sample, and one more for each whose change is told by comparing.
 */
export async function enterFit(
  recipe: Recipe,
  { opened, facts }: Pick<CountedSource, 'opened' | 'facts'>,
  job?: JobContext,
): Promise<Entered> {
  const chain = planChain(recipe, facts.info);
  // a step that can't be done is told by the plan
  if (chain.refusal || chain.steps.length === 0 || !facts.stats) return { facts, raster: opened, shown: opened };
  const key = stageKey(chain.entering);
  const known = last.get(opened);
  if (known?.key === key)
    return { facts: withStage(facts, key, known.found), raster: known.raster, shown: known.shown };
  const stage = await countStage(opened, opened, facts, chain, job);
  keepStage(opened, key, stage.found, stage.raster, stage.shown);
  return { ...stage, facts: withStage(facts, key, stage.found) };
}

/**
 * Opens and counts a source together with what enters the fit. Where a step changes samples one reading serves both, and
 * only what enters the fit is kept at hand.
 */
export async function countAndEnter(
  recipe: Recipe,
  source: ByteSource | CountedSource,
  job?: JobContext,
): Promise<{ readonly counted: CountedSource; readonly entered: Entered }> {
  if ('facts' in source) return { counted: source, entered: await enterFit(recipe, source, job) };
  const opened = await openReading(source, sourceReading(recipe), partOf(job, 0, 0.3));
  const chain = planChain(recipe, opened.info);
  const apart = chain.refusal !== null || !changesSamples(chain) || chain.steps.some((s) => isCompared(s, opened));
  if (apart) {
    const counted = await countOpened(source, held(opened), partOf(job, 0.3, 0.7));
    return { counted, entered: await enterFit(recipe, counted, partOf(job, 0.7, 1)) };
  }
  const counter = new SourceCounter(opened.info);
  const { found, raster, shown } = await countStage(
    opened,
    counting(opened, counter),
    null,
    chain,
    partOf(job, 0.3, 1),
  );
  const counted = await countedAs(source, opened, counter.result());
  const key = stageKey(chain.entering);
  keepStage(opened, key, found, raster, shown);
  return { counted, entered: { facts: withStage(counted.facts, key, found), raster, shown } };
}

/** A raster that is counted in its first reading, to its end, whoever reads it and how far. */
export function counting(opened: ReadRaster, counter: SourceCounter): ReadRaster {
  let begun = false;
  return {
    ...opened,
    async *bands(job) {
      const bands = opened.bands(job);
      const first = !begun;
      begun = true;
      let complete = false;
      try {
        for (;;) {
          const band = await bands.next();
          if (band.done) {
            complete = true;
            return;
          }
          if (first) counter.add(band.value);
          yield band.value;
        }
      } finally {
        // what comes after needs no more of it; the count does
        if (first && !complete && !job?.signal?.aborted)
          for (let band = await bands.next(); !band.done; band = await bands.next()) counter.add(band.value);
        await bands.return(undefined);
      }
    },
  };
}

/** A stage that is held whole. */
export interface HeldStage {
  readonly key: string;
  readonly info: RasterInfo;
  readonly found: StageFacts;
  readonly extremes: SourceExtremes | null;
  readonly samples: StoredSamples;
  /** What the fit reads, where the ground is made metric no sooner than that. */
  readonly fitting?: { readonly info: RasterInfo; readonly samples: StoredSamples };
}

/**
 * The stage that enters the fit, made whole and counted in the same pass; null where no step is on. `allocate`: room for
 * all its samples. Throws what stands in the way of a step.
 */
export async function holdStage(
  recipe: Recipe,
  { opened, facts }: Pick<CountedSource, 'opened' | 'facts'>,
  allocate: (info: RasterInfo) => StoredSamples,
  job?: JobContext,
): Promise<HeldStage | null> {
  const chain = planChain(recipe, facts.info);
  if (chain.refusal) throw chain.refusal.error;
  if (chain.steps.length === 0) return null;
  const key = stageKey(chain.entering);
  const tallies = talliesOf(chain);
  const { fitting } = openEntering(opened, chain, toldWhileRead(chain, tallies, opened));
  const whole = await wholeOf(fitting, allocate, partOf(job, 0, 0.6));
  await compareSteps(opened, chain, tallies, partOf(job, 0.6, 0.7));
  const stats = sameSamples(chain, facts) ?? whole.stats;
  const found = { stats, changes: chain.steps.map((s) => changeOf(s, tallies.get(s)!)) };
  const { shown } = openEntering(opened, chain);
  const { deferred } = chain.entering;
  const ground = deferred ? await wholeOf(shown, allocate, partOf(job, 0.7, 1)) : whole;
  const { info, samples } = ground;
  keepStage(opened, key, found, memoryRaster(whole.info, whole.samples), memoryRaster(info, samples));
  const extremes = extremesOf(samples, info.width, deferred ? ground.stats : stats);
  const held = { key, info, found, extremes, samples };
  return deferred ? { ...held, fitting: { info: whole.info, samples: whole.samples } } : held;
}

/** All samples of a raster, counted as they come. */
async function wholeOf(
  raster: OpenRaster,
  allocate: (info: RasterInfo) => StoredSamples,
  job: JobContext,
): Promise<Pick<HeldStage, 'info' | 'samples'> & { readonly stats: StageFacts['stats'] }> {
  const { info } = raster;
  const samples = allocate(info);
  const take = ({ y, data }: StoredBand): void => (samples as Float64Array).set(data, y * info.width);
  return { info, samples, stats: await counted(raster, take, job) };
}

const talliesOf = (chain: Chain): Map<PlannedStep, ChangeTally> =>
  new Map(chain.steps.map((s) => [s, new ChangeTally()]));

/** Tallies of the steps whose changes are told in the course of a pass. */
const toldWhileRead = (chain: Chain, tallies: Tallies, opened: ReadRaster): Tallies =>
  new Map([...tallies].filter(([step]) => !isCompared(step, opened)));

/** Facts of a source with those of a stage. */
export const withStage = (facts: SourceFacts, key: string, found: StageFacts): SourceFacts => ({
  ...facts,
  stages: { [key]: found },
});

/**
 * What enters the fit, with its statistics and what each step changed; read from `source`, which is what was opened.
 * What it reads stays at hand where it is not too large.
 */
async function countStage(
  opened: ReadRaster,
  source: ReadRaster,
  facts: SourceFacts | null,
  chain: Chain,
  job?: JobContext,
): Promise<{ readonly found: StageFacts; readonly raster: OpenRaster; readonly shown: OpenRaster }> {
  const tallies = talliesOf(chain);
  // what is told in the first complete reading is what counts; nobody asks the tallies later
  const entering = openEntering(source, chain, toldWhileRead(chain, tallies, opened));
  const raster = held(entering.fitting);
  const known = facts && sameSamples(chain, facts);
  const stats = known ?? (await counted(raster, () => undefined, partOf(job, 0, 0.8)));
  await compareSteps(opened, chain, tallies, job);
  const changes = chain.steps.map((s) => changeOf(s, tallies.get(s)!));
  return { found: { stats, changes }, raster, shown: entering.shown === entering.fitting ? raster : entering.shown };
}

/**
 * Of the heights that enter the fit nobody asks more than the step of whole numbers, and how many different ones there
 * are as long as they are few: far fewer than this.
 */
const ENOUGH_HEIGHTS = 4096;

/** Counts a stage in one pass. */
async function counted(
  raster: OpenRaster,
  take: (band: StoredBand) => void,
  job: JobContext,
): Promise<StageFacts['stats']> {
  const collector = new StatisticsCollector({ enough: ENOUGH_HEIGHTS });
  for await (const band of raster.bands(job)) {
    checkpoint(job);
    take(band);
    collector.add(band);
    job.report?.(band.y + band.rows, raster.info.height);
  }
  return collector.result();
}

const changesSamples = ({ steps }: Chain): boolean => steps.some((s) => !s.operation.lossless);

/** Where no step changes a sample, what was counted of the source holds: but for how its rows look. */
function sameSamples(chain: Chain, { stats }: SourceFacts): StageFacts['stats'] | null {
  if (!stats || changesSamples(chain)) return null;
  const { look: _, ...same } = stats;
  return same;
}

/** Of files that overlap a sample changes once, however many of them hold it: that is told by comparing. */
const isCompared = ({ operation, before }: PlannedStep, { parts = [] }: ReadRaster): boolean =>
  operation.compared ?? (before.asStored && parts.length > 1 && !operation.lossless && !operation.elsewhere);

async function compareSteps(opened: ReadRaster, chain: Chain, tallies: Tallies, job?: JobContext): Promise<void> {
  const compared = chain.steps.filter((s) => isCompared(s, opened));
  if (compared.length === 0) return;
  const stages = openStages(opened, chain);
  for (const step of compared) {
    const at = chain.steps.indexOf(step);
    await compareStages(rasterOf(stages[at]!), rasterOf(stages[at + 1]!), tallies.get(step)!, partOf(job, 0.8, 1));
  }
}

/** What a step changed. */
function changeOf({ index, operation }: PlannedStep, tally: ChangeTally): StepChange {
  tally.settle();
  if (operation.lossless) return { index, samples: 0, largest: 0, mean: 0 };
  if (operation.elsewhere) return { index, samples: null, largest: null, mean: null };
  const { samples, measured, largest, sum } = tally;
  return { index, samples, largest, mean: measured > 0 ? sum / measured : 0 };
}
