import { checkpoint, type JobContext } from '../base';
import type { Part, PlacedPart } from '../mosaic';
import type { ChangeTally } from '../operations';
import { AS_IT_LIES, oriented, type StageRaster } from '../operations';
import type { OpenRaster } from '../raster';
import { type Chain, type PlannedStep } from './plan';

/** A source as it is read: one raster, and where it is made of several files, these. */
export type ChainSource = OpenRaster & {
  readonly parts?: readonly Part[];
  readonly placed?: readonly PlacedPart[];
};

const startOf = (source: ChainSource): StageRaster => ({
  base: source,
  orientation: AS_IT_LIES,
  files: source.parts && source.placed ? { parts: source.parts, placed: source.placed } : null,
});

/** The raster of a stage, as it lies. */
export const rasterOf = ({ base, orientation }: StageRaster): OpenRaster => oriented(base, orientation);

/** What the fit reads: the raster of a stage as it lies, or what it is made metric of while it is fitted. */
const fittingOf = (stage: StageRaster): OpenRaster => stage.fitted ?? rasterOf(stage);

/** What is told of each step in the course of one complete pass over the last stage. */
export type Tallies = ReadonlyMap<PlannedStep, ChangeTally>;

/** The stages of a chain over its source, opened: nothing is computed before bands are asked for. */
export function openStages(source: ChainSource, chain: Chain, tallies?: Tallies): StageRaster[] {
  let input = startOf(source);
  const stages = [input];
  for (const step of chain.steps) {
    input = step.operation.open(input, step.resolved, step.before, tallies?.get(step));
    stages.push(input);
  }
  return stages;
}

/** What enters the fit. */
export interface OpenedEntering {
  /** As the fit reads it. */
  readonly fitting: OpenRaster;
  /** As it lies on its ground: the same, unless it is made metric while it is fitted. */
  readonly shown: OpenRaster;
}

export function openEntering(source: ChainSource, chain: Chain, tallies?: Tallies): OpenedEntering {
  const stage = openStages(source, chain, tallies).at(-1)!;
  const fitting = fittingOf(stage);
  return { fitting, shown: stage.fitted ? rasterOf(stage) : fitting };
}

/** What a step changed, by comparing the stages before and after it, sample by sample. */
export async function compareStages(
  before: OpenRaster,
  after: OpenRaster,
  tally: ChangeTally,
  job?: JobContext,
): Promise<void> {
  const was = before.bands(job?.signal ? { signal: job.signal } : undefined);
  const { width } = after.info;
  let band = await was.next();
  try {
    for await (const { y, rows, data } of after.bands(job)) {
      checkpoint(job);
      for (let r = 0; r < rows; r++) {
        while (!band.done && y + r >= band.value.y + band.value.rows) band = await was.next();
        if (band.done) return;
        const old = band.value.data;
        const from = (y + r - band.value.y) * width;
        for (let x = 0; x < width; x++) {
          const a = old[from + x] as number;
          const b = data[r * width + x] as number;
          if (a === b || (a !== a && b !== b)) continue;
          tally.add(b - a);
        }
      }
    }
  } finally {
    await was.return(undefined);
  }
}
