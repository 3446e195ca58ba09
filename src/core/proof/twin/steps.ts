import { partOf, type JobContext } from '../../base';
import type { Recipe, Step } from '../../recipe';
import {
  ChangeCount,
  TWINS,
  type Rastered,
  type TwinChange,
  type TwinContext,
  type TwinOperation,
  type TwinStage,
  type TwinStep,
} from './operations';
import { onMapOf, type OnMap } from './on-map';
import { sourceStage, type Opened } from './samples';

/** What the twin has found of one step of the recipe. */
export interface WorkedStep {
  /** Its place in the recipe. */
  readonly index: number;
  readonly step: Step;
  readonly judged: TwinStep['judged'];
  /** What it changed, complete when all samples have been read; null where that is not counted. */
  readonly change: (() => TwinChange) | null;
}

/** The ground that enters the fit, worked out from the files step by step. */
export interface TwinGround {
  readonly stage: TwinStage;
  readonly steps: readonly WorkedStep[];
  /** Where its samples lie on the map that the source states; null where it states none, or none is left. */
  readonly onMap: OnMap | null;
}

/**
 * Does the steps of a recipe to its source a second time. `witnessOf`: what the pipeline made of a step, for those whose
 * result can only be judged; from there on it is what is read.
 */
export async function workOutSteps(
  opened: Opened,
  recipe: Recipe,
  witnessOf: (index: number) => Rastered,
  job: JobContext,
): Promise<TwinGround> {
  const { own, bitDepth, sampleType } = opened.info;
  const file = own ?? { bitDepth, sampleType };
  let stage = sourceStage(opened, recipe);
  const steps: WorkedStep[] = [];
  let { spacing } = recipe.source;
  for (const [index, step] of recipe.steps.entries()) {
    if (step.off) continue;
    const count = new ChangeCount();
    const context: TwinContext = {
      recipe,
      file,
      count,
      spacing,
      job: partOf(job, index / recipe.steps.length, (index + 1) / recipe.steps.length),
      get witness() {
        return witnessOf(index);
      },
    };
    const twin = TWINS[step.op] as TwinOperation;
    const found = await twin(stage, step, context);
    stage = found.stage;
    // of ground that is sampled no sooner than it is fitted: as fine as it was judged to be
    if (step.op === 'reproject') spacing = step.spacing === 'rung' ? (stage.georeference?.dx ?? spacing) : step.spacing;
    steps.push({ index, step, judged: found.judged, change: found.counts ? () => count.change : null });
  }
  return { stage, steps, onMap: onMapOf(stage, recipe.steps) };
}
