import {
  asLevelGridError,
  checkpoint,
  partOf,
  portableSha256,
  type ByteSource,
  type JobContext,
  type SinkFolder,
  type StartHasher,
} from '../base';
import { fittedGround } from '../chain';
import type { PieceEncoder } from '../formats';
import { boundsToCount, placeInWorld, plan, voidRefusal, type Plan, type PlanDocument } from '../plan';
import { datumAbout, groundStatistics, roomFor, type GroundStatistics } from '../raster';
import type { Recipe } from '../recipe';
import { importPage, importPageHtml } from './page';
import { countAndEnter, enterFit, type Entered } from './enter';
import { GroundRecord, spanOf } from './record';
import type { CountedSource } from './source';
import { TileWriter } from './tile-writer';

export interface RunOptions {
  /** A SHA-256 to use; the portable one where none is given. */
  readonly hasher?: StartHasher;
  /** Encodes pieces of pictures elsewhere, so many at once. The bytes are the same. */
  readonly pieces?: { readonly encode: PieceEncoder; readonly inFlight: number };
  /** Further files of the pack, by name: they are written last and belong to it. */
  readonly extra?: readonly string[];
  /** Writes those, when all others are complete and before any is visible. */
  readonly writeExtra?: (document: PlanDocument) => Promise<void>;
}

/** Documents that every pack holds beside its height files. */
export const PACK_DOCUMENTS = ['import.json', 'import.md', 'import.html', 'recipe.json'] as const;

/** The plan with all statistics measured. */
export async function measuredPlan(
  recipe: Recipe,
  source: ByteSource | CountedSource,
  job?: JobContext,
): Promise<Plan> {
  const { entered } = await countAndEnter(recipe, source, partOf(job, 0, 0.3));
  const first = plan(recipe, entered.facts, null);
  // what a target refuses needs no pixels to be refused
  if (first.refusals.length > 0) return first;
  return plan(recipe, entered.facts, await measureEntered(recipe, entered, partOf(job, 0.3, 1)));
}

/** Ground whose own range is this much narrower than the source's is measured again from its own middle. */
const NARROW = 8;

const isPrecise = ({ work: { fit } }: Plan): boolean => fit.how === 'resample' && fit.precise;

/**
 * Facts of the fitted ground. One pass; a second one where the first shows that another datum or double precision is
 * needed, or that samples must be counted against a range which the ground itself decides.
 */
export async function measureGround(
  recipe: Recipe,
  counted: Pick<CountedSource, 'opened' | 'facts'>,
  job?: JobContext,
): Promise<GroundStatistics> {
  return measureEntered(recipe, await enterFit(recipe, counted, partOf(job, 0, 0.3)), partOf(job, 0.3, 1));
}

/** The same of what has entered the fit already. */
export async function measureEntered(
  recipe: Recipe,
  { facts, raster }: Entered,
  job?: JobContext,
): Promise<GroundStatistics> {
  const pass = (planned: Plan, part?: JobContext): Promise<GroundStatistics> => {
    const { work } = planned;
    return groundStatistics(fittedGround(raster, work.fit), spanOf(planned), boundsToCount(recipe, work), part);
  };
  const first = plan(recipe, facts, null);
  let ground = await pass(first, partOf(job, 0, 0.9));
  let current = plan(recipe, facts, ground);
  const { info, stats } = first.work.entering;
  const range = (stats?.max ?? 0) - (stats?.min ?? 0);
  const fraction = info.sampleType === 'float' || info.bitDepth > 16;
  if (recipe.height.range === 'ground') {
    const follows = recipe.height.strategy !== 'fixed';
    const narrow = follows && fraction && ground.max > ground.min && (ground.max - ground.min) * NARROW < range;
    // the files are written from the datum of the plan, and so is what is told of them measured
    const elsewhere = !follows && current.work.fit.datum !== ground.datum;
    if (narrow || elsewhere || isPrecise(current) !== isPrecise(first)) {
      const middle = datumAbout(
        ground.datum + ground.min,
        ground.datum + ground.max,
        facts.info.sampleType !== 'float',
      );
      const datum = narrow ? middle : follows ? ground.datum : current.work.fit.datum;
      ground = await pass(plan(recipe, facts, ground, datum), partOf(job, 0.9, 0.95));
      current = plan(recipe, facts, ground);
    }
  }
  const { clipped } = current.document.height;
  if (clipped.low === null || clipped.high === null) ground = await pass(current, partOf(job, 0.95, 1));
  return ground;
}

