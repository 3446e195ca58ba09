import { checkpoint, partOf, type ByteSource, type JobContext, type LevelGridError } from '../../base';
import { fittedGround, openStages, planChain, rasterOf } from '../../chain';
import type { QuantiseTally } from '../../height';
import { plan, type PlanDocument } from '../../plan';
import { heightsOf, roomFor, type Codes, type GroundStatistics, type OpenRaster } from '../../raster';
import type { Recipe } from '../../recipe';
import {
  countAndEnter,
  GroundRecord,
  measureEntered,
  type CountedSource,
  type Entered,
  type ReadRaster,
} from '../../run';
import type { ErrorFigures, ErrorMap } from '../error-meter';
import { GroundErrorMeter } from './ground-error';

/*
 * The second part of a proof: all samples, compared with the very pipeline that writes packs. It shows that the files
 * hold what this pipeline gives, sample for sample; whether the pipeline is right is for the slow twin to say.
 */

/** The source, opened, and what enters the fit. */
export interface Reference {
  readonly file: string;
  readonly opened: ReadRaster;
  readonly counted: CountedSource;
  readonly entered: Entered;
  /** Metres from sample to sample of what enters the fit. */
  readonly spacing: number;
  /** What the pipeline made of a step of the recipe: null where there is none. */
  readonly stageAfter: (index: number) => OpenRaster | null;
}

export async function openReference(
  reference: ByteSource | CountedSource,
  recipe: Recipe,
  job?: JobContext,
): Promise<Reference> {
  const { counted, entered } = await countAndEnter(recipe, reference, job);
  const chain = planChain(recipe, counted.facts.info);
  const last = chain.steps.at(-1);
  return {
    file: counted.facts.file,
    opened: counted.opened,
    counted,
    entered,
    spacing: chain.entering.spacing,
    stageAfter: (index) => {
      const at = chain.steps.findIndex((s) => s.index === index);
      if (at < 0) return null;
      // what entered the fit may be at hand already
      if (chain.steps[at] === last) return entered.shown;
      const stage = openStages(counted.opened, chain)[at + 1];
      return stage ? rasterOf(stage) : null;
    },
  };
}

/** Rows of the whole from row `y`. Valid until the next band is requested. */
export interface PipelineBand {
  readonly y: number;
  readonly rows: number;
  /** Heights above the datum, and the codes that they are written as. */
  readonly ground: Float32Array;
  readonly codes: Codes;
}

/** The fitted ground as the pipeline makes it. */
export interface Pipeline {
  readonly width: number;
  readonly height: number;
  /** The stored value that heights are counted from. */
  readonly datum: number;
  bands(job: JobContext): AsyncGenerator<PipelineBand>;
  /** Clipped samples and voids so far. */
  readonly tally: Readonly<QuantiseTally>;
  /** Fitted ground against the source, when all bands have been seen; `unit`: metres of one stored unit. */
  groundError(): ErrorFigures;
  /** The document of the pack, when all bands have been seen; without checksums. */
  document(): PlanDocument;
  /** The picture of the ground on the page, likewise, as a PNG. */
  picture(): Uint8Array;
}

/** Why a recipe gives nothing from this source, or the ground that it gives. */
export async function openPipeline(
  recipe: Recipe,
  { entered }: Reference,
  options: { readonly unit: number; readonly map: ErrorMap | null },
  job: JobContext,
): Promise<{ readonly refusal: LevelGridError } | Pipeline> {
  let current = plan(recipe, entered.facts, null);
  let ground: GroundStatistics | null = null;
  if (current.refusals[0]) return { refusal: current.refusals[0] };
  if (recipe.height.range === 'ground') {
    ground = await measureEntered(recipe, entered, partOf(job, 0, 1));
    current = plan(recipe, entered.facts, ground);
    if (current.refusals[0]) return { refusal: current.refusals[0] };
  }
  const { work } = current;
  const { width, height } = work.geometry;
  const record = new GroundRecord(recipe, current, ground);
  const meter = new GroundErrorMeter(
    heightsOf(entered.shown, work.fit.datum),
    work.geometry,
    options.unit,
    options.map,
  );
  return {
    width,
    height,
    datum: work.fit.datum,
    get tally() {
      return record.tally;
    },
    document: () => record.plan(entered.facts).document,
    picture: () => record.picture(record.plan(entered.facts).document),
    async *bands(inner: JobContext) {
      const { encoding } = work.target;
      let room = roomFor(encoding, 0);
      try {
        for await (const band of fittedGround(entered.raster, work.fit).bands(inner)) {
          checkpoint(inner);
          const { y, rows } = band;
          if (room.length < rows * width) room = roomFor(encoding, rows * width);
          const codes = room.subarray(0, rows * width);
          record.add(band, codes);
          yield { y, rows, ground: band.data, codes };
          await meter.add(band);
          inner.report?.(y + rows, height);
        }
      } finally {
        await meter.close();
      }
    },
    groundError: () => meter.finish(),
  };
}
