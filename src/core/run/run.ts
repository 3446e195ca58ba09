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
import type { PieceEncoder } from '../formats';
import { quantise, type QuantiseTally } from '../height';
import { boundsToCount, plan, type Plan, type PlanDocument } from '../plan';
import { GroundCollector, groundStatistics, type GroundStatistics } from '../raster';
import type { Recipe } from '../recipe';
import { fittedGround } from './fit';
import { importPage } from './import-page';
import { countSource, type CountedSource } from './source';
import { TileWriter } from './tile-writer';

export interface RunOptions {
  /** A SHA-256 to use; the portable one where none is given. */
  readonly hasher?: StartHasher;
  /** Encodes pieces of pictures elsewhere, so many at once. The bytes are the same. */
  readonly pieces?: { readonly encode: PieceEncoder; readonly inFlight: number };
}

/** The source's span in height samples: what a histogram of the ground is expected to fill. */
export function spanOf({ facts }: CountedSource, datum: number): { low: number; high: number } {
  return { low: (facts.stats?.min ?? 0) - datum, high: (facts.stats?.max ?? 0) - datum };
}

/** The plan with all statistics measured. */
export async function measuredPlan(recipe: Recipe, counted: CountedSource, job?: JobContext): Promise<Plan> {
  const first = plan(recipe, counted.facts, null);
  // what a target refuses needs no pixels to be refused
  if (first.refusals.length > 0) return first;
  const ground = await measureGround(recipe, counted, first, job);
  return plan(recipe, counted.facts, ground);
}

function measureGround(
  recipe: Recipe,
  counted: CountedSource,
  first: Plan,
  job?: JobContext,
): Promise<GroundStatistics> {
  const ground = fittedGround(counted.opened, recipe, first.work);
  return groundStatistics(ground, spanOf(counted, first.work.datum), boundsToCount(recipe, first.work), job);
}

/**
 * Writes the pack of a recipe: height files, `import.json`, `import.md` and `recipe.json`. Reads the source once to
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
    const counted = 'facts' in source ? source : await countSource(source, recipe.source.raw, partOf(job, 0, 0.2));
    let current = plan(recipe, counted.facts, null);
    if (current.refusals[0]) throw current.refusals[0];
    const groundFirst = recipe.height.range === 'ground';
    if (groundFirst) {
      const ground = await measureGround(recipe, counted, current, partOf(job, 0.2, 0.5));
      current = plan(recipe, counted.facts, ground);
    }
    const { work } = current;
    const collector = new GroundCollector(
      work.geometry.width,
      work.geometry.height,
      spanOf(counted, work.datum),
      boundsToCount(recipe, work),
    );
    const writer = new TileWriter(work.tiles, current.document.files, recipe, folder, hasher, pieces ?? {});
    const tally: QuantiseTally = { below: 0, above: 0, voids: 0 };
    const writing = partOf(job, groundFirst ? 0.5 : 0.2, 1);
    const { width } = work.geometry;
    let room = new Uint16Array(0);
    for await (const band of fittedGround(counted.opened, recipe, work).bands(job)) {
      checkpoint(job);
      const { y, rows } = band;
      collector.add(band);
      if (room.length < rows * width) room = new Uint16Array(rows * width);
      const codes = room.subarray(0, rows * width);
      quantise(codes, band.place ?? band.data, work.quantiser, tally);
      await writer.write(y, codes, width);
      writing.report?.(y + rows, work.geometry.height);
    }
    const final = plan(recipe, counted.facts, collector.result()).document;
    const document: PlanDocument = {
      ...final,
      files: final.files.map((f) => ({ ...f, sha256: writer.checksums.get(f.name) ?? '' })),
    };
    await writeText(folder, 'import.json', `${JSON.stringify(document, null, 2)}\n`);
    await writeText(folder, 'import.md', importPage(document, work.target));
    await writeText(folder, 'recipe.json', `${JSON.stringify(recipe, null, 2)}\n`);
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