/**
 * Writes the pack of a recipe: height files, `import.json`, the same to read as `import.md` and
 * `import.html`, and `recipe.json`. Reads the source once to
 * count it and once or twice to fit it (twice where the height range comes from the fitted ground). On any fault or
 * cancellation nothing becomes visible in `folder`. A source that was counted before is not counted again.
 */
export async function run(
  recipe: Recipe,
  source: ByteSource | CountedSource,
  folder: SinkFolder,
  options: RunOptions = {},
  job?: JobContext,
): Promise<PlanDocument> {
  const { hasher = portableSha256, pieces } = options;
  try {
    const { counted, entered } = await countAndEnter(recipe, source, partOf(job, 0, 0.2));
    const { facts, raster } = entered;
    let current = plan(recipe, facts, null);
    if (current.refusals[0]) throw current.refusals[0];
    // voids are refused before anything is written, and counted
    const { stats, stage } = current.work.entering;
    const gaps = (stats?.voids ?? 0) > 0 || stage.deferred?.gaps === true;
    const unfilled = gaps && recipe.fit.voids === undefined;
    const groundFirst = recipe.height.range === 'ground';
    let measured: GroundStatistics | null = null;
    if (groundFirst || unfilled) {
      measured = await measureEntered(recipe, entered, partOf(job, 0.2, 0.5));
      current = plan(recipe, facts, measured);
      if (current.refusals[0]) throw current.refusals[0];
    }
    const { work } = current;
    const { encoding } = work.target;
    await folder.prepare?.([...current.document.files.map((f) => f.name), ...PACK_DOCUMENTS, ...(options.extra ?? [])]);
    const record = new GroundRecord(recipe, current, groundFirst ? measured : null);
    const writer = new TileWriter(work.tiles, current.document.files, recipe, folder, {
      hasher,
      encoding,
      png: pieces ?? {},
      map: current.document.map,
      lies: placeInWorld(work.geometry),
    });
    const writing = partOf(job, measured ? 0.5 : 0.2, 1);
    const { width } = work.geometry;
    let room = roomFor(encoding, 0);
    for await (const band of fittedGround(raster, work.fit).bands(job)) {
      checkpoint(job);
      const { y, rows } = band;
      if (room.length < rows * width) room = roomFor(encoding, rows * width);
      const codes = room.subarray(0, rows * width);
      record.add(band, codes);
      if (record.tally.voids > 0) throw voidRefusal(record.tally.voids, facts.file);
      await writer.write(y, codes, width);
      writing.report?.(y + rows, work.geometry.height);
    }
    const final = record.plan(facts);
    const document: PlanDocument = {
      ...final.document,
      files: final.document.files.map((f) => ({ ...f, sha256: writer.checksums.get(f.name) ?? '' })),
    };
    await writeText(folder, 'import.json', `${JSON.stringify(document, null, 2)}\n`);
    await writeText(folder, 'import.md', importPage(document, work.target));
    await writeText(folder, 'import.html', importPageHtml(document, work.target, record.picture(document)));
    await writeText(folder, 'recipe.json', `${JSON.stringify(recipe, null, 2)}\n`);
    await options.writeExtra?.(document);
    // all passes have seen the same bytes, or nothing is shown
    await counted.unchanged?.();
    checkpoint(job);
    await folder.commit();
    return document;
  } catch (reason) {
    await folder.abort();
    throw asLevelGridError(reason, 'writing the pack', 'facts' in source ? source.facts.file : source.name);
  }
}

async function writeText(folder: SinkFolder, name: string, text: string): Promise<void> {
  const sink = await folder.open(name);
  await sink.write(new TextEncoder().encode(text));
  await sink.close();
}
